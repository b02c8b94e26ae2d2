package dev.zeitkammer.load;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.staging.LoadDate;
import java.nio.file.Path;
import java.time.Clock;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** A rehearsal leaves what inputs remember, and what they retain, as it is; the load after it does not. */
class RehearsedInputsTest {

    @TempDir
    Path folder;

    @Test
    void whatInputsKeepIsAsItWas() {
        try (TestStar star = new TestStar(folder)
                .write("inputs/headers.yaml", "input: headers\nfiles: \"headers-{date}.csv\"\nkeep: {by: booking}\n")
                .write("inputs/lines.yaml", "input: lines\nfiles: \"lines-{date}.csv\"\n")
                .write(
                        "inputs/nights.yaml",
                        "input: nights\njoin: {from: lines, with: [{input: headers, by: booking}]}\nretain: true\n")
                .write("facts/stay.yaml", "fact: stay\nfrom: nights\ngrain: [booking, night]\ndegenerate: channel\n")
                .write("headers-2026-03-01.csv", "booking,channel\nb1,web\n")
                .write("lines-2026-03-01.csv", "booking,night\nb1,n1\n")
                .write("headers-2026-03-02.csv", "booking,channel\nb1,phone\nb2,desk\n")
                .write("lines-2026-03-02.csv", "booking,night\nb1,n2\nb2,n1\n")) {
            star.loaded("2026-03-01", "fact_stay");
            List<String> kept = List.of("b1|web");
            List<String> retained = List.of("b1|n1|web");
            assertThat(kept(star)).isEqualTo(kept);
            assertThat(retained(star)).isEqualTo(retained);
            assertThat(new Loader(star.project(), star.warehouse(), LoadListener.NONE, Clock.systemUTC())
                            .rehearse(LoadDate.parse("2026-03-02"), List.of())
                            .load()
                            .tables()
                            .get(0)
                            .counts())
                    .containsEntry("new", 2L);
            assertThat(kept(star)).isEqualTo(kept);
            assertThat(retained(star)).isEqualTo(retained);
            star.loaded("2026-03-02", "fact_stay");
            assertThat(kept(star)).containsExactly("b1|phone", "b2|desk");
            assertThat(retained(star)).containsExactly("b1|n2|phone", "b2|n1|desk");
        }
    }

    private static List<String> kept(TestStar star) {
        return star.rows("select booking, channel from " + staging(star) + ".headers order by booking");
    }

    private static List<String> retained(TestStar star) {
        return star.rows("select booking, night, channel from " + staging(star) + ".nights order by booking");
    }

    private static String staging(TestStar star) {
        return star.warehouse().dialect().quote(star.warehouse().stagingSchema());
    }
}
