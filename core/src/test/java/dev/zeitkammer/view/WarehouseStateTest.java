package dev.zeitkammer.view;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.books.Journal.WaitingRows;
import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.view.WarehouseState.TableState;
import java.time.Duration;
import java.time.LocalDateTime;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.junit.jupiter.api.Test;

/** What follows from past loads: what is usual, what is slow, what is overdue, what runs. */
class WarehouseStateTest {

    private static final LocalDateTime BEGAN = LocalDateTime.of(2026, 3, 1, 2, 0);

    private final List<LoadEntry> loads = new ArrayList<>();

    private void load(LocalDateTime began, LoadStatus status, Optional<LocalDateTime> ended, double seconds) {
        TableEntry entry = new TableEntry(
                "dim_guest",
                "dimension",
                status,
                seconds,
                0,
                0,
                Map.of(),
                Map.of(),
                List.of(),
                List.of(),
                Optional.empty());
        loads.add(new LoadEntry(loads.size() + 1, "2026-03-01", status, began, ended, List.of(entry), List.of()));
    }

    private void nights(int number, Duration pause) {
        for (int night = 0; night < number; night++) {
            LocalDateTime began = BEGAN.plus(pause.multipliedBy(night));
            load(began, LoadStatus.DONE, Optional.of(began.plusMinutes(5)), 2);
        }
    }

    private WarehouseState at(LocalDateTime at) {
        return new WarehouseState(
                "huts",
                "local",
                at,
                Optional.empty(),
                loads,
                List.of(new WaitingRows("dim_guest", 3, "2026-02-27")),
                List.of(),
                new DiskSizes("huts, local", List.of()),
                Optional.empty());
    }

    @Test
    void aLoadIsOverdueOnceItIsMoreThanHalfAPauseLate() {
        nights(4, Duration.ofDays(1));
        LocalDateTime ended = BEGAN.plusDays(3).plusMinutes(5);
        assertThat(at(ended).usualPause()).contains(Duration.ofDays(1));
        assertThat(at(ended.plusHours(36)).isOverdue()).isFalse();
        assertThat(at(ended.plusHours(36).plusSeconds(1)).isOverdue()).isTrue();
        assertThat(at(ended.plusHours(36)).age()).contains(Duration.ofHours(36));
    }

    @Test
    void threeLoadsTellNothingAndNeitherDoThoseThatCatchUp() {
        nights(3, Duration.ofDays(1));
        assertThat(at(BEGAN.plusYears(1)).isOverdue()).isFalse();
        loads.clear();
        nights(9, Duration.ofMinutes(10).minusSeconds(1));
        assertThat(at(BEGAN.plusYears(1)).usualPause()).isEmpty();
        assertThat(at(BEGAN.plusYears(1)).isOverdue()).isFalse();
        loads.clear();
        nights(9, Duration.ofMinutes(10));
        assertThat(at(BEGAN.plusYears(1)).isOverdue()).isTrue();
    }

    @Test
    void aLoadThatFailedCountsForNothingThatIsUsual() {
        nights(4, Duration.ofDays(1));
        load(BEGAN.plusDays(4), LoadStatus.FAILED, Optional.of(BEGAN.plusDays(4).plusMinutes(1)), 900);
        WarehouseState state = at(BEGAN.plusDays(5));
        assertThat(state.newest().orElseThrow().load()).isEqualTo(5);
        assertThat(state.newestDone().orElseThrow().load()).isEqualTo(4);
        assertThat(state.age()).contains(Duration.ofDays(2).minusMinutes(5));
        load(BEGAN.plusDays(5), LoadStatus.DONE, Optional.of(BEGAN.plusDays(6)), 4);
        TableState table = at(BEGAN.plusDays(6)).tables().get(0);
        assertThat(table.usual()).contains(2.0);
        assertThat(table.isSlow()).isFalse();
        assertThat(table.waiting()).contains(new WaitingRows("dim_guest", 3, "2026-02-27"));
        load(BEGAN.plusDays(7), LoadStatus.DONE, Optional.of(BEGAN.plusDays(8)), 4.1);
        assertThat(at(BEGAN.plusDays(8)).tables().get(0).isSlow()).isTrue();
    }

    @Test
    void whatTakesASecondIsNeverSlow() {
        assertThat(WarehouseState.isSlow(1, Optional.of(0.1))).isFalse();
        assertThat(WarehouseState.isSlow(1.01, Optional.of(0.1))).isTrue();
        assertThat(WarehouseState.isSlow(100, Optional.empty())).isFalse();
    }

    @Test
    void whatHasBegunAndNotEndedRunsUntilAnotherBegan() {
        nights(1, Duration.ofDays(1));
        assertThat(at(BEGAN.plusDays(1)).begun()).isEmpty();
        load(BEGAN.plusDays(1), LoadStatus.RUNNING, Optional.empty(), 0);
        assertThat(at(BEGAN.plusDays(1)).begun().orElseThrow().load()).isEqualTo(2);
        load(BEGAN.plusDays(2), LoadStatus.DONE, Optional.of(BEGAN.plusDays(3)), 1);
        assertThat(at(BEGAN.plusDays(3)).begun()).isEmpty();
    }
}
