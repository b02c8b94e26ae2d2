package dev.zeitkammer.cli.drawing;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.cli.output.Json;
import dev.zeitkammer.view.DiskSizes;
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

    private static final DiskSizes DISK =
            new DiskSizes("there, local", List.of()).and(BEGAN, 2_000_000).and(BEGAN.plusDays(2), 1_500_000);

    private static WarehouseState state(LoadStatus status, Optional<LocalDateTime> ended, String... changedByHand) {
        List<String> changed = List.of(changedByHand);
        LoadEntry load = new LoadEntry(7, "2026-03-01", status, BEGAN, ended, List.of(), List.of());
        return new WarehouseState(
                "<huts>",
                "local",
                BEGAN.plusHours(3),
                Optional.empty(),
                List.of(load),
                List.of(),
                List.of(),
                DISK,
                Optional.of(changed));
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
                .contains("On disk 1 MB, −500 kB since 2026-03-01 <svg", "; nobody but loads has changed a table")
                .doesNotContain("amiss");
        assertThat(html(state(LoadStatus.UNDONE, Optional.of(BEGAN.plusHours(1)))))
                .contains("<td>load 7 for 2026-03-01: undone</td>");
    }

    @Test
    void aLoadThatHasNotEndedRunsOrWasCutOff() {
        WarehouseState state = state(LoadStatus.RUNNING, Optional.empty());
        assertThat(html(state)).contains("<td>load 7 for 2026-03-01 runs, or was cut off, since 2026-03-01 02:00</td>");
        assertThat(OperationsData.of(List.of(state)).get("warehouses").toString())
                .contains("begun=7", "status=running", "done=,");
    }

    @Test
    void whatWasToldOfDisksIsReadAgain() {
        String told = Json.of(OperationsData.of(List.of(state(LoadStatus.DONE, Optional.empty()))));
        assertThat(OperationsData.disk(told, "there, local")).isEqualTo(DISK);
        assertThat(OperationsData.disk(told, "elsewhere, local").sizes()).isEmpty();
        assertThat(OperationsData.disk("{no", "there, local").sizes()).isEmpty();
    }

    @Test
    void whatSomebodyChangedIsLit() {
        assertThat(html(state(LoadStatus.DONE, Optional.of(BEGAN.plusHours(1)), "dim_hut", "dim_guest")))
                .contains(
                        "<td class=\"amiss\">nothing runs; changed by hand</td>",
                        "<span class=\"amiss\">changed by hand: dim_hut, dim_guest</span>");
    }
}
