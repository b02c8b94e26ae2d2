package dev.zeitkammer.profile;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.zeitkammer.load.TestStar;
import dev.zeitkammer.profile.Drafting.Drafted;
import dev.zeitkammer.profile.Drafting.Kind;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Optional;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Profiles, and the definitions that are drafted from them: each must load as it stands. */
@Tag("slow")
class DraftingTest {

    @TempDir
    Path folder;

    private TestStar star;

    @BeforeEach
    void star() {
        star = new TestStar(folder);
    }

    @AfterEach
    void close() {
        star.close();
    }

    private Drafted draft(Kind kind, String name, String from) {
        return new Drafting(star.project(), star.warehouse()).draft(kind, name, from, Optional.empty(), folder);
    }

    private String text(Drafted drafted) {
        try {
            return Files.readString(drafted.file());
        } catch (IOException unreadable) {
            throw new IllegalStateException(unreadable);
        }
    }

    @Test
    void profilesWhatEveryColumnHolds() {
        star.write("huts.csv", "code,beds,opened,note\nA,12,1999-01-01,\nB,,2001-05-05,\nCC,30,2001-05-05,\n");
        Profile profile = draft(Kind.DIMENSION, "hut", "huts.csv").profile();
        assertThat(profile.rows()).isEqualTo(3);
        ColumnProfile beds = profile.column("beds");
        assertThat(beds.nulls()).isEqualTo(1);
        assertThat(beds.distinct()).isEqualTo(2);
        assertThat(beds.least()).isEqualTo("12");
        assertThat(beds.greatest()).isEqualTo("30");
        ColumnProfile code = profile.column("code");
        assertThat(List.of(code.shortest(), code.longest())).containsExactly(1L, 2L);
        assertThat(profile.column("note").distinct()).isZero();
        assertThat(profile.column("opened").few()).containsExactly("1999-01-01", "2001-05-05");
        assertThat(profile.keys()).containsExactly(List.of("code"));
        assertThat(profile.remark(code)).isEqualTo("key");
    }

    @Test
    void findsKeysOfTwoAndThreeColumns() {
        star.write("pairs.csv", "system,code,x\nn,1,5\nn,2,5\ns,1,5\ns,2,5\n");
        assertThat(draft(Kind.DIMENSION, "pair", "pairs.csv").profile().keys())
                .containsExactly(List.of("code", "system"));
        StringBuilder triples = new StringBuilder("a,b,c,d\n");
        for (int row = 0; row < 27; row++) {
            triples.append("%d,%d,%d,1\n".formatted(row % 3, row / 3 % 3, row / 9));
        }
        star.write("triples.csv", triples.toString());
        assertThat(draft(Kind.FACT, "triple", "triples.csv").profile().keys()).containsExactly(List.of("a", "b", "c"));
        star.loaded("2026-03-01", "fact_triple");
        assertThat(star.rows("select count(*) from fact_triple")).containsExactly("27");
    }

    @Test
    void takesTheDateOfChangeOutOfTheKey() {
        star.write(
                "huts.csv",
                "hut_no,changed_at,kind\n1,2026-01-01 10:00:00,a\n1,2026-02-01 10:00:00,b\n2,2026-01-01 10:00:00,a\n2,2026-02-01 10:00:00,a\n");
        assertThat(text(draft(Kind.DIMENSION, "hut", "huts.csv")))
                .contains("key: hut_no", "with changed_at it tells all rows apart", "effective: changed_at");
        star.loaded("2026-03-01", "dim_hut");
        assertThat(star.rows("select count(*) from dim_hut where hut_no = 1")).containsExactly("2");
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            quoteCharacter = '`',
            value = {
                "is_removed|N|Y|is_removed = 'Y'",
                "is_removed|0|1|is_removed = 1",
                "is_removed|false|true|is_removed",
                "status|A|X|status = 'X'"
            })
    void marksOfDeletionAreKnown(String column, String no, String yes, String when) {
        String some = "code," + column + "\nA," + no + "\nB," + yes + "\nC," + no + "\n";
        star.write("huts.csv", some);
        assertThat(text(draft(Kind.DIMENSION, "hut", "huts.csv")).replace("\\\"", ""))
                .contains("deletions: {when: \"" + when + "\"}");
        star.write("huts.csv", some.replace("B," + yes, "B," + no));
        star.loaded("2026-03-01", "dim_hut");
        star.write("huts.csv", some);
        star.loaded("2026-03-02", "dim_hut");
        assertThat(star.rows("select code from dim_hut where is_deleted and hut_key > 0"))
                .containsExactly("B");
    }

    @Test
    void amountsThatDifferByChanceAreNoKeys() {
        star.write("huts.csv", "beds,hut_code,changed_on\n10,A,2026-01-01\n12,A,2026-02-01\n14,B,2026-01-01\n");
        assertThat(text(draft(Kind.DIMENSION, "hut", "huts.csv"))).contains("key: hut_code", "effective: changed_on");
        star.loaded("2026-03-01", "dim_hut");
        assertThat(star.rows("select beds from dim_hut where hut_key > 0 order by hut_code"))
                .containsExactly("12", "14");
    }

    @Test
    void codesWithZerosBeforeThemAreNoDecimals() {
        star.write("huts.csv", "code;height\n007;1.200,5\n010;980,0\n");
        assertThat(text(draft(Kind.DIMENSION, "hut", "huts.csv"))).contains("decimal: \",\", thousands: \".\"");
        star.loaded("2026-03-01", "dim_hut");
        assertThat(star.rows("select code, height from dim_hut where hut_key > 0 order by code"))
                .containsExactly("007|1200.5", "010|980.0");
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "code;name\\nA;Hütte\\n|utf-8|csv: {delimiter: \";\"}",
                "code,name\\nA,Hütte\\n|latin-1|csv: {encoding: latin-1}",
                "code;since\\nA;1.3.2026\\nB;31.12.1999\\n|utf-8|csv: {delimiter: \";\", date-format: \"d.M.yyyy\"}",
                "code;since\\nA;01.03.2026\\nB;31.12.1999\\n|utf-8|csv: {delimiter: \";\", date-format: \"dd.MM.yyyy\"}",
                "code;since\\nA;01/03/2026\\nB;31/12/1999\\n|utf-8|csv: {delimiter: \";\", date-format: \"dd/MM/yyyy\"}",
                "code;since\\nA;1/3/2026\\nB;12/31/1999\\n|utf-8|csv: {delimiter: \";\", date-format: \"M/d/yyyy\"}",
                "code;since\\nA;01/03/2026\\nB;02/04/1999\\n|utf-8|csv: {delimiter: \";\"}",
                "code;at\\nA;31/03/2026 07:30\\n|utf-8|csv: {delimiter: \";\", timestamp-format: \"dd/MM/yyyy HH:mm\"}",
                "code;at\\nA;01.03.2026 07:30\\n|utf-8|csv: {delimiter: \";\", timestamp-format: \"dd.MM.yyyy HH:mm\"}",
                "code,name\\nA,Hütte\\n|utf-16|csv: {encoding: utf-16}"
            },
            quoteCharacter = '`')
    void writesDownTheFormOfAFile(String text, String encoding, String form) {
        write(text.replace("\\n", "\n"), encoding);
        String definition = text(draft(Kind.DIMENSION, "hut", "huts.csv"));
        assertThat(definition).contains(form);
        assertThat(definition.contains("as: date") || definition.contains("as: timestamp"))
                .as("dates are dates")
                .isEqualTo(form.contains("-format"));
        star.loaded("2026-03-01", "dim_hut");
    }

    private void write(String text, String encoding) {
        star.write(
                "huts.csv",
                text.getBytes(
                        switch (encoding) {
                            case "latin-1" -> StandardCharsets.ISO_8859_1;
                            case "utf-16" -> StandardCharsets.UTF_16;
                            default -> StandardCharsets.UTF_8;
                        }));
    }

    @Test
    void findsKeysOfDimensionsByTheirValues() {
        star.write(
                "dimensions/hut.yaml",
                "dimension: hut\nfrom: {files: huts.csv}\nkey: code\nattributes: {name: type 2}\n");
        StringBuilder huts = new StringBuilder("code,name\n");
        StringBuilder stays = new StringBuilder("stay_no,place,night\n");
        for (int number = 0; number < 30; number++) {
            huts.append("H%d,Hut %d\n".formatted(number, number));
            stays.append("%d,H%d,2026-03-0%d\n".formatted(number, number % 20, 1 + number % 3));
        }
        star.write("huts.csv", huts.toString()).write("stays.csv", stays.toString());
        star.loaded("2026-03-01", "dim_hut");
        Drafted drafted = draft(Kind.FACT, "stay", "stays.csv");
        assertThat(text(drafted))
                .contains("hut: {dimension: hut, match: {code: place}, as-of: night}", "grain: stay_no")
                .contains("values of place look like keys of hut");
        star.loaded("2026-03-01", "fact_stay");
        assertThat(star.rows("select count(*) from fact_stay where hut_key > 0"))
                .containsExactly("30");
    }

    @Test
    void draftsFromTablesAndInputs() {
        star.warehouse().execute("create table hut_source as select 1 as id, 'x' as \"Odd Name\", false as is_deleted");
        assertThat(text(draft(Kind.DIMENSION, "place", "hut_source")))
                .contains("table: \"hut_source\"", "\"Odd Name\": type 1", "source_is_deleted");
        star.write("inputs/spots.yaml", "input: spots\nquery: select id + 1 as id, 'y' as title from hut_source\n");
        assertThat(text(draft(Kind.DIMENSION, "spot", "spots"))).contains("from: spots", "key: ");
        star.loaded("2026-03-01", "dim_place");
        assertThat(star.rows("select \"Odd Name\" from dim_place where id = 1")).containsExactly("x");
    }

    @Test
    void refusesWhatItCannotDraft() {
        star.write("huts.csv", "code\nA\n");
        draft(Kind.DIMENSION, "hut", "huts.csv");
        assertThatThrownBy(() -> draft(Kind.DIMENSION, "hut", "huts.csv")).hasMessageContaining("already");
        assertThatThrownBy(() -> draft(Kind.DIMENSION, "a b", "huts.csv")).hasMessageContaining("cannot be a name");
        assertThatThrownBy(() -> draft(Kind.FACT, "x", "deliveries/x.csv")).hasMessageContaining("There is no file");
        assertThatThrownBy(() -> draft(Kind.FACT, "x", "no_table")).hasMessageContaining("no_table");
        assertThatThrownBy(() -> new Drafting(star.project(), star.warehouse())
                        .draft(Kind.FACT, "x", "t", Optional.of("office"), folder))
                .hasMessageContaining("There is no database \"office\"");
    }

    /** What may be thousands or decimals stays text, with the question; what can be one of them only is it. */
    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "1,234;12,345;999 | # paid stays text: is 1,234 1234 or 1.234?",
                "1,234;1,234,567 | csv: {thousands: \",\"}",
                "1,234.50;12,345.75 | csv: {thousands: \",\"}",
                "1,5;12,25;3,125 | csv: {decimal: \",\"}"
            })
    void aCommaIsNotTakenForWhatItMayNotBe(String values, String said) {
        StringBuilder rows = new StringBuilder("no,paid\n");
        int no = 0;
        for (String value : values.split(";")) {
            rows.append(++no).append(",\"").append(value).append("\"\n");
        }
        star.write("paid.csv", rows.toString());
        assertThat(text(draft(Kind.FACT, "payment", "paid.csv"))).contains(said);
        assertThat(star.loaded("2026-03-01", "fact_payment").count("setAside")).isZero();
    }
}
