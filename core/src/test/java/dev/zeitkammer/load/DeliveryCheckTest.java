package dev.zeitkammer.load;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.books.TableEntry;
import java.nio.file.Path;
import java.time.Clock;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.List;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** What is found before a load is what the load then counts. */
class DeliveryCheckTest {

    @TempDir
    Path folder;

    private TestStar star;

    @BeforeEach
    void emptyStar() {
        star = new TestStar(folder);
    }

    @AfterEach
    void close() {
        star.close();
    }

    private List<String> found() {
        Clock clock = Clock.fixed(Instant.parse("2026-03-01T12:00:00Z"), ZoneOffset.UTC);
        return new Checker(star.project(), star.warehouse(), clock)
                .check().findings().stream()
                        .map(Checker.Finding::text)
                        .filter(text -> text.matches("\\d+ row.*"))
                        .toList();
    }

    @Test
    void rowsOfADimension() {
        star.write("dimensions/hut.yaml", """
                        dimension: hut
                        from: {files: "huts.csv", assert: [{name: name, rows: "name <> 'none'"}]}
                        key: {code: "upper(hut)"}
                        attributes: {name: type 1, beds: {type: 2, take: beds_txt, as: integer}}
                        history: {effective: since}
                        """).write("huts.csv", """
                        hut,name,beds_txt,since
                        adl,Adlerhorst,many,2026-01-01
                        ber,Bergli,12,2026-01-01
                        BER,Bergli,13,2026-01-01
                        Ber,Bergli,13,2026-01-01
                        can,Canova,5,2026-01-01
                        can,Canova,5,2026-01-01
                        ,Dorf,5,2026-01-01
                        eig,none,5,2026-01-01
                        fir,Firn,5,2026-03-02
                        """);
        assertThat(found())
                .containsExactly(
                        "3 rows with the same key (code, since) and different values; they would be set aside",
                        "1 row repeats another one",
                        "1 row with a value in beds that its type cannot hold, such as \"many\"; they would be set aside",
                        "1 row without a value in the key (code); they would be set aside",
                        "1 row: fails an assertion (name); they would be set aside",
                        "1 row with a date in since that is still to come; as of then they would hold");
        TableEntry entry = star.loaded("2026-03-01", "dim_hut");
        assertThat(entry.count("setAside")).isEqualTo(6);
        assertThat(entry.count("repeated")).isEqualTo(1);
        assertThat(found()).as("the same where the table is there").hasSize(6);
    }

    @Test
    void rowsOfAFact() {
        star.write("facts/stay.yaml", """
                        fact: stay
                        from: {files: "stays.csv"}
                        grain: no
                        measures: {paid: integer, half: {as: integer, take: "paid_txt"}}
                        """).write("stays.csv", "no,paid,paid_txt\n1,2,x\n2,3,4\n2,4,4\n3,5,6\n3,5,6\n");
        assertThat(found())
                .containsExactly(
                        "2 rows with the same key (no) and different values; they would be set aside",
                        "1 row repeats another one",
                        "1 row with a value in half that its type cannot hold, such as \"x\"; they would be set aside");
        TableEntry entry = star.loaded("2026-03-01", "fact_stay");
        assertThat(entry.count("setAside")).isEqualTo(3);
    }
}
