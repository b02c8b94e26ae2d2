package dev.zeitkammer.load;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.past.KnownTable;
import dev.zeitkammer.staging.LoadDate;
import dev.zeitkammer.verify.Verdict;
import dev.zeitkammer.verify.Verifier;
import java.nio.file.Path;
import java.time.Clock;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Columns may have any name, that of a relation in our statements too: an engine may take {@code c.key} for a part of a column {@code c}. */
class AnyColumnNameTest {

    private static final String NAMES = "b,c,d,f,i,j,k,l0,l1,m,n,o,p,s,t,u,v,w,x,given";

    private static final List<String> LETTERS = Arrays.asList(NAMES.split(","));

    @TempDir
    Path folder;

    @Test
    void aColumnMayBeNamedLikeWhatStatementsCallTheirRelations() {
        try (TestStar star = star()) {
            deliver(
                    star,
                    "2026-03-01",
                    "HA,1,2026-01-01,%1$s\nHA,1,2026-03-01,%2$s\nHB,1,2026-01-01,%1$s\n",
                    "1,%1$s\n",
                    "1,HA,1,1,2026-02-01,5,%1$s\n2,HX,1,2,2026-02-01,6,%1$s\n");
            load(star, "2026-03-01");
            List<String> first = all(star);
            deliver(
                    star,
                    "2026-03-02",
                    "HA,1,2026-02-01,%3$s\nHC,1,2026-03-02,%1$s\n",
                    "1,%2$s\n2,%1$s\n",
                    "1,HA,1,1,2026-02-01,7,%1$s\n3,HC,1,2,2026-03-02,6,%1$s\n");
            loader(star).rehearse(LoadDate.parse("2026-03-02"), List.of());
            assertThat(all(star)).isEqualTo(first);
            load(star, "2026-03-02");
            assertThat(star.rows(
                            "select code, version, is_deleted from dim_hut where hut_key > 0 order by code, version"))
                    .containsExactly("HA|1|false", "HA|2|false", "HA|3|false", "HB|1|true", "HC|1|false", "HX|1|false");
            assertThat(
                            star.rows(
                                    "select no, g.guest_no from fact_stay as s join dim_guest as g on g.guest_key = s.guest_key order by no"))
                    .containsExactly("1|1", "2|2", "3|2");
            assertThat(new Verifier(star.warehouse()).verify(star.project().definitions()))
                    .filteredOn(verdict -> !verdict.holds())
                    .extracting(Verdict::claim)
                    .isEmpty();
            String known = new KnownTable(star.warehouse(), star.project().definition("hut")).after(1);
            assertThat(star.warehouse().number("select count(*) from (" + known + ") as known where code is not null"))
                    .isEqualTo(
                            first.stream().filter(row -> row.startsWith("hut")).count());
            new Undo(star.project(), star.warehouse(), Clock.systemUTC()).undo(Optional.empty());
            assertThat(all(star)).isEqualTo(first);
        }
    }

    private TestStar star() {
        return new TestStar(folder)
                .write("dimensions/hut.yaml", """
                        dimension: hut
                        from: {files: "huts-{date}.csv", extract: full, columns: {since: date}}
                        key: [code, r]
                        attributes: %s
                        history: {effective: since}
                        deletions: {absent: close}
                        member-key: true
                        surrogate: hash
                        """.formatted(attributes("type 2")))
                .write("dimensions/guest.yaml", """
                        dimension: guest
                        from: {files: "guests-{date}.csv"}
                        key: guest_no
                        attributes: %s
                        """.formatted(attributes("type 1")))
                .write("facts/stay.yaml", """
                        fact: stay
                        from: {files: "stays-{date}.csv", columns: {night: date, paid: integer}}
                        grain: [no]
                        lookups: {hut: {match: [code, r], as-of: night, unmatched: placeholder}, guest: {}}
                        degenerate: [guest_no, night, %s]
                        measures: {paid: integer}
                        """.formatted(String.join(",", LETTERS)))
                .write("facts/beds.yaml", """
                        fact: beds
                        from: {files: "beds-{date}.csv", columns: {day: date, taken: integer}}
                        grain: [guest, day]
                        lookups: {guest: {}}
                        degenerate: [%s]
                        measures: {taken: integer}
                        replaces: day
                        """.formatted(String.join(",", LETTERS)));
    }

    private static String attributes(String type) {
        return LETTERS.stream().map(name -> name + ": " + type).collect(Collectors.joining(", ", "{", "}"));
    }

    /** Rows with %1$s, %2$s, %3$s for all the columns with odd names, all saying the same. */
    private static void deliver(TestStar star, String date, String huts, String guests, String stays) {
        star.write("huts-" + date + ".csv", "code,r,since," + NAMES + "\n" + filled(huts))
                .write("guests-" + date + ".csv", "guest_no," + NAMES + "\n" + filled(guests))
                .write("stays-" + date + ".csv", "no,code,r,guest_no,night,paid," + NAMES + "\n" + filled(stays))
                .write(
                        "beds-" + date + ".csv",
                        "guest_no,day,taken," + NAMES + "\n"
                                + filled("1,2026-03-01,4,%" + date.substring(9) + "$s\n9,2026-03-01,1,%1$s\n"));
    }

    private static String filled(String rows) {
        return rows.formatted(values("1"), values("2"), values("3"));
    }

    private static String values(String value) {
        return LETTERS.stream().map(name -> "v" + value).collect(Collectors.joining(","));
    }

    private static Loader loader(TestStar star) {
        return new Loader(star.project(), star.warehouse(), LoadListener.NONE, Clock.systemUTC());
    }

    private static void load(TestStar star, String date) {
        assertThat(star.load(date).tables())
                .allSatisfy(table -> assertThat(table.status())
                        .as(String.valueOf(table.error()))
                        .isEqualTo(LoadStatus.DONE));
    }

    private static List<String> all(TestStar star) {
        return star.rows("""
                select 'hut ' || code || ' ' || version || ' ' || coalesce(c, '') from dim_hut where code is not null
                union all select 'guest ' || guest_no || ' ' || coalesce(t, '') from dim_guest where guest_no is not null
                union all select 'stay ' || no || ' ' || coalesce(f, '') from fact_stay
                union all select 'beds ' || coalesce(f, '') from fact_beds
                order by 1""");
    }
}
