package dev.zeitkammer.dimension;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.definition.DefinitionException;
import dev.zeitkammer.dimension.members.DimensionGuards;
import dev.zeitkammer.load.LoadListener;
import dev.zeitkammer.load.Loader;
import dev.zeitkammer.load.Loader.Request;
import dev.zeitkammer.load.TestStar;
import dev.zeitkammer.staging.LoadDate;
import java.nio.file.Path;
import java.time.Clock;
import java.util.Arrays;
import java.util.List;
import java.util.Set;
import java.util.stream.IntStream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

class DeletionsTest {

    @TempDir
    Path folder;

    private TestStar star;

    @BeforeEach
    void dimensionWithHistory() {
        star = new TestStar(folder);
        dimension("extract: changes", "deletions: {when: \"status = 'D'\"}\nhistory: {effective: since}");
    }

    @AfterEach
    void close() {
        star.close();
    }

    private void dimension(String input, String more) {
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: "{date}.csv", columns: {since: date, status: varchar}, %s}
                key: code
                attributes: {category: type 2, phone: type 1}
                %s
                """.formatted(input, more));
    }

    private TableEntry load(String day, String... rows) {
        star.write(day + ".csv", "code,category,phone,since,status\n" + String.join("\n", rows) + "\n");
        return star.loaded(day, "dim_hut");
    }

    private List<String> versions(String code) {
        return star.rows(
                "select category, phone, valid_from, valid_to, is_current, is_deleted from dim_hut where code = '"
                        + code + "' order by valid_from");
    }

    @Test
    void aDeletedMemberStaysCurrentAndReturnsInAVersionOfItsOwn() {
        load("2026-03-01", "A,one,1,2026-03-01,");
        assertThat(load("2026-03-05", "A,,,2026-03-05,D").count("closed")).isEqualTo(1);
        assertThat(versions("A")).containsExactly("one|1|2026-03-01|2026-03-05|true|true");
        assertThat(load("2026-03-06", "A,ignored,9,2026-03-06,D").count("unchanged"))
                .isEqualTo(1);
        assertThat(load("2026-03-08", "A,one,1,2026-03-08,").count("returned")).isEqualTo(1);
        assertThat(versions("A"))
                .containsExactly("one|1|2026-03-01|2026-03-05|false|true", "one|1|2026-03-08|9999-12-31|true|false");
    }

    @Test
    void aMemberWhoseValuesAreStatedAtTheSameMomentEndsADayLater() {
        TableEntry entry = load("2026-03-01", "A,one,1,2026-03-01,", "A,,,2026-03-01,D", "A,x,9,2026-03-01,D");
        assertThat(entry.counts())
                .containsEntry("new", 1L)
                .containsEntry("closed", 1L)
                .containsEntry("repeated", 1L);
        assertThat(versions("A")).containsExactly("one|1|2026-03-01|2026-03-02|true|true");
    }

    @Test
    void aLateDeletionIsSplicedAndWhatWasStatedLaterComesBack() {
        load("2026-03-09", "A,one,1,2026-03-01,", "A,one,1,2026-03-09,");
        assertThat(load("2026-03-10", "A,,,2026-03-05,D").counts())
                .containsEntry("closed", 1L)
                .containsEntry("late", 1L);
        assertThat(versions("A"))
                .containsExactly("one|1|2026-03-01|2026-03-05|false|true", "one|1|2026-03-09|9999-12-31|true|false");
    }

    @Test
    void withoutHistoryAMemberIsOnlyMarked() {
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: "{date}.csv", columns: {since: date, status: varchar}}
                key: code
                attributes: {category: type 1, phone: type 1}
                deletions: {when: "status = 'D'"}
                """);
        load("2026-03-01", "A,one,1,,", "B,,,,D");
        assertThat(load("2026-03-02", "A,x,9,,D").count("closed")).isEqualTo(1);
        assertThat(star.rows("select category, phone, is_deleted from dim_hut where code = 'A'"))
                .containsExactly("one|1|true");
        assertThat(load("2026-03-03", "A,two,1,,").count("returned")).isEqualTo(1);
        assertThat(star.rows("select code, category, is_deleted from dim_hut where hut_key > 0"))
                .containsExactly("A|two|false");
    }

    @Test
    void whatAFullExtractLacksEndsAtTheLoadDateAndReturnsWithIt() {
        dimension("extract: full", "deletions: {absent: close}\nhistory: {effective: since}");
        load("2026-03-01", "A,one,1,2026-01-01,", "B,one,1,2026-01-01,");
        TableEntry absent = load("2026-03-02", "A,one,1,2026-01-01,");
        assertThat(absent.counts())
                .containsEntry("absent", 1L)
                .containsEntry("unchanged", 1L)
                .containsEntry("staged", 1L);
        assertThat(versions("B")).containsExactly("one|1|2026-01-01|2026-03-02|true|true");
        TableEntry back = load("2026-03-04", "A,one,1,2026-01-01,", "B,two,1,2026-01-01,");
        assertThat(back.count("returned")).isEqualTo(1);
        assertThat(versions("B"))
                .containsExactly("one|1|2026-01-01|2026-03-02|false|true", "two|1|2026-03-04|9999-12-31|true|false");
        assertThat(load("2026-03-05", "A,two,1,2026-03-05,", "B,two,1,2026-01-01,")
                        .count("unchanged"))
                .as("B is as it came back")
                .isEqualTo(1);
        assertThat(load("2026-03-06", "A,two,1,2026-03-05,", "B,three,1,2026-01-01,")
                        .count("corrected"))
                .isEqualTo(1);
        assertThat(versions("B"))
                .containsExactly("one|1|2026-01-01|2026-03-02|false|true", "three|1|2026-03-04|9999-12-31|true|false");
    }

    @Test
    void aFullExtractThatStillTellsOfADeletedMemberDoesNotBringItBack() {
        dimension("extract: full", "deletions: {when: \"status = 'D'\", absent: close}\nhistory: {effective: since}");
        load("2026-03-01", "A,one,1,2026-01-01,", "A,two,1,2026-02-01,", "A,two,1,2026-02-15,D", "B,one,1,2026-01-01,");
        List<String> deleted = versions("A");
        assertThat(deleted).last().asString().endsWith("2026-02-15|true|true");
        TableEntry next = load(
                "2026-03-02",
                "A,one,1,2026-01-01,",
                "A,two,1,2026-02-01,",
                "A,two,1,2026-02-15,D",
                "B,two,1,2026-03-02,");
        assertThat(next.counts()).containsEntry("unchanged", 3L).containsEntry("returned", 0L);
        assertThat(versions("A")).isEqualTo(deleted);
        TableEntry back = load("2026-03-03", "A,two,1,2026-02-01,D", "A,two,1,2026-02-10,", "B,two,1,2026-03-02,");
        assertThat(back.count("returned")).as("the newest row has values").isEqualTo(1);
        assertThat(versions("A")).last().asString().contains("2026-03-03|9999-12-31|true|false");
    }

    @Test
    void absenceIsNotJudgedWhereAKeyCouldNotBeRead() {
        dimension("extract: full", "deletions: {absent: close}\nhistory: {effective: since}");
        load("2026-03-01", "A,one,1,2026-01-01,", "B,one,1,2026-01-01,");
        assertThat(load("2026-03-02", "A,one,1,2026-01-01,", ",one,1,2026-01-01,")
                        .count("absent"))
                .isZero();
        assertThat(load("2026-03-03", "A,one,1,2026-01-01,", "short").count("absent"))
                .isZero();
        assertThat(load("2026-03-04", "A,one,1,2026-01-01,", "B,one,1,never,").count("absent"))
                .as("set aside, yet present")
                .isZero();
    }

    @Test
    void anExtractThatCameHalfStopsAtTheLimit() {
        dimension("extract: full", "deletions: {absent: close, limit: 10%}\nhistory: {effective: since}");
        String[] huts = new String[30];
        for (int hut = 0; hut < huts.length; hut++) {
            huts[hut] = "H" + hut + ",one,1,2026-01-01,";
        }
        load("2026-03-01", huts);
        star.write("2026-03-02.csv", "code,category,phone,since,status\n");
        LoadEntry empty = star.load("2026-03-02");
        assertThat(empty.status()).isEqualTo(LoadStatus.STOPPED);
        assertThat(empty.tables().get(0).error().orElseThrow())
                .contains("30 of the 30 members of dim_hut are absent", "limit of 10 %", "--accept-absent");
        assertThat(star.rows("select count(*) from dim_hut where is_deleted")).containsExactly("0");
        Loader loader = new Loader(star.project(), star.warehouse(), LoadListener.NONE, Clock.systemUTC());
        LoadEntry accepted = loader.load(new Request(
                LoadDate.parse("2026-03-02"), List.of(), false, true, Set.of(DimensionGuards.ACCEPT_ABSENT), false));
        assertThat(accepted.tables().get(0).count("absent")).isEqualTo(30);
    }

    @Test
    void refusesAbsenceWithoutAFullExtract() {
        dimension("extract: full, newer-than: since", "deletions: {absent: close}");
        assertThatThrownBy(star::project)
                .hasMessageContaining("dimensions/hut.yaml:5:21: \"absent: close\" ends members that are not staged")
                .hasMessageContaining("every other member would end");
        dimension("extract: changes", "deletions: {absent: close, limit: 200%}");
        assertThatThrownBy(star::project)
                .isInstanceOf(DefinitionException.class)
                .hasMessageContaining(
                        "dimensions/hut.yaml:5:21: \"absent: close\" needs an input that delivers every member")
                .hasMessageContaining("\"limit\" is \"200%\"; expected a share such as 20%");
    }

    @Test
    void asManyAbsentMembersAsTheLimitPassAndOneMoreStops() {
        dimension("extract: full", "deletions: {absent: close}\nhistory: {effective: since}");
        String[] all = IntStream.range(0, 25)
                .mapToObj(member -> "M" + member + ",one,1,2026-03-01,")
                .toArray(String[]::new);
        load("2026-03-01", all);
        star.write(
                "2026-03-02.csv",
                "code,category,phone,since,status\n" + String.join("\n", Arrays.copyOf(all, 19)) + "\n");
        assertThat(star.failure("2026-03-02")).contains("6 of the 25 members", "more than the limit of 20 %");
        assertThat(load("2026-03-02", Arrays.copyOf(all, 20)).count("absent")).isEqualTo(5);
    }

    @Test
    void anOlderExtractSaysNothingOfAbsentMembers() {
        dimension("extract: full", "deletions: {absent: close, limit: 100%}\nhistory: {effective: since}");
        load("2026-03-01", "A,one,1,2026-03-01,", "B,one,1,2026-03-01,");
        load("2026-03-02", "A,one,2,2026-03-02,", "C,one,1,2026-03-02,");
        List<String> before = star.rows(
                "select code, phone, valid_from, valid_to, is_current, is_deleted from dim_hut order by 1, 3");
        TableEntry again = load("2026-03-01", "A,one,1,2026-03-01,", "B,one,1,2026-03-01,");
        assertThat(again.counts()).containsEntry("absent", 0L).containsEntry("unchanged", 2L);
        assertThat(star.rows(
                        "select code, phone, valid_from, valid_to, is_current, is_deleted from dim_hut order by 1, 3"))
                .as("C came later, B ended later, and the phone is newer")
                .isEqualTo(before);
    }

    @Test
    void lateDeletionsThatWouldChangeSomethingAreSetAsideWhereLateRowsAre() {
        dimension(
                "extract: changes",
                "deletions: {when: \"status = 'D'\"}\nhistory: {effective: since, late: set-aside}");
        load("2026-03-09", "A,one,1,2026-03-01,", "B,one,1,2026-03-09,");
        load("2026-03-10", "A,two,1,2026-03-10,");
        assertThat(load("2026-03-11", "A,,,2026-03-05,D", "B,,,2026-03-02,D").counts())
                .as("A would end in between; B was not known then")
                .containsEntry("setAside", 1L)
                .containsEntry("unchanged", 1L);
        assertThat(star.setAside()).containsExactly("late|since|2026-03-05|2|A,,,2026-03-05,D");
        assertThat(versions("A"))
                .containsExactly("one|1|2026-03-01|2026-03-10|false|false", "two|1|2026-03-10|9999-12-31|true|false");
    }

    /** A deletion and values of one moment: the member ended, and the same extract read again does not bring it back. */
    @Test
    void aFullExtractWhoseDeletionIsAsNewAsItsValuesDoesNotBringTheMemberBack() {
        dimension("extract: full", "deletions: {when: \"status = 'D'\", absent: close}\nhistory: {effective: since}");
        load("2026-03-01", "A,one,1,2026-01-01,", "A,two,1,2026-02-15,", "A,two,1,2026-02-15,D", "B,one,1,2026-01-01,");
        List<String> deleted = versions("A");
        assertThat(deleted).last().asString().endsWith("|true|true");
        TableEntry next = load(
                "2026-03-02",
                "A,one,1,2026-01-01,",
                "A,two,1,2026-02-15,",
                "A,two,1,2026-02-15,D",
                "B,one,1,2026-01-01,");
        assertThat(next.count("returned")).isZero();
        assertThat(versions("A")).isEqualTo(deleted);
    }

    /** What ended stays ended as it was, and a row of it brings it back, also where the definition does not say any more what deletes. */
    @ParameterizedTest
    @ValueSource(strings = {"history: {effective: since}", "history: {}"})
    void aMemberThatEndedReturnsWhateverIsSaidOfDeletionsNow(String history) {
        dimension("extract: changes", "deletions: {when: \"status = 'D'\"}\n" + history);
        load("2026-03-01", "A,one,1,2026-03-01,", "B,one,1,2026-03-01,", "C,one,1,2026-03-01,");
        load("2026-03-05", "A,,,2026-03-05,D", "B,,,2026-03-05,D");
        List<String> ended = versions("A");
        dimension("extract: changes", history);
        TableEntry back = load("2026-03-08", "A,one,1,2026-03-08,", "B,two,1,2026-03-08,", "C,one,1,2026-03-08,");
        assertThat(back.counts()).containsEntry("returned", 2L).containsEntry("unchanged", 1L);
        assertThat(versions("A"))
                .containsExactly(
                        ended.get(0).replace("|true|true", "|false|true"), "one|1|2026-03-08|9999-12-31|true|false");
        assertThat(versions("B"))
                .containsExactly(
                        ended.get(0).replace("|true|true", "|false|true"), "two|1|2026-03-08|9999-12-31|true|false");
        assertThat(versions("C")).hasSize(1);
    }

    @Test
    void withoutHistoryItIsNoLongerMarkedThen() {
        String hut = """
                dimension: hut
                from: {files: "{date}.csv", columns: {since: date, status: varchar}}
                key: code
                attributes: {category: type 1, phone: type 1}
                """;
        star.write("dimensions/hut.yaml", hut + "deletions: {when: \"status = 'D'\"}\n");
        load("2026-03-01", "A,one,1,,", "B,one,1,,");
        load("2026-03-05", "A,,,,D", "B,,,,D");
        star.write("dimensions/hut.yaml", hut);
        assertThat(load("2026-03-08", "A,one,1,,", "B,two,1,,").count("returned"))
                .isEqualTo(2);
        assertThat(star.rows("select code, category, is_deleted from dim_hut where hut_key > 0 order by code"))
                .containsExactly("A|one|false", "B|two|false");
    }

    /** What a row says that ends a member of whom nothing was known is in the history; of a known one it is ignored. */
    @Test
    void aMemberThatEndedBeforeItWasKnownIsKeptWhereThatIsSaid() {
        dimension("extract: changes", "deletions: {when: \"status = 'D'\", unknown: add}\nhistory: {effective: since}");
        TableEntry first = load("2026-03-01", "A,one,1,2026-03-01,D", "A,two,2,2026-03-02,D", "B,one,1,2026-03-01,");
        assertThat(first.counts())
                .containsEntry("new", 2L)
                .containsEntry("closed", 0L)
                .containsEntry("unchanged", 1L);
        assertThat(versions("A")).containsExactly("one|1|2026-03-01|2026-03-02|true|true");
        assertThat(load("2026-03-02", "A,one,1,2026-03-01,D", "B,x,9,2026-03-05,D")
                        .counts())
                .containsEntry("unchanged", 1L)
                .containsEntry("closed", 1L);
        assertThat(versions("A")).containsExactly("one|1|2026-03-01|2026-03-02|true|true");
        assertThat(versions("B")).containsExactly("one|1|2026-03-01|2026-03-05|true|true");
        assertThat(load("2026-03-08", "A,one,1,2026-03-08,").count("returned")).isEqualTo(1);
        assertThat(load("2026-03-09", "C,many,1,2026-03-08,D", "C,many,1,2026-03-01,")
                        .counts())
                .as("it is known before it ends")
                .containsEntry("new", 1L)
                .containsEntry("closed", 1L);
    }

    @Test
    void withoutHistoryTheLatestRowAddsIt() {
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: "{date}.csv", columns: {since: date, status: varchar}}
                key: code
                attributes: {category: type 1, phone: type 1}
                deletions: {when: "status = 'D'", unknown: add}
                history: {effective: since}
                """);
        TableEntry first = load(
                "2026-03-01",
                "A,one,1,2026-03-01,D",
                "B,one,1,2026-03-01,",
                "B,two,2,2026-03-02,D",
                "C,one,1,2026-03-02,",
                "C,two,2,2026-03-01,D");
        assertThat(first.counts()).containsEntry("new", 3L).containsEntry("unchanged", 2L);
        String all = "select code, category, phone, is_deleted from dim_hut where hut_key > 0 order by code";
        assertThat(star.rows(all)).containsExactly("A|one|1|true", "B|two|2|true", "C|one|1|false");
        assertThat(load("2026-03-02", "A,x,9,2026-03-01,D", "C,x,9,2026-03-03,D")
                        .counts())
                .containsEntry("unchanged", 1L)
                .containsEntry("closed", 1L);
        assertThat(star.rows(all)).containsExactly("A|one|1|true", "B|two|2|true", "C|one|1|true");
    }

    /** Facts came before; who they wait for had ended by then. What such a row looks up is looked up. */
    @ParameterizedTest
    @ValueSource(strings = {"type 2", "type 1"})
    void aPlaceholderBecomesTheMemberThatEnded(String change) {
        star.write("dimensions/warden.yaml", """
                dimension: warden
                from: {files: "wardens-{date}.csv", columns: {no: varchar}}
                key: no
                attributes: {name: type 1}
                """);
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: "{date}.csv", columns: {since: date, status: varchar}}
                key: code
                attributes: {category: %s}
                lookups: {warden: {match: phone, type: %s}}
                deletions: {when: "status = 'D'", unknown: add}
                """.formatted(change, change.substring(5)));
        star.write(
                "facts/stay.yaml",
                "fact: stay\nfrom: {files: \"stays-{date}.csv\"}\ngrain: no\nlookups: {hut: {match: code, unmatched: placeholder}}\n");
        star.write("wardens-2026-03-01.csv", "no,name\n1,Resi\n");
        star.write("stays-2026-03-01.csv", "no,code\n1,A\n");
        load("2026-03-01", "Z,one,1,2026-03-01,");
        TableEntry entry = load("2026-03-02", "A,one,1,2026-03-01,D", "B,two,8,2026-03-01,D");
        assertThat(entry.counts()).containsEntry("completed", 1L).containsEntry("new", 1L);
        assertThat(star.rows("select h.code, h.category, h.row_origin, h.is_deleted, coalesce(w.name, 'nobody')"
                        + " from dim_hut as h left join dim_warden as w on w.warden_key = h.warden_key and w.warden_key > 0"
                        + " where h.code in ('A', 'B') order by h.code"))
                .containsExactly("A|one|source|true|Resi", "B|two|source|true|nobody");
        assertThat(star.rows("select count(*) from dim_hut where warden_key is null"))
                .containsExactly("0");
    }

    @Test
    void whatIsUnknownIsSaidOfRowsThatDelete() {
        dimension("extract: full", "deletions: {absent: close, unknown: add}");
        assertThatThrownBy(star::project)
                .hasMessageContaining("dimensions/hut.yaml:5:37: \"unknown: add\" is of rows that end their member")
                .hasMessageContaining("say when:");
    }
}
