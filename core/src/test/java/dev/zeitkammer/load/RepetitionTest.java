package dev.zeitkammer.load;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assumptions.assumeThat;

import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.load.Loader.Request;
import dev.zeitkammer.staging.LoadDate;
import java.nio.file.Path;
import java.time.Clock;
import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** When a delivery that was loaded already is not read: only where nothing can have changed what it comes to. */
@Tag("slow")
class RepetitionTest {

    private static final String DAY = "2026-03-01";
    private static final String FACT = """
            fact: stay
            from: {files: "stays-{date}.csv", columns: {stay_no: integer, nights: integer}}
            grain: stay_no
            lookups: {hut: {}}
            measures: {nights: integer}
            """;

    @TempDir
    Path folder;

    private TestStar star;

    @BeforeEach
    void writeStar() {
        star = new TestStar(folder)
                .write("dimensions/hut.yaml", """
                        dimension: hut
                        from: {files: "huts-{date}.csv"}
                        key: hut_code
                        attributes: {beds: type 2}
                        """)
                .write("facts/stay.yaml", FACT)
                .write("huts-" + DAY + ".csv", "hut_code,beds\nHA,20\nHB,30\nHB,30\n")
                .write("stays-" + DAY + ".csv", "stay_no,hut_code,nights\n1,HA,2\n2,HX,1\n");
        loaded();
    }

    @AfterEach
    void close() {
        star.close();
    }

    private List<TableEntry> loaded() {
        LoadEntry load = star.loadNews(DAY);
        assertThat(load.tables()).extracting(TableEntry::status).containsOnly(LoadStatus.DONE);
        return load.tables();
    }

    private void assertRead(String... tables) {
        assertThat(loaded().stream().filter(entry -> entry.error().isEmpty()).map(TableEntry::table))
                .containsExactly(tables);
    }

    @Test
    void whatIsByteForByteTheLastDeliveryIsToldAndNotRead() {
        List<TableEntry> told = loaded();
        assertThat(told.get(0).counts())
                .containsEntry("staged", 3L)
                .containsEntry("repeated", 1L)
                .containsEntry("unchanged", 2L)
                .containsEntry("new", 0L);
        assertThat(told.get(0).error())
                .contains("not read, since huts-2026-03-01.csv is byte for byte what load 1 had (--again reads it)");
        assertThat(told.get(1).counts()).containsEntry("staged", 2L).containsEntry("unchanged", 2L);
        assertThat(told.get(1).lookups().get("hut")).containsEntry("unmatched", 1L);
        assertThat(told.get(1).unmatched()).hasSize(1);
        assertThat(loaded().get(1).error())
                .as("and so on")
                .hasValueSatisfying(why -> assertThat(why).contains("load 2 had"));
    }

    @Test
    void otherBytesAreReadHoweverMany() {
        star.write("huts-" + DAY + ".csv", "hut_code,beds\nHA,21\nHB,30\nHB,30\n");
        assertRead("dim_hut", "fact_stay");
        assertThat(star.rows("select beds from dim_hut where hut_code = 'HA' order by version"))
                .contains("21");
        star.write("stays-" + DAY + ".csv", "stay_no,hut_code,nights\n1,HA,3\n2,HX,1\n");
        assertRead("fact_stay");
        assertRead();
    }

    @Test
    void factsAreReadWhereADimensionHasChangedSince() {
        star.write("huts-" + DAY + ".csv", "hut_code,beds\nHX,5\n");
        star.load(DAY, "dim_hut");
        TableEntry stay = loaded().get(1);
        assertThat(stay.error()).isEmpty();
        assertThat(stay.count("updated")).isEqualTo(1);
        assertThat(star.rows("select count(*) from fact_stay where hut_key < 0"))
                .containsExactly("0");
    }

    @Test
    void anotherDefinitionAnotherDateAndAnotherProgramRead() {
        star.write("dimensions/hut.yaml", star.read("dimensions/hut.yaml").replace("type 2", "type 1"));
        assertRead("dim_hut", "fact_stay");
        assertRead();
        star.write("huts-2026-03-02.csv", star.read("huts-" + DAY + ".csv"));
        assertThat(star.loadNews("2026-03-02").tables().get(0).error()).isEmpty();
        assertThat(star.loadNews("2026-03-02").tables().get(0).error()).isPresent();
        LoadEntry other = new Loader(star.project(), star.warehouse(), LoadListener.NONE, Clock.systemUTC())
                .load(Request.everything(LoadDate.parse("2026-03-02")).news("another"));
        assertThat(other.tables().get(0).error()).isEmpty();
    }

    @Test
    void whatWasUndoneIsReadAgain() {
        star.write("huts-" + DAY + ".csv", "hut_code,beds\nHA,21\n");
        assertRead("dim_hut", "fact_stay");
        new Undo(star.project(), star.warehouse(), Clock.systemUTC()).undo(Optional.of(2L));
        assertThat(star.rows("select max(beds) from dim_hut")).containsExactly("30");
        assertRead("dim_hut", "fact_stay");
        assertThat(star.rows("select beds from dim_hut where hut_code = 'HA' and is_current"))
                .containsExactly("21");
    }

    @Test
    void aDimensionThatAnUndoTookBackHasChanged() {
        star.write("huts-" + DAY + ".csv", "hut_code,beds\nHA,21\n");
        star.load(DAY, "dim_hut");
        star.write("stays-" + DAY + ".csv", "stay_no,hut_code,nights\n1,HB,2\n");
        star.loadNews(DAY, "fact_stay");
        new Undo(star.project(), star.warehouse(), Clock.systemUTC()).undo(Optional.empty(), List.of("hut"));
        assertThat(star.loadNews(DAY, "fact_stay").tables().get(0).error()).isEmpty();
    }

    @Test
    void rowsThatWereSetAsideAreToldAgain() {
        star.write("stays-" + DAY + ".csv", "stay_no,hut_code,nights\n1,HA,many\n");
        assertRead("fact_stay");
        assertRead("fact_stay");
        assertThat(star.setAside()).hasSize(2);
    }

    /** Definitions of which a delivery may come to something else when it is loaded again, or that ask about more than it. */
    @ParameterizedTest
    @ValueSource(
            strings = {
                "on-repeat: refuse\n",
                "assert: [{name: some, rows: \"nights > 0\"}]\n",
                "publish: {to: out}\n",
                "lookups: {hut: {unmatched: placeholder}}\n",
                "from: {files: \"stays-{date}.csv\", newer-than: stay_no}\n",
                "from: {files: \"stays-{date}.csv\", assert: [{name: some, staged: 1..9}]}\n"
            })
    void theseFactsAreReadEveryTime(String keyword) {
        String name = keyword.substring(0, keyword.indexOf(':'));
        String rest = FACT.lines().filter(line -> !line.startsWith(name + ":")).collect(Collectors.joining("\n"));
        star.write("facts/stay.yaml", rest + "\n" + keyword);
        for (int time = 0; time < 3; time++) {
            assertThat(loaded().get(1).error()).isEmpty();
        }
    }

    @Test
    void whereStatementsOfTheUsersOwnRunEverythingIsRead() {
        star.write(
                "zeitkammer.yaml",
                star.read("zeitkammer.yaml") + "extra: [{name: one, after: load, sql: \"select 1\"}]\n");
        assertRead("dim_hut", "fact_stay");
        assertRead("dim_hut", "fact_stay");
    }

    @Test
    void rowsThatSomebodyDeletedAreMissed() {
        assumeThat(star.warehouse().countsCheaply()).isTrue();
        star.warehouse().execute("delete from fact_stay where stay_no = 1");
        assertRead("fact_stay");
        assertThat(star.rows("select count(*) from fact_stay")).containsExactly("2");
    }

    @Test
    void aTableThatIsGoneIsLoadedAnew() {
        star.warehouse().execute("drop table fact_stay");
        assertRead("fact_stay");
        assertThat(star.rows("select count(*) from fact_stay")).containsExactly("2");
    }
}
