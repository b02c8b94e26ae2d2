package dev.zeitkammer.fact;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.load.TestStar;
import dev.zeitkammer.verify.Verdict;
import dev.zeitkammer.verify.Verifier;
import java.nio.file.Path;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.io.TempDir;

/** A star of huts with history, guests, a calendar and stays; whatever a test does to it, every proof must hold in the end. */
abstract class StayStar {

    @TempDir
    Path folder;

    TestStar star;

    @BeforeEach
    final void project() {
        star = new TestStar(folder)
                .write("dimensions/hut.yaml", """
                        dimension: hut
                        from: {files: "huts-{date}.csv", columns: {since: date, beds: integer}}
                        key: code
                        attributes: {beds: type 2}
                        history: {effective: since}
                        """)
                .write("dimensions/guest.yaml", """
                        dimension: guest
                        from: {files: "guests-{date}.csv"}
                        key: guest_no
                        attributes: {name: type 1}
                        """)
                .write(
                        "dimensions/calendar.yaml",
                        "dimension: calendar\nkind: calendar\ndays: 2026-01-01..2026-12-31\n");
        huts("2026-03-01", "HA,2026-03-01,10\n");
        guests("2026-03-01", "1,Anna\n");
    }

    @AfterEach
    final void close() {
        assertThat(new Verifier(star.warehouse()).verify(star.project().definitions()))
                .filteredOn(verdict -> !verdict.holds())
                .as("proofs that fail")
                .extracting(Verdict::claim)
                .isEmpty();
        star.close();
    }

    final void huts(String date, String rows) {
        star.write("huts-" + date + ".csv", "code,since,beds\n" + rows);
    }

    final void guests(String date, String rows) {
        star.write("guests-" + date + ".csv", "guest_no,name\n" + rows);
    }

    final void stays(String date, String rows) {
        star.write("stays-" + date + ".csv", "no,code,guest_no,payer_no,night_on,paid,status\n" + rows);
    }

    final void fact(String lookups, String more) {
        star.write("facts/stay.yaml", """
                fact: stay
                from:
                  files: "stays-{date}.csv"
                  columns: {code: varchar, guest_no: integer, payer_no: integer, night_on: date, paid: integer, status: varchar}
                grain: no
                lookups: {%s}
                measures: {paid: integer}
                %s""".formatted(lookups, more));
    }

    final TableEntry loaded(String date) {
        return star.loaded(date, "fact_stay");
    }
}
