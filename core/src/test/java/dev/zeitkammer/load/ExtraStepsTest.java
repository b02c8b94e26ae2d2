package dev.zeitkammer.load;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.zeitkammer.books.ExtraRun;
import dev.zeitkammer.books.Journal;
import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.definition.DefinitionException;
import dev.zeitkammer.staging.LoadDate;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Path;
import java.time.Clock;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.condition.DisabledOnOs;
import org.junit.jupiter.api.condition.OS;
import org.junit.jupiter.api.io.TempDir;

/** Statements and commands of the user's own, at each place, with each way to end. */
@DisabledOnOs(OS.WINDOWS)
class ExtraStepsTest {

    @TempDir
    Path folder;

    private TestStar star(String... steps) {
        TestStar star = new TestStar(folder)
                .write("dimensions/hut.yaml", """
                        dimension: hut
                        from: {files: "huts-{date}.csv"}
                        key: code
                        attributes: {beds: {type: 1, as: integer}}
                        """)
                .write("facts/stay.yaml", """
                        fact: stay
                        from: {files: "stays-{date}.csv"}
                        grain: no
                        lookups: {hut: {match: code}}
                        measures: {guests: integer}
                        """)
                .write("huts-2026-03-01.csv", "code,beds\nADL,30\n")
                .write("stays-2026-03-01.csv", "no,code,guests\n1,ADL,2\n")
                .write("huts-2026-03-02.csv", "code,beds\nADL,31\n")
                .write("stays-2026-03-02.csv", "no,code,guests\n2,ADL,2\n");
        return extra(star, steps);
    }

    private static TestStar extra(TestStar star, String... steps) {
        return star.write(
                "zeitkammer.yaml",
                "project: test\nwarehouses: {memory: {url: \"jdbc:duckdb:\"}}\nextra:\n  - "
                        + String.join("\n  - ", steps) + "\n");
    }

    private static List<String> told(LoadEntry load) {
        return load.extra().stream().map(run -> run.name() + " " + run.status()).toList();
    }

    @Test
    void theyRunAtTheirPlacesAndTheJournalKeepsThem() {
        try (TestStar star = star(
                "{name: a, before: load, sql: \"create table trace (what varchar(40))\"}",
                "{name: b, before: dimensions, sql: \"insert into trace values ('b {date}')\"}",
                "{name: c, before: hut, sql: \"insert into trace values ('c {load}')\"}",
                "{name: d, after: dim_hut, in: transaction, sql: \"insert into trace select beds || ' beds' from dim_hut where hut_key > 0;\"}",
                "{name: e, after: dimensions, sql: \"insert into trace values ('e')\"}",
                "{name: f, before: facts, command: [sh, -c, \"echo $ZEITKAMMER_DATE $ZEITKAMMER_LOAD; echo $ZEITKAMMER_PROJECT; echo {date} >&2; pwd\"]}",
                "{name: g, after: stay, sql: \"insert into trace select 'stays ' || count(*) from fact_stay\"}",
                "{name: h, after: load, sql: \"insert into trace values ('h')\"}")) {
            LoadEntry load = star.load("2026-03-01");
            assertThat(load.status()).isEqualTo(LoadStatus.DONE);
            assertThat(told(load))
                    .containsExactly("a done", "b done", "c done", "d done", "e done", "f done", "g done", "h done");
            assertThat(star.rows("select what from trace order by what"))
                    .containsExactly("30 beds", "b 2026-03-01", "c 1", "e", "h", "stays 1");
            ExtraRun command = new Journal(star.warehouse()).load(1).extra().get(5);
            assertThat(command.output().lines())
                    .containsExactly(
                            "2026-03-01 1",
                            folder.toString(),
                            "2026-03-01",
                            folder.toRealPath().toString());
            assertThat(command.where()).isEqualTo("before facts");
        } catch (IOException unreal) {
            throw new UncheckedIOException(unreal);
        }
    }

    @Test
    void aStepThatFailsStopsWhatComesAfterOrIsNoted() {
        try (TestStar star = star("{name: check, before: facts, command: [sh, -c, \"echo no paper; exit 7\"]}")) {
            LoadEntry load = star.load("2026-03-01");
            assertThat(load.status()).isEqualTo(LoadStatus.FAILED);
            assertThat(load.tables())
                    .extracting(entry -> entry.table() + " " + entry.status())
                    .containsExactly("dim_hut DONE", "fact_stay BLOCKED");
            assertThat(load.tables().get(1).error()).hasValue("the extra step \"check\" failed: exit status 7");
            assertThat(load.extra().get(0).output()).isEqualTo("no paper\nexit status 7");
            extra(
                    star,
                    "{name: check, before: facts, otherwise: note, command: [./nowhere.sh]}",
                    "{name: last, after: load, sql: select 1}");
            LoadEntry noted = star.load("2026-03-01");
            assertThat(noted.status()).isEqualTo(LoadStatus.DONE);
            assertThat(told(noted)).containsExactly("check failed", "last done");
            assertThat(noted.extra().get(0).output()).contains("nowhere.sh", "it could not be run");
            extra(star, "{name: last, after: load, sql: select nothing from nowhere}");
            assertThat(star.load("2026-03-01").status())
                    .as("what stands stands, and the load is not done")
                    .isEqualTo(LoadStatus.FAILED);
            assertThat(star.rows("select count(*) from fact_stay")).containsExactly("1");
        }
    }

    @Test
    void inATransactionItStandsAndFallsWithTheTable() {
        try (TestStar star = star(
                "{name: mark, after: stay, in: transaction, sql: \"update fact_stay set guests = guests + 100 where no = 1 and guests < 100\"}")) {
            assertThat(star.load("2026-03-01").status()).isEqualTo(LoadStatus.DONE);
            assertThat(star.rows("select no, guests from fact_stay")).containsExactly("1|102");
            extra(
                    star,
                    "{name: mark, after: stay, in: transaction, sql: \"insert into fact_stay (nobody) values (1)\"}");
            LoadEntry load = star.load("2026-03-02");
            assertThat(load.tables().get(1).status()).isEqualTo(LoadStatus.FAILED);
            assertThat(load.tables().get(1).error().orElseThrow())
                    .contains("The extra step \"mark\" failed in the transaction of stay, which is taken back");
            assertThat(star.rows("select no from fact_stay")).containsExactly("1");
        }
    }

    /** It was done, and then the table stopped: what it did is gone, and the journal says so. */
    @Test
    void whatIsTakenBackWithItsTableIsNotToldAsDone() {
        try (TestStar star =
                star("{name: audit, before: stay, in: transaction, sql: \"create table audit as select 1 as one\"}")) {
            star.write(
                    "facts/stay.yaml", star.read("facts/stay.yaml") + "assert: [{name: guests, rows: guests > 2}]\n");
            LoadEntry load = star.load("2026-03-01");
            assertThat(load.tables().get(1).status()).isEqualTo(LoadStatus.STOPPED);
            assertThat(told(load)).containsExactly("audit taken back");
            assertThat(told(new Journal(star.warehouse()).load(load.load()))).containsExactly("audit taken back");
            assertThat(star.warehouse().has("audit")).isFalse();
        }
    }

    @Test
    void aCommandThatHangsIsStoppedWithWhatItStarted() {
        try (TestStar star = star(
                "{name: wait, after: hut, time-limit: 1 second, command: [sh, -c, \"echo begun; sleep 99 & sleep 98\"]}")) {
            long began = System.nanoTime();
            LoadEntry load = star.load("2026-03-01");
            assertThat((System.nanoTime() - began) / 1e9).isLessThan(30);
            assertThat(told(load)).containsExactly("wait stopped");
            assertThat(load.extra().get(0).output()).isEqualTo("begun\nstopped after 1 s (time-limit)");
            assertThat(load.status()).isEqualTo(LoadStatus.FAILED);
            assertThat(ProcessHandle.allProcesses()
                            .filter(process ->
                                    process.info().commandLine().orElse("").matches(".*sleep 9[89].*")))
                    .isEmpty();
        }
    }

    @Test
    void ofMuchOutputTheLastLinesAreKept() {
        try (TestStar star = star(
                "{name: much, after: load, command: [sh, -c, \"i=0; while [ $i -lt 20000 ]; do echo line $i of a great many lines; i=$((i+1)); done; head -c 300000 /dev/zero | tr '\\\\0' x\"]}")) {
            String output = star.load("2026-03-01").extra().get(0).output();
            List<String> lines = output.lines().toList();
            assertThat(lines).hasSize(100);
            assertThat(lines.get(0)).isEqualTo("line 19901 of a great many lines");
            assertThat(lines.get(99)).hasSize(1000).matches("x+");
        }
    }

    @Test
    void aRehearsalSaysWhatWouldRunAndRunsNothing() {
        try (TestStar star = star(
                "{name: a, before: load, command: [touch, touched]}",
                "{name: b, after: stay, in: transaction, sql: \"insert into nowhere values (1)\"}")) {
            LoadEntry load = new Loader(star.project(), star.warehouse(), LoadListener.NONE, Clock.systemUTC())
                    .rehearse(LoadDate.parse("2026-03-01"), List.of())
                    .load();
            assertThat(told(load)).containsExactly("a would run", "b would run");
            assertThat(folder.resolve("touched")).doesNotExist();
        }
    }

    @Test
    void stepsAfterWhatDidNotEndWellHearOfIt() {
        String tell = "command: [sh, -c, \"echo $ZEITKAMMER_STATUS $ZEITKAMMER_TABLE: $ZEITKAMMER_ERROR; cat\"]}";
        try (TestStar star = star(
                "{name: fail, after: hut, on: failure, " + tell,
                "{name: stop, after: hut, on: stopped, " + tell,
                "{name: all, after: load, on: stopped, " + tell,
                "{name: never, after: load, on: failure, command: [touch, here]}",
                "{name: done, after: load, sql: select 1}")) {
            assertThat(told(star.load("2026-03-01"))).containsExactly("done done");
            star.write(
                    "dimensions/hut.yaml",
                    star.read("dimensions/hut.yaml") + "assert: [{name: enough, rows: \"beds > 90\"}]\n");
            LoadEntry load = star.load("2026-03-02");
            assertThat(load.status()).isEqualTo(LoadStatus.STOPPED);
            assertThat(told(load)).containsExactly("stop done", "all done");
            List<String> heard = new Journal(star.warehouse())
                    .load(2)
                    .extra()
                    .get(0)
                    .output()
                    .lines()
                    .toList();
            assertThat(heard.get(0)).startsWith("stopped dim_hut: ").contains("enough");
            assertThat(heard.get(1))
                    .startsWith(
                            "{\"load\":2,\"date\":\"2026-03-02\",\"status\":\"stopped\",\"tables\":[{\"table\":\"dim_hut\",\"status\":\"stopped\"")
                    .contains("\"error\":\"");
            assertThat(load.extra().get(1).output()).contains("\"table\":\"fact_stay\",\"status\":\"blocked\"");
            star.write("huts-2026-03-02.csv", "nothing\n1\n");
            extra(
                    star,
                    "{name: fail, after: hut, on: failure, otherwise: note, command: [./nowhere.sh]}",
                    "{name: last, after: load, on: failure, command: [sh, -c, exit 3]}");
            LoadEntry failed = star.load("2026-03-02");
            assertThat(failed.status()).isEqualTo(LoadStatus.FAILED);
            assertThat(told(failed)).containsExactly("fail failed", "last failed");
        }
    }

    @Test
    void aStepThatStopsTheLoadIsHeardOf() {
        try (TestStar star = star(
                "{name: check, before: facts, command: [sh, -c, exit 7]}",
                "{name: told, after: load, on: failure, command: [sh, -c, echo $ZEITKAMMER_ERROR]}")) {
            LoadEntry load = star.load("2026-03-01");
            assertThat(told(load)).containsExactly("check failed", "told done");
            assertThat(load.extra().get(1).output()).isEqualTo("the extra step \"check\" failed: exit status 7");
        }
    }

    @Test
    void wrongStepsAreNamedWithTheirPlaces() {
        List.of(
                        "{name: a, sql: select 1}|runs \"before\" or \"after\" something",
                        "{name: a, after: load}|has \"sql\" or \"command\"",
                        "{name: a, after: huts, sql: select 1}|there is no table \"huts\"; did you mean \"hut\"?",
                        "{name: a, after: load, in: transaction, sql: select 1}|is for a statement before or after one table",
                        "{name: a, after: hut, in: transaction, otherwise: note, sql: select 1}|ends the transaction it is in",
                        "{name: a, after: load, command: [a], time-limit: soon}|expected a time such as 10 minutes",
                        "{name: a, after: hut, in: transaction, sql: \"delete from dim_hut; commit; begin\"}|holds several statements",
                        "{name: a, after: hut, sql: \"select 1; select 2\"}|holds several statements; make a step of each",
                        "{name: a, after: hut, in: transaction, sql: commit}|\"commit\" begins or ends a transaction",
                        "{name: a, after: hut, in: transaction, sql: \"/* x */ Rollback to y\"}|\"rollback\" begins or ends",
                        "{name: a, before: load, on: failure, sql: select 1}|expected it beside after",
                        "{name: a, after: facts, on: stopped, sql: select 1}|after load or after one table",
                        "{name: a, after: load, on: late, sql: select 1}|valid are: done, failure, stopped",
                        "{after: load, command: [a]}|\"name\" is missing")
                .forEach(each -> {
                    String[] parts = each.split("\\|");
                    try (TestStar star = star(parts[0])) {
                        assertThatThrownBy(star::project)
                                .isInstanceOf(DefinitionException.class)
                                .hasMessageStartingWith("zeitkammer.yaml:4:")
                                .hasMessageContaining(parts[1]);
                    }
                });
    }
}
