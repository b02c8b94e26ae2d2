package dev.zeitkammer.cli;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import dev.zeitkammer.cli.Program.Run;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** The program on a small project: what its commands say and write, and its exit statuses. */
class ProgramIT extends SmallProject {

    @Test
    void loadsDayByDayAndEndsAtTheDayThatFails() {
        here.write("2026-03-02/huts.csv", "");
        here.write("2026-03-03/huts.csv", HUTS);
        Run load = here.launched("load", "--dates", "2026-03-01..2026-03-03", "--format", "json");
        assertThat(load.status()).isEqualTo(1);
        assertThat(load.json())
                .extracting(day ->
                        day.get("date").asText() + " " + day.get("status").asText())
                .containsExactly("2026-03-01 done", "2026-03-02 failed");
        here.write("2026-03-02/huts.csv", HUTS);
        assertThat(here.run("load", "--dates", "2026-03-02..2026-03-03").status())
                .isZero();
        Run skipped = here.run("load", "--date", "2020-01-01", "--format", "csv");
        assertThat(skipped.out()).contains("2020-01-01,dim_hut,dimension,skipped,,,\n");
    }

    @Test
    void jsonOfALoadHasTheAgreedForm() {
        JsonNode load = here.run("load", "hut", "--date", "2026-03-01", "--format", "json")
                .json();
        assertThat(load.get("load").asInt()).isEqualTo(1);
        assertThat(load.get("date").asText()).isEqualTo("2026-03-01");
        assertThat(load.get("status").asText()).isEqualTo("done");
        JsonNode table = load.at("/tables/0");
        assertThat(table.get("table").asText()).isEqualTo("dim_hut");
        assertThat(table.get("kind").asText()).isEqualTo("dimension");
        assertThat(table.at("/rows/inserted").asInt()).isEqualTo(1);
        assertThat(table.get("counts").fieldNames())
                .toIterable()
                .containsExactly(
                        "staged",
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
                        "waiting",
                        "absent",
                        "late");
    }

    @Test
    void csvIsRfc4180WithNullAsAnEmptyField() {
        here.write(
                "2026-03-01/huts.csv",
                "hut_code,hut_name,beds,changed_on\n\"A,1\",\"say \"\"hut\"\"\",,2026-03-01\nB,\"\",1,2026-03-01\n");
        assertThat(here.run("load", "--date", "2026-03-01").status()).isZero();
        assertThat(here.run("show", "hut", "--format", "csv", "--where", "hut_key > 0")
                        .out())
                .contains("1,\"A,1\",\"say \"\"hut\"\"\",,2026-03-01,9999-12-31,true,1,2026-03-01,false,source,")
                .contains("2,B,\"\",1,2026-03-01,");
    }

    @Test
    void wrongUsageSaysWhatIsMeant() {
        assertThat(here.launched("laod").err()).contains("There is no command \"laod\"; did you mean \"load\"?");
        assertThat(here.launched("load", "--date", "yesterday").status()).isEqualTo(2);
        Run unknown = here.run("load", "huts");
        assertThat(unknown.status()).isEqualTo(2);
        assertThat(unknown.err()).contains("no table \"huts\"", "did you mean \"hut\"?");
        assertThat(here.run("show", "hut").err()).contains("There is no warehouse yet");
        assertThat(new Program(folder).run("check").err())
                .contains("There is no zeitkammer.yaml", "zeitkammer new DIR");
    }

    @Test
    void writesAnEmptyProjectOnce() {
        Program outside = new Program(folder);
        assertThat(outside.run("new", "mine").status()).isZero();
        assertThat(outside.run("-p", "mine", "check").status()).isZero();
        assertThat(new Program(folder.resolve("mine")).read("zeitkammer.yaml"))
                .startsWith("# yaml-language-server: $schema=schema/project.json\nproject: mine\n");
        assertThat(outside.run("new", "mine").status()).isEqualTo(2);
    }

    @Test
    void whatIsNotThereIsNoSuccess() {
        Run nothing = here.run("verify");
        assertThat(nothing.status()).isEqualTo(1);
        assertThat(nothing.err()).contains("There is no warehouse yet");
        assertThat(here.run("align").status()).isZero();
        here.write(
                "dimensions/hut.yaml", here.read("dimensions/hut.yaml").replace("dimension: hut", "dimension: cabin"));
        Run unproven = here.run("verify");
        assertThat(unproven.status()).isEqualTo(1);
        assertThat(unproven.err()).contains("Nothing is proven: none of the tables stands in");
        assertThat(here.run("journal", "999").status()).isEqualTo(2);
        assertThat(here.run("undo", "999").status()).isEqualTo(2);
    }

    @Test
    void definitionsMayStandInFoldersOfTheirOwn() {
        here.write(
                "dimensions/places/pass.yaml",
                "dimension: pass\nfrom: {files: passes.csv}\nkey: code\nattributes: {}\n");
        here.write("passes.csv", "code\nP1\n");
        assertThat(here.run("load", "pass").status()).isZero();
        assertThat(here.table("pass")).anyMatch(row -> row.startsWith("1,P1,"));
    }

    @Test
    void verboseTellsEachStatementWithItsTimeAndRows() {
        Run load = here.run("load", "--date", "2026-03-01", "-v");
        assertThat(load.err().lines())
                .anyMatch(line -> line.equals("dim_hut: stage"))
                .anyMatch(line -> line.matches(" +\\d+\\.\\d{3} s +1 row  insert into \"main\"\\.\"dim_hut\".*"))
                .anyMatch(line -> line.matches(" +\\d+\\.\\d{3} s +commit"))
                .anyMatch(line -> line.contains(" statements were given to "));
    }

    @Test
    void writesTheSchemasOfDefinitions() {
        Run schema = here.run("schema", "--to", "for-editors");
        assertThat(schema.status()).as(schema.err()).isZero();
        assertThat(schema.out().lines()).hasSize(4).contains("Wrote for-editors/dimension.json");
        assertThat(here.read("for-editors/fact.json")).contains("\"$defs\"", "\"on-repeat\"");
    }

    @Test
    void draftsAStarOfFilesThatLoadsAsItStands() {
        Program outside = new Program(folder);
        outside.write("office/2026-03-01/huts.csv", HUTS + "BRG,Bergheim,30,2026-03-01\n");
        outside.write(
                "office/2026-03-01/nights.csv",
                "night_no,hut_code,night_on,guests\n1,ADL,2026-03-02,2\n2,BRG,2026-03-02,3\n");
        Run drafted = outside.run("new", "mine", "--from", "office");
        assertThat(drafted.status()).as(drafted.err()).isZero();
        assertThat(drafted.out()).contains("its key is hut_code, found again in nights.hut_code");
        assertThat(drafted.err()).contains("zeitkammer -p mine load --date 2026-03-01");
        assertThat(outside.run("-p", "mine", "check").status()).isZero();
        assertThat(outside.run("-p", "mine", "load", "--date", "2026-03-01").status())
                .isZero();
        assertThat(outside.run("-p", "mine", "verify", "-q").status()).isZero();
        Run nothing = outside.run("new", "other", "--from", "nowhere");
        assertThat(nothing.status()).isEqualTo(2);
        assertThat(nothing.err()).contains("There is no file or folder");
        assertThat(folder.resolve("other")).doesNotExist();
    }

    @Test
    void checkAndAlignShowCreateNothing() {
        assertThat(here.run("check").out()).contains("dim_hut", "fits 2026-03-01/huts.csv", "No errors.");
        assertThat(here.run("align", "--show").out()).contains("create table \"main\".\"dim_hut\"", "\"beds\" integer");
        assertThat(folder.resolve("small/warehouse.duckdb")).doesNotExist();
        assertThat(here.run("align").status()).isZero();
        assertThat(here.table("hut")).hasSize(3).anyMatch(row -> row.startsWith("-1,,Unknown"));
        assertThat(here.run("load", "--date", "2026-03-01", "--no-align").status())
                .isZero();
        here.write(
                "dimensions/hut.yaml",
                here.read("dimensions/hut.yaml")
                        .replace("beds: type 2", "beds: type 2, label: {type: 1, take: hut_name}"));
        assertThat(here.run("load", "--date", "2026-03-01", "--no-align").out()).contains("--no-align was given");
        assertThat(here.run("load", "--date", "2026-03-01").status()).isZero();
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "",
                "demo",
                "new",
                "schema",
                "check",
                "align",
                "load",
                "show",
                "history",
                "explain",
                "verify",
                "journal",
                "set-aside"
            })
    void helpFitsEightyColumns(String command) {
        Run help = command.isEmpty() ? here.run("--help") : here.run(command, "--help");
        assertThat(help.status()).isZero();
        assertThat(help.out()).startsWith("Usage: zeitkammer");
        assertThat(help.out().lines().mapToInt(String::length)).allMatch(length -> length <= 80);
    }

    /** What a monitor asks, and what one that collects numbers reads. */
    @Test
    void loadsAreWatchedFromOutside() {
        here.write("zeitkammer.yaml", here.read("zeitkammer.yaml") + "metrics: {to: numbers.txt}\n");
        Run none = here.run("journal", "--within", "26h");
        assertThat(none.status()).isEqualTo(1);
        here.run("load", "hut", "--date", "2026-03-01");
        Run good = here.run("journal", "hut", "--within", "26 h");
        assertThat(good.status()).isZero();
        assertThat(good.out()).contains("The newest load of dim_hut that ended well is load 1, at 2");
        assertThat(here.read("numbers.txt"))
                .contains("# TYPE zeitkammer_load_done gauge\n")
                .containsPattern("zeitkammer_load_done\\{project=\"[^\"]+\",warehouse=\"local\"} 1\n")
                .contains("table=\"dim_hut\"} 1\n")
                .endsWith("# EOF\n");
        here.write("2026-03-02/huts.csv", "");
        here.run("load", "hut", "--date", "2026-03-02");
        here.write("notes.txt", "mine\n");
        here.write("zeitkammer.yaml", here.read("zeitkammer.yaml").replace("numbers.txt", "notes.txt"));
        assertThat(here.run("load", "hut", "--date", "2026-03-01", "--again").err())
                .contains("Note: cannot write the metrics to notes.txt")
                .contains("holds something else than metrics");
        assertThat(here.read("notes.txt")).isEqualTo("mine\n");
        assertThat(here.read("numbers.txt")).containsPattern("zeitkammer_load_done\\{[^}]+} 0\n");
        Run old = here.run("journal", "--within", "0s", "--format", "json");
        assertThat(old.status()).isEqualTo(1);
        assertThat(old.json().get("good").asBoolean()).isFalse();
        assertThat(old.json().get("load").asText()).isEqualTo("3");
    }
}
