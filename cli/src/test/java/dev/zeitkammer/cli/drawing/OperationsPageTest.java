package dev.zeitkammer.cli.drawing;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.view.WarehouseState;
import java.time.LocalDateTime;
import java.util.List;
import java.util.Optional;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/** What of a warehouse is lit, and in which words it is told. */
class OperationsPageTest {

    private static final LocalDateTime BEGAN = LocalDateTime.of(2026, 3, 1, 2, 0);

    private static WarehouseState state(LoadStatus status, Optional<LocalDateTime> ended) {
        LoadEntry load = new LoadEntry(7, "2026-03-01", status, BEGAN, ended, List.of(), List.of());
        return new WarehouseState(
                "<huts>", "local", BEGAN.plusHours(3), Optional.empty(), List.of(load), List.of(), List.of());
    }

    private static String html(WarehouseState state) {
        return new OperationsPage(List.of(state)).html();
    }

    @ParameterizedTest
    @EnumSource(
            value = LoadStatus.class,
            names = {"FAILED", "STOPPED"})
    void aNewestLoadThatDidNotEndWellIsLit(LoadStatus status) {
        assertThat(html(state(status, Optional.of(BEGAN.plusMinutes(1)))))
                .contains("<td class=\"amiss\">load 7 for 2026-03-01: " + status.word() + "</td><td>none</td>");
    }

    @Test
    void whatWasDoneOrTakenBackIsNot() {
        assertThat(html(state(LoadStatus.DONE, Optional.of(BEGAN.plusHours(1)))))
                .contains("<td>nothing runs</td><td>load 7 for 2026-03-01, 2 hours ago</td>", "&lt;huts&gt;")
                .doesNotContain("amiss");
        assertThat(html(state(LoadStatus.UNDONE, Optional.of(BEGAN.plusHours(1)))))
                .contains("<td>load 7 for 2026-03-01: undone</td>");
    }

    @Test
    void aLoadThatHasNotEndedRunsOrWasCutOff() {
        WarehouseState state = state(LoadStatus.RUNNING, Optional.empty());
        assertThat(html(state)).contains("<td>load 7 for 2026-03-01 runs, or was cut off, since 2026-03-01 02:00</td>");
        assertThat(new OperationsPage(List.of(state)).data().get("warehouses").toString())
                .contains("begun=7", "status=running", "done=,");
    }
}
