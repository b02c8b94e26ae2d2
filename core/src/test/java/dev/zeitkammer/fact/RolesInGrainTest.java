package dev.zeitkammer.fact;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.books.TableEntry;
import java.util.List;
import org.junit.jupiter.api.Test;

/** Roles in the grain: who finds nobody there is set aside, or stands there with the key of a reserved member. */
class RolesInGrainTest extends StayStar {

    private void beds(String guest, String further) {
        guests("2026-03-01", "1,Anna\n2,Berta\n");
        star.write("facts/beds.yaml", """
                fact: beds
                from: {files: "beds-{date}.csv", columns: {taken: integer, day: date, guest_no: integer}}
                grain: [guest, day]
                lookups: {guest: {%s}}
                measures: {taken: integer}
                %s
                """.formatted(guest, further));
    }

    private TableEntry delivered(String day, String rows) {
        star.write("beds-" + day + ".csv", "guest_no,day,taken\n" + rows);
        return star.loaded(day, "fact_beds");
    }

    private List<String> facts() {
        return star.rows("select guest_key, day, taken from fact_beds order by 2, 1");
    }

    @Test
    void whoIsNobodyIsSetAsideWhereNothingIsSaid() {
        beds("", "");
        assertThat(delivered("2026-03-01", "1,2026-03-01,3\n9,2026-03-01,4\n,2026-03-01,5\n")
                        .counts())
                .containsEntry("new", 1L)
                .containsEntry("setAside", 2L);
        assertThat(star.setAside())
                .containsExactly("unmatched|guest_no|9|3|9,2026-03-01,4", "blank key|guest_no|null|4|,2026-03-01,5");
    }

    @Test
    void reservedKeysAreValuesOfTheGrain() {
        beds("unmatched: unknown, blank: not-applicable", "");
        assertThat(delivered("2026-03-01", "1,2026-03-01,3\n9,2026-03-01,4\n,2026-03-01,5\n9,2026-03-02,6\n")
                        .counts())
                .containsEntry("new", 4L)
                .containsEntry("setAside", 0L);
        assertThat(facts()).containsExactly("-2|2026-03-01|5", "-1|2026-03-01|4", "1|2026-03-01|3", "-1|2026-03-02|6");
        assertThat(delivered("2026-03-02", "8,2026-03-01,7\n,2026-03-01,5\n").counts())
                .as("another one who is nobody is of the same grain")
                .containsEntry("updated", 1L)
                .containsEntry("unchanged", 1L);
        guests("2026-03-03", "9,Zita\n");
        delivered("2026-03-03", "9,2026-03-02,6\n");
        assertThat(facts())
                .as("what stands at a reserved key stands there for good")
                .containsExactly(
                        "-2|2026-03-01|5", "-1|2026-03-01|7", "1|2026-03-01|3", "-1|2026-03-02|6", "3|2026-03-02|6");
    }

    @Test
    void rowsThatComeToOneGrainRepeatOrContradictEachOther() {
        beds("unmatched: unknown, blank: unknown", "");
        assertThat(delivered(
                                "2026-03-01",
                                "8,2026-03-01,4\n9,2026-03-01,4\n,2026-03-01,4\n8,2026-03-02,4\n9,2026-03-02,5\n1,2026-03-02,1\n")
                        .counts())
                .containsEntry("new", 2L)
                .containsEntry("repeated", 2L)
                .containsEntry("setAside", 2L);
        assertThat(star.setAside())
                .containsExactly(
                        "conflicting duplicate|guest, day|null|5|8,2026-03-02,4",
                        "conflicting duplicate|guest, day|null|6|9,2026-03-02,5");
        assertThat(facts()).containsExactly("-1|2026-03-01|4", "1|2026-03-02|1");
    }

    @Test
    void aSnapshotReplacesThemToo() {
        beds("unmatched: unknown, blank: not-applicable", "replaces: day");
        delivered("2026-03-01", "1,2026-03-01,3\n9,2026-03-01,4\n,2026-03-01,5\n");
        assertThat(delivered("2026-03-02", "1,2026-03-01,3\n,2026-03-01,5\n").count("removed"))
                .isEqualTo(1);
        assertThat(facts()).containsExactly("-2|2026-03-01|5", "1|2026-03-01|3");
        assertThat(delivered("2026-03-03", "1,2026-03-01,3\n8,2026-03-01,many\n")
                        .count("removed"))
                .as("a row that was set aside may be of the fact at the reserved key")
                .isZero();
    }

    @Test
    void placeholdersAreMembersOfTheGrain() {
        beds("unmatched: placeholder", "");
        assertThat(delivered("2026-03-01", "8,2026-03-01,4\n9,2026-03-01,4\n").count("new"))
                .isEqualTo(2);
        assertThat(star.rows("select count(distinct guest_key) from fact_beds where guest_key > 0"))
                .containsExactly("2");
    }
}
