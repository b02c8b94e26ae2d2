package dev.zeitkammer.staging;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.time.DateTimeException;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** The date of a load, or its moment. */
class LoadDateTest {

    @Test
    void standsInPathsByDayAndTime() {
        assertThat(LoadDate.parse("2026-03-01T14:05").in("x/{date}/huts-{time}.csv"))
                .isEqualTo("x/2026-03-01/huts-1405.csv");
        assertThat(LoadDate.parse("2026-03-01").in("{date}-{time}-{date}")).isEqualTo("2026-03-01-0000-2026-03-01");
    }

    /** The books keep the text, and compare texts to find the newest. */
    @Test
    void laterOnesHaveGreaterTexts() {
        List<String> inOrder = List.of(
                "2026-03-01",
                "2026-03-01T00:00:00.000001",
                "2026-03-01T09:30",
                "2026-03-01T09:30:00.5",
                "2026-03-01T09:30:01",
                "2026-03-01T14:00",
                "2026-03-02");
        assertThat(inOrder.stream().map(LoadDate::parse).map(LoadDate::toString))
                .isSorted();
    }

    @Test
    void midnightIsTheDay() {
        assertThat(LoadDate.parse("2026-03-01T00:00")).hasToString("2026-03-01");
        assertThat(LoadDate.parse("2026-03-01 14:00")).hasToString("2026-03-01T14:00");
    }

    @ParameterizedTest
    @ValueSource(strings = {"", "yesterday", "2026-02-30", "01.03.2026", "2026-03-01T25:00", "2026-03-01T", "2026-3-1"})
    void nonsenseIsRefused(String text) {
        assertThatThrownBy(() -> LoadDate.parse(text)).isInstanceOf(DateTimeException.class);
    }
}
