package dev.zeitkammer.cli;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import dev.zeitkammer.cli.Program.Run;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.StreamSupport;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.TestInstance;
import org.junit.jupiter.api.io.TempDir;

/** The demo, as a newcomer runs it. */
@TestInstance(TestInstance.Lifecycle.PER_CLASS)
class DemoIT {

    private static final List<String> OUTCOMES = List.of(
            "new",
            "versioned",
            "corrected",
            "completed",
            "overwritten",
            "returned",
            "closed",
            "unchanged",
            "repeated",
            "setAside",
            "updated",
            "ignored");

    /** The first day makes the tables; on the last ones histories are rebuilt, and facts find members that came late. One of each is asked
     * for what is expected of the nights. */
    private static final Map<String, Integer> MOST_STATEMENTS = new TreeMap<>(
            Map.of("2026-03-01", 242, "2026-03-02", 160, "2026-03-03", 114, "2026-03-04", 185, "2026-03-05", 180));

    private Path folder;
    private Program here;
    private Run demo;

    @BeforeAll
    void runTheDemo(@TempDir Path temporary) {
        folder = temporary;
        demo = new Program(folder).launched("demo");
        here = new Program(folder.resolve("hut-network"));
    }

    @Test
    void tellsItsStoryAndEndsWell() {
        assertThat(demo.err()).isEmpty();
        assertThat(demo.status()).isZero();
        assertThat(demo.out())
                .contains("2026-03-05", "Load 5 for 2026-03-05: done", "dim_hut, member ADL (hut_code): 4 versions")
                .contains("Now try, in hut-network/ (where zeitkammer is /");
        assertThat(demo.out()
                        .lines()
                        .filter(line -> !line.contains("zeitkammer is /"))
                        .mapToInt(String::length))
                .allMatch(length -> length <= 125);
    }

    @Test
    void everyCountAgreesWithTheTables() {
        for (JsonNode load : here.run("journal", "--format", "json").json()) {
            for (JsonNode table : load.get("tables")) {
                assertThat(table.get("status").asText()).isEqualTo("done");
                JsonNode counts = table.get("counts");
                long sum = OUTCOMES.stream()
                        .mapToLong(name -> counts.path(name).asLong())
                        .sum();
                assertThat(sum).as(load + "").isEqualTo(counts.get("staged").asLong());
                boolean isFed = table.get("table").asText().equals("fact_booking");
                for (JsonNode lookup : isFed ? List.<JsonNode>of() : table.path("lookups")) {
                    long found = StreamSupport.stream(lookup.spliterator(), false)
                            .mapToLong(JsonNode::asLong)
                            .sum();
                    assertThat(found)
                            .isEqualTo(counts.get("staged").asLong()
                                    - counts.get("setAside").asLong()
                                    - counts.get("repeated").asLong());
                }
                assertRows(table, load.get("load").asText());
            }
        }
    }

    /** The rows that a load says it wrote carry its number, but for those that a later load wrote again. */
    private void assertRows(JsonNode table, String load) {
        String name = table.get("table").asText();
        String own = table.get("kind").asText().equals("dimension") ? " and row_origin = 'source'" : "";
        own += name.equals("dim_hut") ? " and hut_code <> 'TAN'" : "";
        long inserted = rows(name, "inserted_by = " + load + own);
        assertThat(inserted).as(name).isEqualTo(table.at("/rows/inserted").asLong());
        if (load.equals("5")) {
            assertThat(rows(name, "updated_by = 5 and inserted_by < 5"))
                    .as(name)
                    .isEqualTo(table.at("/rows/updated").asLong());
        }
    }

    private long rows(String table, String where) {
        return here.run("show", table, "--format", "csv", "--where", where)
                        .out()
                        .lines()
                        .count()
                - 1;
    }

    @Test
    void showsEveryKindOfChange() {
        assertThat(here.run("show", "hut", "--format", "csv", "--as-of", "2026-03-03", "--where", "hut_code = 'GEM'")
                        .out())
                .contains("GEM,Gemsenjoch,+41 81 555 01 05,B,32,Aita Pult");
        JsonNode kaltwasser =
                here.run("history", "hut", "KAL", "--format", "json").json();
        assertThat(kaltwasser.get("versions"))
                .extracting(version -> version.at("/row/beds").asText())
                .containsExactly("null", "18", "null");
        assertThat(here.run("show", "night_stay", "--format", "csv", "--where", "arrived_key = -2")
                        .out()
                        .lines())
                .as("nights without an arrival")
                .hasSize(2);
        assertThat(here.run("show", "night_stay", "--format", "csv", "--where", "guest_key = -1")
                        .out()
                        .lines())
                .as("guest G05 came a day later, and the night found it")
                .hasSize(1);
        assertThat(here.run("show", "booking", "--format", "csv", "--where", "booking_no in ('1003', '1010')")
                        .out()
                        .lines())
                .anyMatch(line -> line.startsWith("1003,") && line.contains("20260225,20260304,20260305,4,7,1"))
                .anyMatch(line -> line.startsWith("1010,") && line.contains("20260304,-2,-2,2,,"));
        assertThat(here.run("show", "hut", "--format", "csv", "--where", "hut_code = 'TAN'")
                        .out())
                .contains("TAN,Tannenboden", "2026-02-01,9999-12-31,true,1", ",source,");
        JsonNode last = here.run("journal", "5", "--format", "json").json();
        assertThat(last.at("/tables/3/counts/healed").asLong()
                        + last.at("/tables/4/counts/healed").asLong())
                .isEqualTo(2);
        assertThat(last.at("/tables/4/counts/followed").asLong()).isEqualTo(2);
        assertThat(last.at("/tables/2/counts/completed").asLong()).isEqualTo(1);
        assertThat(here.run("journal", "4").out())
                .contains("fact_booking.hut made placeholders for TAN (1 row)")
                .contains("fact_night_stay.guest found nobody for G05 (1 row)");
        JsonNode aside = here.run("set-aside", "4", "--format", "json").json();
        assertThat(aside)
                .extracting(row ->
                        row.get("reason").asText() + " " + row.get("line").asInt())
                .containsExactly("bad value 5", "bad line 6");
    }

    @Test
    void rehearsesWhatALoadWouldDoAndKeepsNothing() {
        Program fresh = new Program(folder.resolve("rehearsed"));
        new Program(folder).run("new", "rehearsed");
        for (String file : List.of(
                "inputs/huts.yaml",
                "inputs/nights.yaml",
                "inputs/guests.yaml",
                "dimensions/hut.yaml",
                "dimensions/guest.yaml",
                "dimensions/calendar.yaml",
                "facts/night_stay.yaml")) {
            fresh.write(file, here.read(file));
        }
        for (String file : List.of("huts.csv", "guests.csv", "nights.csv")) {
            for (String day : List.of("2026-03-01", "2026-03-02", "2026-03-04")) {
                fresh.write("deliveries/" + day + "/" + file, here.read("deliveries/" + day + "/" + file));
            }
        }
        assertThat(fresh.run("rehearse", "--date", "2026-03-01").out())
                .contains("nothing is kept", "dim_hut", "No value of a member or fact that is there would change.");
        assertThat(folder.resolve("rehearsed/warehouse.duckdb")).doesNotExist();
        fresh.run("load", "--date", "2026-03-01");
        List<String> before = List.of(
                fresh.wholeTable("hut"),
                fresh.wholeTable("night_stay"),
                fresh.run("journal").out());
        JsonNode rehearsal = fresh.run("rehearse", "--date", "2026-03-02", "--format", "json")
                .json();
        assertThat(List.of(
                        fresh.wholeTable("hut"),
                        fresh.wholeTable("night_stay"),
                        fresh.run("journal").out()))
                .isEqualTo(before);
        JsonNode load =
                fresh.run("load", "--date", "2026-03-02", "--format", "json").json();
        for (int table = 0; table < 4; table++) {
            assertThat(rehearsal.at("/tables/" + table + "/counts")).isEqualTo(load.at("/tables/" + table + "/counts"));
        }
        assertThat(rehearsal.get("changes"))
                .extracting(change -> change.get("table").asText() + "."
                        + change.get("attribute").asText() + " "
                        + change.at("/values/0/key").asText() + " "
                        + change.at("/values/0/old").asText() + " → "
                        + change.at("/values/0/new").asText() + ", "
                        + change.at("/values/0/causes").asText())
                .contains(
                        "dim_hut.category ADL B → A, new version",
                        "dim_hut.phone BIR +41 81 555 01 02 → +41 81 555 99 02, in place",
                        "dim_hut.beds FUR 38 → 44, new version");
        assertThat(fresh.run("rehearse", "--date", "2026-03-04", "night_stay", "--format", "json")
                        .json()
                        .get("changes"))
                .extracting(change -> change.get("attribute").asText())
                .contains("arrived_key");
    }

    @Test
    void provesWhatMustHold() {
        Run verify = here.run("verify", "--format", "json");
        assertThat(verify.status()).isZero();
        assertThat(verify.json())
                .hasSizeGreaterThan(25)
                .allMatch(proof -> proof.get("holds").asBoolean());
    }

    @Tag("slow")
    @Test
    void doesNoHarmWhenRunAgain() throws Exception {
        Path copy = folder.resolve("second");
        Program second = new Program(copy.resolve("huts"));
        Files.createDirectories(copy);
        new Program(copy).run("demo", "huts");
        String huts = second.wholeTable("hut");
        String nights = second.wholeTable("night_stay");
        second.write("dimensions/hut.yaml", second.read("dimensions/hut.yaml") + "# my own note\n");
        Run again = new Program(copy).run("demo", "huts");
        assertThat(again.status()).isZero();
        assertThat(again.out()).contains("Loaded earlier");
        assertThat(second.wholeTable("hut")).isEqualTo(huts);
        assertThat(second.wholeTable("night_stay")).isEqualTo(nights);
        assertThat(second.read("dimensions/hut.yaml")).contains("# my own note");
    }

    @Tag("slow")
    @Test
    void changesNothingWhenADeliveryIsLoadedAgain() {
        List<String> before = tables();
        Run load = here.run("load", "--date", "2026-03-05", "--format", "json");
        assertThat(load.status()).isZero();
        for (JsonNode table : load.json().get("tables")) {
            assertThat(table.at("/rows/inserted").asLong()
                            + table.at("/rows/updated").asLong())
                    .isZero();
            assertThat(table.at("/counts/unchanged").asLong())
                    .isEqualTo(table.at("/counts/staged").asLong());
        }
        assertThat(tables()).isEqualTo(before);
    }

    private List<String> tables() {
        return List.of(
                here.wholeTable("hut"),
                here.wholeTable("guest"),
                here.wholeTable("night_stay"),
                here.wholeTable("booking"));
    }

    @Tag("slow")
    @Test
    void theJournalShowsOneTableOverTime() {
        assertThat(here.run("journal", "hut", "--format", "json").json())
                .hasSize(5)
                .allSatisfy(load -> assertThat(load.path("tables")).hasSize(1));
        assertThat(here.run("journal", "hut").out().lines().filter(line -> line.contains("2026-03-04")))
                .singleElement()
                .satisfies(line -> assertThat(line).contains("done", " 5 ", " 2 "));
        assertThat(here.run("journal", "--since", "2100-01-01").out()).startsWith("No load has begun since 2100-01-01");
        assertThat(here.run("journal", "--since", "2000-01-01").out())
                .isEqualTo(here.run("journal").out());
        assertThat(here.run("journal", "hutt").err()).contains("did you mean \"hut\"?");
    }

    @Test
    void explainsALoadAsSqlThatRunsNothing() {
        String before = here.wholeTable("hut");
        Run explain = here.run("explain", "hut");
        assertThat(explain.status()).isZero();
        assertThat(explain.out())
                .contains("-- 1. stage", "comparison", "insert rows", "insert into \"main\".\"dim_hut\"");
        assertThat(here.wholeTable("hut")).isEqualTo(before);
    }

    /** A load costs what its statements cost to plan, as long as deliveries are small. */
    @Tag("slow")
    @Test
    void aDayIsLoadedInFewStatementsAndCanBeTakenBack(@TempDir Path other) {
        Map<Integer, String> known = new TreeMap<>();
        new Program(other).run("demo", "-q");
        Program program = new Program(other.resolve("hut-network"));
        assertThat(other.resolve("hut-network/warehouse.duckdb").toFile().delete())
                .isTrue();
        for (Map.Entry<String, Integer> day : MOST_STATEMENTS.entrySet()) {
            Run load = program.run("load", "--date", day.getKey(), "-v", "--log", "log.jsonl");
            assertThat(load.status()).isZero();
            Matcher said = Pattern.compile("(?m)^(\\d+) statements").matcher(load.err());
            assertThat(said.find()).as(load.err()).isTrue();
            assertThat(Integer.parseInt(said.group(1))).as(day.getKey()).isBetween(60, day.getValue());
            known.put(known.size() + 1, program.wholeTable("hut"));
        }
        List<String> events = program.lines("log.jsonl").stream()
                .filter(line -> !line.contains("\"event\":\"step\""))
                .toList();
        assertThat(events)
                .filteredOn(line -> line.contains("\"event\":\"begins\""))
                .hasSize(5);
        assertThat(events)
                .filteredOn(line -> line.contains("\"event\":\"table\",\"table\":\"dim_hut\",\"status\":\"done\""))
                .hasSize(5);
        assertThat(events.get(events.size() - 1))
                .endsWith("\"event\":\"ends\",\"load\":5,\"date\":\"2026-03-05\",\"status\":\"done\"}");
        assertThat(program.run("load", "--log", "nowhere/log").err())
                .contains("Cannot write the log", "there is no folder");
        known.forEach((load, hut) -> assertThat(program.run("show", "hut", "--format", "csv", "--known-at", "" + load)
                        .out())
                .as("known after load " + load)
                .isEqualTo(hut));
        assertThat(program.run("compare", "3", "4", "hut").out()).contains("From load 3 to load 4", "dim_hut");
        assertThat(program.run("undo", "4", "--show").out()).contains("Load 5", "would be taken back", "old → new");
        assertThat(program.wholeTable("hut")).isEqualTo(known.get(5));
        assertThat(program.run("tidy").out()).contains("warehouse.duckdb", "freed");
        assertThat(program.run("undo", "4").out()).contains("Load 5 for 2026-03-05: taken back", "Load 4");
        assertThat(program.wholeTable("hut")).isEqualTo(known.get(3));
        assertThat(program.run("journal").out()).contains("undone");
        assertThat(program.run("load", "--dates", "2026-03-04..2026-03-05").status())
                .isZero();
        assertThat(program.run("verify", "-q").status()).isZero();
        assertThat(program.run("show", "hut", "--known-at", "5").err()).contains("Load 5 was taken back");
    }
}
