package dev.zeitkammer.view;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.view.DiskSizes.Growth;
import dev.zeitkammer.view.DiskSizes.Size;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.util.List;
import org.junit.jupiter.api.Test;

/** What is remembered of disks, and what follows. */
class DiskSizesTest {

    private static final LocalDateTime FIRST = LocalDateTime.of(2026, 3, 1, 2, 0);

    private static DiskSizes days(int number) {
        DiskSizes sizes = new DiskSizes("huts, local", List.of());
        for (int day = 0; day < number; day++) {
            sizes = sizes.and(FIRST.plusDays(day), 1000 + 10L * day);
        }
        return sizes;
    }

    @Test
    void aDayHasOneSizeItsNewest() {
        assertThat(days(1).and(FIRST.plusHours(21).plusMinutes(59), 7).sizes())
                .containsExactly(new Size(FIRST.plusHours(21).plusMinutes(59), 7));
        assertThat(days(1).and(FIRST.plusHours(22), 7).sizes())
                .containsExactly(new Size(FIRST, 1000), new Size(FIRST.plusHours(22), 7));
    }

    @Test
    void ninetyDaysAreRemembered() {
        assertThat(days(90).sizes()).hasSize(90).startsWith(new Size(FIRST, 1000));
        assertThat(days(91).sizes()).hasSize(90).startsWith(new Size(FIRST.plusDays(1), 1010));
    }

    @Test
    void growthIsThatOfThirtyDaysOrOfThoseThatAreThere() {
        assertThat(new DiskSizes("huts, local", List.of()).growth()).isEmpty();
        assertThat(days(1).growth()).isEmpty();
        assertThat(days(2).growth()).contains(new Growth(LocalDate.of(2026, 3, 1), 10));
        assertThat(days(31).growth()).contains(new Growth(LocalDate.of(2026, 3, 1), 300));
        assertThat(days(32).growth()).contains(new Growth(LocalDate.of(2026, 3, 2), 300));
        assertThat(days(2).and(FIRST.plusDays(60), 500).growth())
                .as("nothing of the thirty days before")
                .isEmpty();
        assertThat(days(2).and(FIRST.plusDays(2), 900).growth()).contains(new Growth(LocalDate.of(2026, 3, 1), -100));
    }
}
