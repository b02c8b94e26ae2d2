package dev.zeitkammer.load;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.definition.DefinitionException;
import dev.zeitkammer.verify.Verdict;
import dev.zeitkammer.verify.Verifier;
import java.nio.file.Path;
import java.util.List;
import java.util.stream.Stream;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Inputs that remember the latest row of each key: what joins and queries see of them. */
class KeptInputsTest {

    @TempDir
    Path folder;

    private TestStar star;

    @BeforeEach
    void bookingsWithNights() {
        star = new TestStar(folder)
                .write("inputs/headers.yaml", """
                        input: headers
                        files: "headers-{date}.csv"
                        columns: {changed: date}
                        keep: {by: booking, order: changed}
                        """)
                .write("inputs/lines.yaml", """
                        input: lines
                        files: "lines-{date}.csv"
                        columns: {night: integer, guests: integer}
                        keep: {by: [booking, night]}
                        """)
                .write("inputs/nights.yaml", """
                        input: nights
                        join: {from: lines, with: [{input: headers, by: booking, without-partner: %s}]}
                        """.formatted("leave-out"))
                .write("facts/stay.yaml", """
                        fact: stay
                        from: nights
                        grain: [booking, night]
                        degenerate: channel
                        measures: {guests: integer}
                        deletions: {when: "status = 'X'"}
                        """);
    }

    private String kept(String input) {
        return star.warehouse().dialect().quote(star.warehouse().stagingSchema()) + "." + input;
    }

    private List<String> stays() {
        return star.rows("select booking, night, channel, guests from fact_stay order by booking, night");
    }

    /** Header on Monday, line on Tuesday, header changed on Wednesday, line cancelled on Thursday. */
    @Test
    void theFactIsRightEveryEvening() {
        star.write("headers-2026-03-02.csv", "booking,channel,changed\nb1,web,2026-03-02\nb2,desk,2026-03-02\n");
        LoadEntry monday = star.load("2026-03-02");
        assertThat(monday.tables().get(0).status()).isEqualTo(LoadStatus.SKIPPED);
        assertThat(monday.tables().get(0).error().orElseThrow())
                .contains("no file matches lines-2026-03-02.csv")
                .contains("and no row of it is kept yet");
        star.write("lines-2026-03-03.csv", "booking,night,guests,status\nb1,1,2,A\nb1,2,2,A\n");
        star.load("2026-03-03")
                .tables()
                .forEach(table -> assertThat(table.error()).isEmpty());
        assertThat(stays()).containsExactly("b1|1|web|2", "b1|2|web|2");
        star.write("headers-2026-03-04.csv", "booking,channel,changed\nb1,phone,2026-03-04\n");
        assertThat(star.loaded("2026-03-04", "fact_stay").counts()).containsEntry("updated", 2L);
        assertThat(stays()).containsExactly("b1|1|phone|2", "b1|2|phone|2");
        star.write("lines-2026-03-05.csv", "booking,night,guests,status\nb1,2,2,X\nb2,1,3,A\n");
        star.load("2026-03-05");
        assertThat(stays()).containsExactly("b1|1|phone|2", "b2|1|desk|3");
        List<String> before = stays();
        List<String> kept = star.rows(
                "select booking, channel, inserted_by, updated_by from " + kept("headers") + " order by booking");
        assertThat(kept).containsExactly("b1|phone|1|3", "b2|desk|1|1");
        star.load("2026-03-05");
        star.load("2026-03-02");
        assertThat(stays()).as("older headers change nothing").isEqualTo(before);
        assertThat(star.rows("select booking, channel, inserted_by, updated_by from " + kept("headers")
                        + " order by booking"))
                .as("rows that are as they were are not touched")
                .isEqualTo(kept);
    }

    /** What was said last is known by its order, though nothing that counts was different in it. */
    @Test
    void onlySomeColumnsCountAsAChange() {
        star.write(
                "inputs/headers.yaml",
                star.read("inputs/headers.yaml").replace("order: changed", "order: changed, compare: [channel]"));
        star.write("headers-2026-03-02.csv", "booking,channel,note,changed\nb1,web,first,2026-03-02\n");
        star.write("lines-2026-03-02.csv", "booking,night,guests,status\nb1,1,2,A\n");
        star.load("2026-03-02");
        String all = "select booking, channel, note, changed, inserted_by, updated_by from " + kept("headers");
        star.write("headers-2026-03-03.csv", "booking,channel,note,changed\nb1,web,second,2026-03-06\n");
        star.load("2026-03-03");
        assertThat(star.rows(all)).containsExactly("b1|web|first|2026-03-06|1|1");
        star.write("headers-2026-03-04.csv", "booking,channel,note,changed\nb1,desk,third,2026-03-05\n");
        star.load("2026-03-04");
        assertThat(star.rows(all)).as("older than what was said last").containsExactly("b1|web|first|2026-03-06|1|1");
        star.write("headers-2026-03-05.csv", "booking,channel,note,changed\nb1,desk,fourth,2026-03-06\n");
        star.load("2026-03-05");
        assertThat(star.rows(all)).containsExactly("b1|desk|fourth|2026-03-06|1|4");
        assertThat(stays()).containsExactly("b1|1|desk|2");
        star.write(
                "inputs/headers.yaml",
                star.read("inputs/headers.yaml").replace("compare: [channel]", "compare: [chanel]"));
        assertThat(star.load("2026-03-05").tables().get(0).status()).isNotEqualTo(LoadStatus.DONE);
    }

    /** The same without memory: what lacks its partner waits for it. */
    @Test
    void withoutMemoryRowsWait() {
        for (String input : List.of("headers", "lines")) {
            star.write(
                    "inputs/" + input + ".yaml",
                    star.read("inputs/" + input + ".yaml").replaceAll("keep:.*\n", ""));
        }
        star.write("inputs/nights.yaml", star.read("inputs/nights.yaml").replace("leave-out", "wait"));
        star.write("headers-2026-03-02.csv", "booking,channel,changed\nb1,web,2026-03-02\n");
        star.write("lines-2026-03-02.csv", "booking,night,guests,status\nb1,1,2,A\nb2,1,2,A\n");
        assertThat(star.loaded("2026-03-02", "fact_stay").counts())
                .containsEntry("new", 1L)
                .containsEntry("waiting", 1L);
        star.write("headers-2026-03-03.csv", "booking,channel,changed\nb2,desk,2026-03-03\n");
        star.write("lines-2026-03-03.csv", "booking,night,guests,status\n");
        star.load("2026-03-03");
        assertThat(stays()).containsExactly("b1|1|web|2", "b2|1|desk|2");
    }

    @Test
    void queriesSeeAllThatIsKeptAndRowsCanBeTakenAway() {
        star.write(
                "inputs/headers.yaml",
                star.read("inputs/headers.yaml")
                        .replace("order: changed", "order: changed, when: \"channel = 'gone'\""));
        star.write("inputs/nights.yaml", """
                input: nights
                query: |
                  select h.booking, 1 as night, channel, 1 as guests, 'A' as status from headers as h
                """);
        star.write(
                "headers-2026-03-02.csv",
                "booking,channel,changed\nb1,web,2026-03-02\nb2,desk,2026-03-02\n,web,2026-03-02\nb9,web,soon\n");
        LoadEntry load = star.load("2026-03-02");
        assertThat(load.tables().get(0).counts()).containsEntry("new", 2L);
        assertThat(star.setAside())
                .containsExactly("blank key|booking|null|4|,web,2026-03-02", "bad value|changed|soon|5|b9,web,soon");
        star.write(
                "headers-2026-03-03.csv",
                "booking,channel,changed,note\nb3,web,2026-03-03,new column\nb2,gone,2026-03-01,too late\nb1,gone,2026-03-03,\n");
        star.load("2026-03-03");
        assertThat(star.rows("select booking, channel, note from " + kept("headers") + " order by booking"))
                .containsExactly("b2|desk|null", "b3|web|new column");
        assertThat(star.rows("select booking from fact_stay order by booking")).containsExactly("b1", "b2", "b3");
    }

    @Test
    void aDeliveryThatCannotBeReadStopsTheLoad() {
        star.write("headers-2026-03-02.csv", "no,channel,changed\nb1,web,2026-03-02\n");
        star.write("lines-2026-03-02.csv", "booking,night,guests,status\nb1,1,2,A\n");
        LoadEntry load = star.load("2026-03-02");
        assertThat(load.status()).isEqualTo(LoadStatus.FAILED);
        assertThat(load.extra().get(0).name()).isEqualTo("keep headers");
        assertThat(load.extra().get(0).output()).contains("the column \"booking\" (key of what is kept) is not staged");
        assertThat(load.tables()).extracting(entry -> entry.status()).containsExactly(LoadStatus.BLOCKED);
    }

    /** What is kept gets the types that the input lists, where nothing can be lost by that. */
    @Test
    void whatIsKeptFollowsTheTypesOfTheInput() {
        String headers = star.read("inputs/headers.yaml");
        star.write("inputs/headers.yaml", headers.replace("changed: date", "changed: date, no: integer"))
                .write("lines-2026-03-02.csv", "booking,night,guests,status\n1,1,2,A\n")
                .write("headers-2026-03-02.csv", "booking,channel,changed,no\n1,web,2026-03-02,7\n")
                .write("headers-2026-03-03.csv", "booking,channel,changed,no\n2,web,2026-03-03,3000000000\n");
        star.load("2026-03-02");
        star.load("2026-03-03");
        assertThat(star.setAside()).containsExactly("bad value|no|3000000000|2|2,web,2026-03-03,3000000000");
        star.write("inputs/headers.yaml", headers.replace("changed: date", "changed: date, no: bigint"));
        star.load("2026-03-03");
        assertThat(star.rows("select no from " + kept("headers") + " order by no"))
                .containsExactly("7", "3000000000");
        star.write("inputs/headers.yaml", headers.replace("changed: date", "changed: date, booking: varchar"));
        LoadEntry refused = star.load("2026-03-03");
        assertThat(refused.extra().get(0).output())
                .contains(
                        "The column booking of staging.headers is", "and the definition wants varchar", "alter table");
        assertThat(refused.tables().get(0).error().orElseThrow())
                .startsWith("keep headers failed: The column booking of staging.headers is");
    }

    @Test
    void wrongKeywordsAreNamed() {
        Stream.of(
                        "keep: {order: changed}|\"by\" is missing",
                        "keep: {by: booking}\nretain: true|cannot have \"retain\" too",
                        "keep: {by: booking}\nnewer-than: changed|cannot have \"newer-than\" too")
                .map(each -> each.split("\\|"))
                .forEach(each -> {
                    star.write(
                            "inputs/headers.yaml", "input: headers\nfiles: \"headers-{date}.csv\"\n" + each[0] + "\n");
                    assertThatThrownBy(star::project)
                            .isInstanceOf(DefinitionException.class)
                            .hasMessageContaining(each[1]);
                });
    }

    /** Of rows that tell no order, and of equal ones, the last that came is kept; one that tells it is later than one that does not. */
    @Test
    void whatTellsNoOrderIsReplacedAndOfEqualsTheLastIsKept() {
        star.write(
                "headers-2026-03-02.csv", "booking,channel,changed\nb1,web,\nb2,desk,2026-03-02\nb2,web,2026-03-02\n");
        star.load("2026-03-02");
        String headers = "select booking, channel, changed from " + kept("headers") + " order by booking";
        assertThat(star.rows(headers)).containsExactly("b1|web|null", "b2|web|2026-03-02");
        star.write("headers-2026-03-03.csv", "booking,channel,changed\nb1,phone,\nb2,phone,2026-03-02\n");
        star.load("2026-03-03");
        assertThat(star.rows(headers)).containsExactly("b1|phone|null", "b2|phone|2026-03-02");
        star.write("headers-2026-03-04.csv", "booking,channel,changed\nb1,desk,2026-01-01\nb2,desk,2026-03-01\n");
        star.load("2026-03-04");
        assertThat(star.rows(headers)).containsExactly("b1|desk|2026-01-01", "b2|phone|2026-03-02");
    }

    /** The latest word of a key is kept, also where it takes the key away: an older row, or an old day once more, does not bring it back. */
    @Test
    void whatWasTakenAwayStaysAwayUntilALaterRowBringsItBack() {
        star.write(
                "inputs/headers.yaml",
                star.read("inputs/headers.yaml")
                        .replace("order: changed", "order: changed, when: \"channel = 'gone'\""));
        star.write("lines-2026-03-02.csv", "booking,night,guests,status\nb1,1,2,A\nb2,1,3,A\n");
        star.write("headers-2026-03-02.csv", "booking,channel,changed\nb1,web,2026-03-02\nb2,gone,2026-03-05\n");
        star.load("2026-03-02");
        assertThat(stays()).containsExactly("b1|1|web|2");
        star.write("headers-2026-03-06.csv", "booking,channel,changed\nb1,gone,2026-03-06\n");
        star.load("2026-03-06");
        star.write("headers-2026-03-07.csv", "booking,channel,changed\nb1,desk,2026-03-03\nb2,desk,2026-03-04\n");
        star.load("2026-03-07");
        star.load("2026-03-02");
        String kept = "select booking, channel, inserted_by from " + kept("headers") + " order by booking";
        assertThat(star.rows(kept)).isEmpty();
        star.write("headers-2026-03-07.csv", "booking,channel,changed\nb1,desk,\n");
        star.load("2026-03-07");
        assertThat(star.rows(kept)).as("without an order it is the oldest").isEmpty();
        star.write("headers-2026-03-08.csv", "booking,channel,changed\nb1,phone,2026-03-08\nb2,phone,2026-03-05\n");
        star.load("2026-03-08");
        assertThat(star.rows(kept)).containsExactly("b1|phone|6", "b2|phone|6");
        assertThat(stays()).containsExactly("b1|1|phone|2", "b2|1|phone|3");
        assertThat(failingOfHeaders()).isEmpty();
        star.warehouse().execute("delete from " + kept("headers") + " where booking = 'b2'");
        star.write("headers-2026-03-09.csv", "booking,channel,changed\nb2,gone,2026-03-09\n");
        star.load("2026-03-09");
        star.warehouse()
                .execute("insert into " + kept("headers") + " (booking, channel) values ('b2', 'web'), ('b1', 'web')");
        assertThat(failingOfHeaders())
                .extracting(Verdict::claim)
                .containsExactly("a key is kept once", "a key that was taken away is not kept");
    }

    private List<Verdict> failingOfHeaders() {
        return new Verifier(star.warehouse())
                .verify(star.project().definitions()).stream()
                        .filter(verdict -> verdict.table().equals("staging.headers") && !verdict.holds())
                        .toList();
    }
}
