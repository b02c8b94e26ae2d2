package dev.zeitkammer.staging;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.load.Preview;
import dev.zeitkammer.load.TestStar;
import java.nio.file.Path;
import java.time.Clock;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Inputs that are tables, queries and joins of other inputs. */
class MadeOfOthersTest {

    private static final String DAY = "2026-03-01";

    @TempDir
    Path folder;

    private TestStar star;

    @BeforeEach
    void star() {
        star = new TestStar(folder)
                .write("inputs/nights.yaml", "input: nights\nfiles: nights.csv\n")
                .write("inputs/bookings.yaml", "input: bookings\nfiles: bookings.csv\ncolumns: {persons: integer}\n")
                .write("inputs/tariffs.yaml", "input: tariffs\nfiles: tariffs.csv\nwhere: \"valid = 'y'\"\n")
                .write("nights.csv", "booking_no,night_no,tariff,note\n1,1,A,x\n1,2,B,\n2,1,Z,\n9,1,A,\n")
                .write("bookings.csv", "booking_no,persons,note\n1,2,first\n2,3,second\n3,many,third\n")
                .write("tariffs.csv", "code,rate,valid\nA,10.50,y\nB,20.00,y\nZ,99.00,n\n");
    }

    @AfterEach
    void close() {
        star.close();
    }

    private void fact(String from) {
        star.write("facts/night.yaml", """
                fact: night
                from: %s
                grain: [booking_no, night_no]
                degenerate: [note, bookings_note]
                measures:
                  persons: integer
                  paid: {as: "decimal(10,2)", take: "persons * rate"}
                """.formatted(from));
    }

    private void join() {
        star.write("inputs/booking_nights.yaml", """
                input: booking_nights
                join:
                  from: nights
                  with:
                    - {input: bookings, by: booking_no}
                    - {input: tariffs, by: "nights.tariff = tariffs.code", optional: true}
                """);
        fact("booking_nights");
    }

    @Test
    void joinsInputsAndKeepsThePlaceOfEachRow() {
        join();
        TableEntry entry = star.loaded(DAY, "fact_night");
        assertThat(
                        star.rows(
                                "select booking_no, night_no, note, bookings_note, persons, paid from fact_night order by 1, 2"))
                .containsExactly("1|1|x|first|2|21.00", "1|2|null|first|2|40.00", "2|1|null|second|3|null");
        assertThat(entry.counts()).containsEntry("staged", 5L).containsEntry("setAside", 2L);
        assertThat(star.setAside())
                .containsExactlyInAnyOrder(
                        "bad value|persons|many|4|3,many,third", "no partner|bookings|null|5|9,1,A,");
        star.write("nights.csv", "booking_no,night_no,tariff,note\n1,1,A,x\n1,1,A,other\n");
        star.loaded(DAY, "fact_night");
        assertThat(star.setAside())
                .contains(
                        "conflicting duplicate|booking_no, night_no|null|2|1,1,A,x",
                        "conflicting duplicate|booking_no, night_no|null|3|1,1,A,other");
    }

    @Test
    void rowsWithoutAPartnerAreLeftOutWhereThatIsSaid() {
        join();
        star.write("inputs/booking_nights.yaml", """
                input: booking_nights
                join:
                  from: nights
                  with:
                    - {input: bookings, by: booking_no, without-partner: leave-out}
                    - {input: tariffs, by: "nights.tariff = tariffs.code"}
                """);
        TableEntry entry = star.loaded(DAY, "fact_night");
        assertThat(entry.counts()).containsEntry("new", 2L).containsEntry("staged", 4L);
        assertThat(star.setAside())
                .containsExactlyInAnyOrder("bad value|persons|many|4|3,many,third", "no partner|tariffs|null|4|2,1,Z,");
    }

    @Test
    void joinsByAnExpressionOverTheFirstInput() {
        join();
        star.write("inputs/booking_nights.yaml", """
                input: booking_nights
                join:
                  from: nights
                  with:
                    - {input: bookings, by: booking_no}
                    - input: tariffs
                      by: {code: "case when booking_no = 2 then error('no') else upper(trim(tariff)) end"}
                      optional: true
                """);
        star.write("nights.csv", "booking_no,night_no,tariff,note\n1,1,\" a \",x\n1,2,b,\n2,1,Z,\n");
        star.loaded(DAY, "fact_night");
        assertThat(star.rows("select booking_no, night_no, paid from fact_night order by 1, 2"))
                .containsExactly("1|1|21.00", "1|2|40.00");
        assertThat(star.setAside())
                .contains(
                        "bad value|case when booking_no = 2 then error('no') else upper(trim(tariff)) end|null|4|2,1,Z,");
    }

    /** Both systems write the code in their own way; a row of the joined input that cannot compute its own is nobody's partner. */
    @Test
    void joinsByExpressionsOnBothSides() {
        join();
        star.write("inputs/booking_nights.yaml", """
                input: booking_nights
                join:
                  from: nights
                  with:
                    - {input: bookings, by: booking_no}
                    - input: tariffs
                      by: {"case when code = 'x' then error('no') else lower(trim(code)) end": "lower(trim(tariff))"}
                      optional: true
                """);
        star.write("nights.csv", "booking_no,night_no,tariff,note\n1,1,\" a \",x\n1,2,b,\n");
        star.write("tariffs.csv", star.read("tariffs.csv") + "x,1.00\n");
        TableEntry entry = star.loaded(DAY, "fact_night");
        assertThat(star.rows("select booking_no, night_no, paid from fact_night order by 1, 2"))
                .containsExactly("1|1|21.00", "1|2|40.00");
        assertThat(entry.error()).isEmpty();
        star.write(
                "inputs/booking_nights.yaml",
                star.read("inputs/booking_nights.yaml").replace("lower(trim(code))", "lower(trim(nowhere))"));
        assertThat(star.load(DAY).tables().get(0).error().orElseThrow())
                .contains("\"by\" cannot be evaluated over the rows of \"tariffs\"");
    }

    @Test
    void everyRelationThatAJoinReadsIsMadeByTheStatementsShown() {
        join();
        StringBuilder before = new StringBuilder();
        for (String sql : new Preview(star.project(), star.warehouse(), Clock.systemUTC())
                .of(star.project().definition("night"))
                .flatMap(Preview.Ready::staged)
                .orElseThrow()
                .statements()) {
            Matcher read = Pattern.compile("zk_in_\\w+").matcher(sql.substring(Math.max(0, sql.indexOf("as\n"))));
            while (read.find()) {
                assertThat(before).contains("\"" + read.group() + "\" as");
            }
            before.append(sql).append('\n');
        }
        assertThat(before).contains("\"zk_in_bookings\" as");
    }

    @Test
    void inputsWhoseNamesDifferByASignAreJoinedApart() {
        star.write("inputs/a.yaml", "input: gräße\nfiles: bookings.csv\ncolumns: {persons: integer}\n")
                .write("inputs/b.yaml", """
                        input: booking_nights
                        join:
                          from: größe
                          with: [{input: gräße, by: booking_no}]
                        """)
                .write("inputs/c.yaml", "input: größe\nfiles: nights.csv\n");
        star.write("facts/night.yaml", """
                fact: night
                from: booking_nights
                grain: [booking_no, night_no]
                measures: {persons: integer}
                """);
        assertThat(star.loaded(DAY, "fact_night").count("new")).isEqualTo(3);
    }

    @Test
    void refusesToJoinWhatCannotBeEqual() {
        join();
        star.write("bookings.csv", "booking_no,persons,note\nB1,2,first\n");
        assertThat(star.failure(DAY)).contains("cannot join nights.booking_no (bigint)", "in both inputs");
        star.write("inputs/booking_nights.yaml", """
                input: booking_nights
                join:
                  from: nights
                  with:
                    - {input: bookings, by: bookingno}
                    - {input: tariffs, by: "huts.tariff = tariffs.code"}
                    - {input: bookings, by: booking_no}
                    - {input: guests, by: booking_no}
                """);
        assertThatThrownBy(() -> star.load(DAY))
                .hasMessageContaining("expected a column that both have, or an equation")
                .hasMessageContaining("is joined twice")
                .hasMessageContaining("there is no input \"guests\"");
    }

    @Test
    void skipsAJoinWhoseInputsAreNotAllThereAndSaysWhich() {
        join();
        star.write("inputs/tariffs.yaml", "input: tariffs\nfiles: missing.csv\n");
        assertThat(star.load(DAY).tables().get(0).error().orElseThrow())
                .contains("no file matches missing.csv", "\"tariffs\" of \"booking_nights\"");
    }

    @Test
    void whatAnInputOfAJoinRequiresAndListsHolds() {
        join();
        star.write("inputs/tariffs.yaml", "input: tariffs\nfiles: tariffs.csv\ncolumns: {rates: integer}\n");
        assertThat(star.failure(DAY)).contains("inputs/tariffs.yaml:3:11", "\"rates\" is listed and not staged");
        star.write("inputs/tariffs.yaml", "input: tariffs\nfiles: tariffs-{date}.csv\nrequired: true\n");
        assertThat(star.failure(DAY)).contains("tariffs-2026-03-01.csv", "the input \"tariffs\" requires one");
        star.write("inputs/q.yaml", "input: q\nquery: select * from tariffs\n");
        fact("q");
        assertThat(star.failure(DAY)).contains("the input \"tariffs\" requires one");
    }

    @Test
    void refusesInputsThatAreMadeOfThemselves() {
        join();
        star.write("inputs/nights.yaml", "input: nights\nquery: select * from booking_nights\n");
        assertThatThrownBy(() -> star.project()).hasMessageContaining("in a circle");
    }

    @Test
    void aQuerySeesTheOtherInputsAsTablesAndTheWarehouse() {
        star.warehouse().execute("create schema office");
        star.warehouse().execute("create table office.discounts as select 1 as booking_no, 5.00 as discount");
        star.write("inputs/summed.yaml", """
                input: summed
                query: |
                  select b.booking_no, count(*) as nights, sum(t.rate) - coalesce(max(d.discount), 0) as paid, max(b.persons) as persons
                  from nights as n join bookings as b on b.booking_no = n.booking_no
                  join tariffs as t on t.code = n.tariff
                  left join office.discounts as d on d.booking_no = b.booking_no
                  group by b.booking_no
                """).write("facts/stay.yaml", """
                fact: stay
                from: summed
                grain: [booking_no]
                measures: {nights: integer, paid: "decimal(10,2)", persons: integer}
                """);
        assertThat(star.loaded(DAY, "fact_stay").count("staged")).isEqualTo(2);
        assertThat(star.rows("select booking_no, nights, paid, persons from fact_stay"))
                .containsExactly("1|2|25.50|2");
        assertThat(star.setAside()).containsExactly("bad value|persons|many|4|3,many,third");
    }

    /** Queries that read row by row tell the file and line of what is set aside; others have rows without a place. */
    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "select * from nights where booking_no < 9 | 4 | 2,1,Z,",
                "select night_no, tariff as kind, booking_no from nights where booking_no < 9 order by night_no | 4 | 2,1,Z,",
                "select n.*, t.rate from nights n left join tariffs t on t.code = n.tariff where n.booking_no < 9 | 4 | 2,1,Z,",
                "select distinct booking_no, night_no, tariff from nights where booking_no < 9 | 0 | {",
                "select booking_no, max(night_no) as night_no from nights group by booking_no having booking_no < 9 | 0 | {",
                "select booking_no, night_no from nights where tariff <> 'A' union all select 1, 1 | 0 | {",
            })
    void rowsOfAQueryKeepTheirPlaceWhereItCanBeTold(String query, long line, String text) {
        star.write("inputs/queried.yaml", "input: queried\nquery: \"" + query + "\"\n")
                .write("facts/stay.yaml", """
                        fact: stay
                        from: queried
                        grain: [booking_no, night_no]
                        measures:
                          even: {as: integer, take: "cast(case when booking_no = 2 then 'x' else '0' end as integer)"}
                        """);
        assertThat(star.loaded(DAY, "fact_stay").count("setAside")).isEqualTo(1);
        assertThat(star.setAside()).hasSize(1).first().asString().contains("|" + line + "|" + text);
        assertThat(star.rows("select booking_no, even from fact_stay where booking_no = 1"))
                .contains("1|0");
    }

    @Test
    void aLineBreakInALiteralOfAQueryStaysAsItIs() {
        star.write(
                "dimensions/hut.yaml",
                "dimension: hut\nfrom:\n  query: |\n    select 1 as no, 'a\n      b' as story\nkey: no\nattributes: {story: type 1}\n");
        star.loaded(DAY, "dim_hut");
        assertThat(star.rows("select story from dim_hut where hut_key > 0")).containsExactly("a\n  b");
    }

    @Test
    void loadsATableOfTheWarehouseByItsTypes() {
        star.warehouse().execute("create schema office");
        star.warehouse()
                .execute(
                        "create table office.huts as select * from (values ('A', 7.0, date '2026-01-01'), ('B', 12.7, null))"
                                + " as t(code, beds, since)");
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {table: office.huts, extract: full}
                key: code
                attributes: {beds: {type: 1, as: integer}, since: type 1}
                """);
        star.loaded(DAY, "dim_hut");
        assertThat(star.rows("select code, beds, since from dim_hut where hut_key > 0"))
                .containsExactly("A|7|2026-01-01");
        assertThat(star.setAside())
                .containsExactly("bad value|beds|12.7|0|{\"code\":\"B\",\"beds\":\"12.7\",\"since\":null}");
    }

    @Test
    void namesATableThatIsNotThere() {
        star.write(
                "dimensions/hut.yaml", "dimension: hut\nfrom: {table: office.huts}\nkey: code\nall-others: type 1\n");
        assertThat(star.failure(DAY)).contains("dimensions/hut.yaml:2:15", "cannot read the table office.huts");
    }
}
