package dev.zeitkammer.seal;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assertions.tuple;

import dev.zeitkammer.books.SealBooks;
import dev.zeitkammer.books.SealBooks.Accepted;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.engine.GuardException;
import dev.zeitkammer.load.Acceptance;
import dev.zeitkammer.load.Aligner;
import dev.zeitkammer.load.TestStar;
import dev.zeitkammer.load.Undo;
import dev.zeitkammer.verify.Verdict;
import dev.zeitkammer.verify.Verifier;
import java.nio.file.Path;
import java.time.Clock;
import java.util.List;
import java.util.Optional;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Whatever somebody changes in a table by hand is found, and what loads change is no such thing. */
@Tag("slow")
class SealsTest {

    private static final String CLAIM = "nobody but loads has changed it";

    @TempDir
    Path folder;

    private TestStar star;

    @BeforeEach
    void threeDays() {
        star = new TestStar(folder)
                .write("dimensions/hut.yaml", """
                        dimension: hut
                        from: {files: "huts-{date}.csv", columns: {since: date}}
                        key: code
                        attributes: {category: type 2, phone: type 1, beds: {type: 1, as: integer}, rate: {type: 2, as: "decimal(8,2)"}, height: {type: 1, as: double}, open_at: {type: 1, as: time}}
                        history: {effective: since}
                        """)
                .write(
                        "dimensions/calendar.yaml",
                        "dimension: calendar\nkind: calendar\ndays: 2026-03-01..2026-03-31\n")
                .write("facts/stay.yaml", """
                        fact: stay
                        from: {files: "stays-{date}.csv", columns: {day: date}}
                        grain: stay_no
                        degenerate: day
                        lookups: {hut: {match: code, as-of: day, unmatched: placeholder}, night: {dimension: calendar, match: day}}
                        measures: {nights: integer, paid: "decimal(10,2)"}
                        """);
        huts(
                1,
                "ADL,one,p1,30,10.50,2000,08:00,2026-03-01",
                "BER,one,p2,12,8.00,1500.5,07:30,2026-03-01",
                "CIR,two,p3,8,,,,2026-03-01");
        stays(
                1,
                "1,ADL,2026-03-02,2,50.00",
                "2,BER,2026-03-02,1,20.00",
                "3,DOH,2026-03-03,1,15.00",
                "4,ADL,2026-03-04,1,30.00");
        star.load("2026-03-01");
        huts(
                2,
                "ADL,two,p1,30,10.50,2000,08:00,2026-03-03",
                "BER,one,p9,12,8.00,1500.5,07:30,2026-03-01",
                "DOH,one,p4,5,6.00,1,06:00,2026-03-01");
        stays(2, "5,CIR,2026-03-02,2,50.00", "1,ADL,2026-03-02,3,75.00");
        star.load("2026-03-02");
        huts(3, "ADL,zero,p1,30,10.50,2000,08:00,2026-03-02");
        star.load("2026-03-03");
    }

    @AfterEach
    void close() {
        star.close();
    }

    private void huts(int day, String... rows) {
        star.write(
                "huts-2026-03-0" + day + ".csv",
                "code,category,phone,beds,rate,height,open_at,since\n" + String.join("\n", rows) + "\n");
    }

    private void stays(int day, String... rows) {
        star.write("stays-2026-03-0" + day + ".csv", "stay_no,code,day,nights,paid\n" + String.join("\n", rows) + "\n");
    }

    private List<Verdict> failing() {
        return new Verifier(star.warehouse())
                .verify(star.project().definitions()).stream()
                        .filter(verdict -> !verdict.holds())
                        .toList();
    }

    /** Does something by hand, to a table in the schema of the star. */
    private void damage(String statement) {
        for (String each : statement.split(";")) {
            star.warehouse()
                    .execute(each.replaceAll("\\b(dim_hut|dim_calendar|fact_stay)\\b", "@$1")
                            .replace("@dim_hut", star.warehouse().table("dim_hut"))
                            .replace("@dim_calendar", star.warehouse().table("dim_calendar"))
                            .replace("@fact_stay", star.warehouse().table("fact_stay"))
                            .replace("@seals", star.warehouse().book("seals")));
        }
    }

    @Test
    void whatLoadsDoIsNoDamage() {
        assertThat(failing()).isEmpty();
        assertThat(new Verifier(star.warehouse()).verify(star.project().definitions()))
                .filteredOn(verdict -> verdict.claim().equals(CLAIM))
                .extracting(Verdict::table)
                .containsExactly("dim_calendar", "dim_hut", "fact_stay");
    }

    /** Each is done and taken back. */
    private static final List<String> DAMAGES = List.of(
            "update dim_hut set category = 'three' where hut_key = 1",
            "update dim_hut set category = 'one ' where hut_key = 2",
            "update dim_hut set category = null where hut_key = 2",
            "update dim_hut set phone = '77' where code = 'BER'",
            "update dim_hut set beds = 0 where rate is null and code = 'CIR'",
            "update dim_hut set beds = beds + 1 where code = 'CIR'",
            "update dim_hut set rate = rate + 0.01 where code = 'BER'",
            "update dim_hut set rate = 0 where code = 'CIR'",
            "update dim_hut set height = height + 0.000001 where code = 'BER'",
            "update dim_hut set height = null where code = 'BER'",
            "update dim_hut set open_at = time '09:00:00' where code = 'BER'",
            "update dim_hut set valid_from = date '2026-02-28' where code = 'CIR'",
            "update dim_hut set valid_to = date '2027-01-01' where code = 'BER'",
            "update dim_hut set is_current = not is_current where code = 'ADL'",
            "update dim_hut set version = version + 1 where code = 'CIR'",
            "update dim_hut set is_deleted = true where code = 'CIR'",
            "update dim_hut set row_origin = 'placeholder' where code = 'CIR'",
            "update dim_hut set inserted_at = timestamp '2020-01-01 00:00:00' where code = 'CIR'",
            "update dim_hut set updated_at = timestamp '2020-01-01 00:00:00' where code = 'CIR'",
            "update dim_hut set updated_by = 1 where code = 'BER'",
            "update dim_hut set inserted_by = 3 where code = 'BER'",
            "update dim_hut set last_stated = date '2026-03-09' where code = 'CIR'",
            "update dim_hut set code = 'BES' where code = 'BER'",
            "update dim_hut set category = 'nobody' where hut_key = -1",
            "update dim_hut set hut_key = 99 where code = 'CIR'",
            "delete from dim_hut where code = 'DOH'",
            "insert into dim_hut select * from dim_hut where code = 'CIR'",
            "update dim_hut set beds = beds + 1 where code = 'CIR'; update dim_hut set beds = beds - 1 where code = 'BER'",
            "update dim_hut set phone = case code when 'CIR' then '2' else '3' end where code in ('CIR', 'BER')",
            "update fact_stay set paid = paid + 1 where stay_no = 2",
            "update fact_stay set paid = null where stay_no = 2",
            "update fact_stay set paid = paid + 1 where stay_no = 2; update fact_stay set paid = paid - 1 where stay_no = 4",
            "update fact_stay set nights = 5 where stay_no = 5",
            "update fact_stay set hut_key = 3 where stay_no = 2",
            "update fact_stay set hut_key = -1 where stay_no = 2",
            "update fact_stay set night_key = 20260304 where stay_no = 2",
            "update fact_stay set stay_no = 7 where stay_no = 2",
            "delete from fact_stay where stay_no = 5",
            "insert into fact_stay select * from fact_stay where stay_no = 5",
            "update fact_stay set updated_at = timestamp '2020-01-01 00:00:00'",
            "update dim_calendar set day_name = 'Sunday' where calendar_key = 20260302",
            "delete from dim_calendar where calendar_key = 20260331",
            "update @seals set part_1 = part_1 + 1 where load = 2");

    @Test
    void whatSomebodyDoesByHandIsFound() {
        for (String damage : DAMAGES) {
            long found = star.warehouse().rehearse(() -> {
                damage(damage);
                return star.project().definitions().stream()
                        .filter(definition -> !Seals.broken(definition, star.warehouse())
                                .filter(broken -> !star.warehouse()
                                        .query(broken, row -> true)
                                        .isEmpty())
                                .isEmpty())
                        .count();
            });
            assertThat(found).as(damage).isPositive();
        }
        assertThat(failing()).as("all of it was taken back").isEmpty();
        Verifier verifier = new Verifier(star.warehouse());
        assertThat(verifier.changed(star.project().definitions())).isEmpty();
        star.warehouse().rehearse(() -> {
            damage("update fact_stay set paid = paid + 1 where stay_no = 2");
            assertThat(verifier.changed(star.project().definitions())).containsExactly("fact_stay");
            return true;
        });
    }

    /** What a table says in two places is proven without a seal, so also for tables that never had one. */
    @Test
    void whatIsSaidTwiceIsTheSame() {
        damage("delete from @seals");
        damage(
                "update dim_hut set phone = 'p7' where hut_key = 1; update fact_stay set night_key = 20260304 where stay_no = 2");
        assertThat(failing())
                .extracting(Verdict::claim)
                .containsExactly(
                        "values of type 1 are the same in all versions of a member", "night_key is of the day in day");
    }

    @Test
    void theLoadIsNamedWhoseRowsWereChanged() {
        damage("update fact_stay set paid = paid + 1 where stay_no = 5");
        assertThat(failing()).singleElement().satisfies(verdict -> {
            assertThat(verdict.table()).isEqualTo("fact_stay");
            assertThat(verdict.examples().rows()).containsExactly(List.of(2L, 2L, 2L, "4; 5"));
        });
    }

    @Test
    void valuesThatNoLoadChangesAreComparedWithTheImages() {
        damage("update dim_hut set category = 'three', phone = 'p5' where code = 'ADL' and version = 1;"
                + " update dim_hut set category = 'none' where code = 'CIR'");
        Definition hut = star.project().definition("hut");
        List<Long> loads =
                star.warehouse().query(Seals.broken(hut, star.warehouse()).orElseThrow(), row -> row.number(1));
        assertThat(new AlteredRows(hut, star.warehouse()).sinceImages(loads, 10))
                .as("a version that no load wrote over has no image, and an overwritten value may be a load's")
                .containsExactly(new AlteredValue("1", "category", "one", "three"));
    }

    @Test
    void whatIsSaidOfADayFollowsFromIt() {
        damage("delete from @seals; update dim_calendar set day_name = 'Feast' where calendar_key = 20260302;"
                + " update dim_calendar set calendar_key = 20260350 where calendar_key = 20260331");
        assertThat(failing()).singleElement().satisfies(verdict -> {
            assertThat(verdict.claim()).isEqualTo("what is said of a day follows from it");
            assertThat(verdict.examples().rows())
                    .extracting(row -> row.get(2), row -> row.get(3))
                    .containsExactlyInAnyOrder(tuple("day_name", "Feast"), tuple("calendar_key", "20260350"));
        });
    }

    @Test
    void undoneLoadsLeaveTheSealsOfThoseBefore() {
        Undo undo = new Undo(star.project(), star.warehouse(), Clock.systemUTC());
        undo.undo(Optional.of(2L));
        assertThat(failing()).isEmpty();
        damage("update dim_hut set phone = 'x' where code = 'BER'");
        assertThat(failing()).extracting(Verdict::claim).containsExactly(CLAIM);
    }

    @Test
    void alignedTablesAreSealedAnew() {
        star.write(
                "dimensions/hut.yaml",
                star.read("dimensions/hut.yaml")
                        .replace("phone: type 1", "telephone: {type: 1, take: phone, was: phone}"));
        new Aligner(star.project(), star.warehouse(), Clock.systemUTC()).align();
        assertThat(failing()).isEmpty();
        damage("update dim_hut set telephone = 'x' where code = 'BER'");
        assertThat(failing()).extracting(Verdict::claim).contains(CLAIM);
    }

    @Test
    void aLoadAlignsAndSealsAnew() {
        star.write(
                "facts/stay.yaml",
                star.read("facts/stay.yaml")
                        .replace("nights: integer", "nights: bigint, again: {as: integer, take: nights}"));
        stays(4, "8,BER,2026-03-04,4,1.00", "2,BER,2026-03-02,9,1.00");
        star.loaded("2026-03-04", "fact_stay");
        assertThat(failing()).isEmpty();
    }

    @Test
    void whereNoImagesAreKeptTablesAreSealedAnew() {
        star.write("zeitkammer.yaml", "project: star\nimages: none\n");
        huts(4, "ADL,five,p1,30,10.50,2000,08:00,2026-03-04", "BER,one,p10,12,8.00,1500.5,07:30,2026-03-01");
        stays(4, "8,BER,2026-03-04,4,1.00", "2,BER,2026-03-02,9,1.00");
        star.loaded("2026-03-04", "fact_stay");
        assertThat(failing()).isEmpty();
        damage("update dim_hut set phone = 'x' where code = 'CIR'");
        assertThat(failing()).extracting(Verdict::claim).containsExactly(CLAIM);
    }

    @Test
    void stepsOfTheUsersOwnWithinTheTransactionAreNoDamage() {
        star.write(
                "zeitkammer.yaml",
                "project: star\nextra:\n  - {name: trim, after: hut, in: transaction, sql: \"update "
                        + star.warehouse().table("dim_hut").replace("\"", "\\\"")
                        + " set phone = '00' where code = 'CIR'\"}\n");
        huts(4, "BER,one,p10,12,8.00,1500.5,07:30,2026-03-01");
        star.loaded("2026-03-04", "dim_hut");
        assertThat(star.rows("select phone from dim_hut where code = 'CIR'")).containsExactly("00");
        assertThat(failing()).isEmpty();
    }

    @Test
    void aLoadSaysSoOrStopsWhereItIsAsked() {
        star.write("zeitkammer.yaml", "project: star\nsealed: note\n");
        huts(4, "BER,one,p10,12,8.00,1500.5,07:30,2026-03-01");
        damage("update dim_hut set phone = 'x' where code = 'CIR'");
        star.loaded("2026-03-04", "dim_hut");
        star.write("zeitkammer.yaml", "project: star\nsealed: stop\n");
        huts(5, "BER,one,p11,12,8.00,1500.5,07:30,2026-03-01");
        assertThat(star.failure("2026-03-05"))
                .contains("dim_hut was changed by hand since it was loaded (rows of load 1)");
        assertThat(star.rows("select phone from dim_hut where code = 'BER'")).containsExactly("p10");
        new Acceptance(star.warehouse(), Clock.systemUTC())
                .accept(star.project().definitions(), "warden", "a new phone");
        star.loaded("2026-03-05", "dim_hut");
        assertThat(failing()).isEmpty();
    }

    @Test
    void whatWasMeantIsAcceptedAndNoLoadBeforeItIsTakenBack() {
        damage("delete from dim_hut where code = 'DOH'; update dim_hut set beds = 99 where code = 'CIR';"
                + " delete from fact_stay where stay_no = 3");
        assertThat(failing()).hasSizeGreaterThan(2);
        List<Accepted> accepted = new Acceptance(star.warehouse(), Clock.systemUTC())
                .accept(star.project().definitions(), "warden", "DOH burnt down");
        assertThat(accepted)
                .extracting(Accepted::table, Accepted::rows, Accepted::load, Accepted::reason)
                .containsExactly(
                        tuple("dim_hut", -1L, 3L, "DOH burnt down"), tuple("fact_stay", -1L, 3L, "DOH burnt down"));
        assertThat(failing()).isEmpty();
        assertThat(new SealBooks(star.warehouse()).accepted()).hasSize(2);
        huts(4, "BER,one,p10,12,8.00,1500.5,07:30,2026-03-01");
        star.loaded("2026-03-04", "dim_hut");
        assertThat(failing()).isEmpty();
        Undo undo = new Undo(star.project(), star.warehouse(), Clock.systemUTC());
        assertThatThrownBy(() -> undo.undo(Optional.of(3L)))
                .isInstanceOf(GuardException.class)
                .hasMessageContaining("by hand were accepted after load 3 (DOH burnt down)");
        undo.undo(Optional.of(4L));
        assertThat(failing()).isEmpty();
        assertThat(new Acceptance(star.warehouse(), Clock.systemUTC())
                        .accept(star.project().definitions(), "warden", "once more"))
                .isEmpty();
    }
}
