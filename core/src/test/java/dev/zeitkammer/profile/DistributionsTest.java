package dev.zeitkammer.profile;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.load.TestStar;
import dev.zeitkammer.profile.Distributions.Bar;
import dev.zeitkammer.profile.Distributions.Spread;
import java.nio.file.Path;
import java.time.LocalDate;
import java.util.List;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** How values are spread. */
class DistributionsTest {

    @TempDir
    Path folder;

    private Spread spread(TestStar star, String column) {
        Profile profile = new Profiler(star.project(), star.warehouse())
                .of(star.project().inputs().get(0))
                .orElseThrow();
        return new Distributions(star.warehouse()).of(profile.column(column));
    }

    @Test
    void numbersAndMomentsAreInClassesAndEveryRowIsInOne() {
        String rows = IntStream.rangeClosed(1, 240)
                .mapToObj(no ->
                        no + "," + no / 4.0 + "," + LocalDate.of(2026, 1, 1).plusDays(no) + "," + "2026-01-01 00:00:"
                                + String.format("%02d", no % 60) + "," + (no % 3 == 0 ? "" : "text " + no % 20))
                .collect(Collectors.joining("\n"));
        try (TestStar star = new TestStar(folder)
                .write("inputs/some.yaml", "input: some\nfiles: some.csv\n")
                .write("some.csv", "no,paid,day,moment,word\n" + rows + "\n")) {
            for (String column : List.of("no", "paid", "day", "moment")) {
                Spread spread = spread(star, column);
                assertThat(spread.isOrdered()).as(column).isTrue();
                assertThat(spread.bars()).as(column).hasSize(12);
                assertThat(spread.bars().stream().mapToLong(Bar::rows).sum())
                        .as(column)
                        .isEqualTo(240);
            }
            assertThat(spread(star, "no").bars().get(0)).isEqualTo(new Bar("1 – 21", 20));
            assertThat(spread(star, "day").bars().get(11).label()).endsWith("2026-08-29");
        }
    }

    @Test
    void textsAndFewValuesAreShownByFrequency() {
        try (TestStar star = new TestStar(folder)
                .write("inputs/some.yaml", "input: some\nfiles: some.csv\n")
                .write("some.csv", "word,none\nb,\na,\na,\n,\nit's,\n")) {
            assertThat(spread(star, "word").bars())
                    .containsExactly(new Bar("a", 2), new Bar("b", 1), new Bar("it's", 1));
            assertThat(spread(star, "none").bars()).isEmpty();
        }
    }
}
