package dev.zeitkammer.cli;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import dev.zeitkammer.cli.Program.Run;
import java.nio.file.Path;
import java.time.LocalDate;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** What the program does about inputs beside loading them: drafts, profiles, checks, marks, rows written back, catching up. */
class InputsIT {

    private static final String HUTS = """
            code;name;category;beds;changed_on;status
            A;Alphütte;x;12;1.3.2026;ok
            B;Bergrüti;x;30;2.3.2026;ok
            C;Chamm;y;;28.2.2026;D
            D;Dossen;y;30;1.3.2026;ok
            """;

    @TempDir
    Path folder;

    private Program here;

    @BeforeEach
    void project() {
        here = new Program(folder);
        here.write("zeitkammer.yaml", "project: star\n");
    }

    private Run ok(String... args) {
        Run run = here.run(args);
        assertThat(run.status()).as(run.out() + run.err()).isZero();
        return run;
    }

    @Test
    void draftsDefinitionsThatLoadAsTheyStand() {
        here.write("huts.csv", HUTS);
        here.write("dimensions/days.yaml", "dimension: days\nkind: calendar\ndays: 2026-01-01..2026-12-31\n");
        Run drafted = ok("draft", "dimension", "hut", "--from", "huts.csv");
        assertThat(drafted.out()).contains("code", "key", "date of change", "marks deletions");
        assertThat(here.read("dimensions/hut.yaml"))
                .contains("key: code", "category: type 2", "name: type 1", "effective: changed_on", "delimiter: \";\"")
                .contains("deletions: {when: \"\\\"status\\\" = 'D'\"}");
        JsonNode load = ok("load", "hut", "--format", "json").json();
        assertThat(load.at("/tables/0/counts/new").asLong()).isEqualTo(3);
        here.write("stays.jsonl", """
                {"stay_no": 1, "hut_code": "A", "night": "2026-03-01", "guests": 2, "paid": 60.50}
                {"stay_no": 2, "hut_code": "B", "night": "2026-03-02", "guests": 4, "paid": 99.90}
                """);
        ok("draft", "fact", "stay", "--from", "stays.jsonl");
        assertThat(here.read("facts/stay.yaml"))
                .contains("grain: stay_no", "match: {code: hut_code}", "{dimension: days, match: night}")
                .contains("paid: \"decimal(18,", "guests: bigint");
        JsonNode facts =
                ok("load", "stay", "--with-dimensions", "--format", "json").json();
        assertThat(facts.get("tables").get(2).at("/counts/new").asLong()).isEqualTo(2);
        Run again = here.run("draft", "dimension", "hut", "--from", "huts.csv");
        assertThat(again.status()).isEqualTo(2);
        assertThat(again.err()).contains("already; nothing was changed");
        assertThat(here.run("draft", "fact", "x", "--from", "nowhere.csv").err())
                .contains("There is no file nowhere.csv");
    }

    @Test
    void draftsAFileOfWhichNothingIsUnique() {
        here.write("odd.csv", "version,is_current,no\nx,1,\nx,1,\n");
        ok("draft", "dimension", "odd", "--from", "odd.csv");
        assertThat(here.read("dimensions/odd.yaml")).contains("source_is_current", "no two or three together");
        ok("load", "odd");
        here.write("none.csv", "a,b\n");
        ok("draft", "fact", "none", "--from", "none.csv");
        ok("load", "none");
    }

    @Test
    void checkCountsWhatALoadWouldStumbleOver() {
        here.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: huts.csv, columns: {beds: integer, since: date}}
                key: code
                attributes: {beds: type 2}
                history: {effective: since}
                """);
        here.write("huts.csv", """
                code,beds,since,note
                A,many,2026-03-01,
                B,1,2026-03-01,
                B,2,2026-03-01,
                ,2,2026-03-01,
                E,5,2026-03-01,
                E,5,2026-03-01,
                F,5,9999-03-01,
                """);
        String found = ok("check").out();
        assertThat(found)
                .contains("1 row with a value in beds", "\"many\"")
                .contains("1 row without a value in the key")
                .contains("2 rows with the same key (code, since) and different values")
                .contains("1 row repeats another one")
                .contains("1 row with a date in since that is still to come")
                .contains("staged and not used: note");
        JsonNode profile = ok("check", "--profile", "--format", "json").json();
        assertThat(profile.at("/0/rows").asLong()).isEqualTo(7);
        assertThat(profile.at("/0/columns/0/nulls").asLong()).isEqualTo(1);
        assertThat(profile.at("/0/columns/2/greatest").asText()).isEqualTo("9999-03-01");
    }

    @Test
    void catchingUpLoadsADeliveryThatCameLater() {
        here.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: "huts-{date}.csv", columns: {code: varchar, beds: integer}}
                key: code
                attributes: {beds: type 2}
                """);
        here.write(
                "facts/night.yaml", "fact: night\nfrom: {files: \"nights-{date}.csv\"}\ngrain: no\nlookups: {hut: }\n");
        here.write("nights-2026-03-01.csv", "no,code\n1,A\n");
        here.write("huts-2026-03-02.csv", "code,beds\nA,1\n");
        ok("load", "--dates", "2026-03-01..2026-03-02");
        here.write("nights-2026-03-02.csv", "no,code\n2,A\n");
        here.write("huts-2026-03-01.csv", "code,beds\nA,2\n");
        Run late = ok("load", "--dates", "2026-03-01..2026-03-02");
        assertThat(late.err())
                .contains("2026-03-01: dim_hut was loaded for a later day already", "this delivery is left out")
                .doesNotContain("2026-03-02 is loaded already");
        assertThat(ok("show", "night", "--format", "csv").out().lines()).hasSize(3);
        Run staged = ok("show", "night:input");
        assertThat(staged.out()).contains("no  code").doesNotContain("hut_key");
        assertThat(staged.err()).contains("1 row of nights-2026-03-02.csv");
        Run again = ok("load", "--dates", "2026-03-01..2026-03-02", "--again", "--format", "json");
        assertThat(again.json()).hasSize(2);
        assertThat(again.json().at("/0/tables")).hasSize(1);
        assertThat(again.json().at("/1/tables")).hasSize(2);
        assertThat(ok("load", "--dates", "2026-03-02..2026-03-02").err()).contains("2026-03-02 is loaded already");
        here.write("huts-2026-03-05.csv", "code,beds\nA,3\n");
        Run gaps = ok("load", "--dates", "2026-03-02..2026-03-06", "--format", "json");
        assertThat(gaps.json()).extracting(load -> load.get("date").asText()).containsExactly("2026-03-05");
        assertThat(gaps.err()).contains("Left out, since nothing was delivered: 2026-03-03, 2026-03-04, 2026-03-06");
        assertThat(ok("load", "--date", "2026-03-06", "--format", "json").json())
                .as("asked for by itself")
                .isNotEmpty();
    }

    /** A delivery that must be there is missed, and no day is left out for it. */
    @Test
    void aRequiredDeliveryIsMissedOnEveryDay() {
        here.write(
                "dimensions/hut.yaml",
                "dimension: hut\nfrom: {files: \"huts-{date}.csv\", required: true}\nkey: code\nattributes: {beds: type 2}\n");
        here.write("huts-2026-03-01.csv", "code,beds\nA,2\n");
        Run missed = here.run("load", "--dates", "2026-03-01..2026-03-02");
        assertThat(missed.status()).isEqualTo(1);
        assertThat(missed.err() + missed.out()).doesNotContain("Left out").contains("requires one");
        here.write("inputs/huts.yaml", "input: huts\nfiles: \"huts-{date}.csv\"\n");
        here.write("inputs/open.yaml", "input: open\nquery: select * from huts\nrequired: true\n");
        here.write("dimensions/hut.yaml", "dimension: hut\nfrom: open\nkey: code\nattributes: {beds: type 2}\n");
        assertThat(here.run("load", "--dates", "2026-03-02..2026-03-03").err()).doesNotContain("Left out");
    }

    @Test
    void aDateAheadOfTodayIsMeantOrRefused() {
        here.write(
                "dimensions/hut.yaml",
                "dimension: hut\nfrom: {files: huts.csv}\nkey: code\nattributes: {beds: type 2}\n");
        here.write("huts.csv", "code,beds\nA,1\n");
        Run refused = here.run("load", "--date", "2999-03-01");
        assertThat(refused.status()).isEqualTo(3);
        assertThat(refused.out()).contains("2999-03-01, which is ahead of today", "load with --ahead");
        ok("load", "--date", LocalDate.now().plusDays(1).toString());
        ok("load", "--date", "2999-03-01", "--ahead");
    }

    @Test
    void showsWhatWaitsAndSinceWhen() {
        here.write(
                "dimensions/hut.yaml",
                "dimension: hut\nfrom: {files: \"huts-{date}.csv\"}\nkey: code\nattributes: {}\n");
        here.write("facts/night.yaml", """
                fact: night
                from: {files: "nights-{date}.csv"}
                grain: no
                lookups: {hut: {unmatched: wait}}
                """);
        here.write("huts-2026-03-01.csv", "code\nA\n");
        here.write("nights-2026-03-01.csv", "no,code\n1,A\n2,B\n3,C\n");
        assertThat(ok("load", "--date", "2026-03-01").out()).contains("2 rows wait to be staged again");
        here.write("huts-2026-03-03.csv", "code\nB\n");
        here.write("nights-2026-03-03.csv", "no,code\n4,A\n");
        ok("load", "--date", "2026-03-03");
        assertThat(ok("set-aside", "--waiting").out().lines())
                .containsExactly(
                        "fact_night, since 2026-03-01 (load 1, 2 days): unmatched in code: \"C\"",
                        "  nights-2026-03-01.csv:4: 3,C");
        assertThat(ok("set-aside", "--waiting", "--format", "csv").out().lines())
                .containsExactly(
                        "load,table,reason,column,value,file,line,text,since,days",
                        "1,fact_night,unmatched,code,C,nights-2026-03-01.csv,4,\"3,C\",2026-03-01,2");
        assertThat(here.launched("set-aside", "--waiting", "--to", "back.csv").status())
                .isZero();
        assertThat(here.permissions("back.csv"))
                .as("unless the umask is unusual")
                .doesNotEndWith("r--");
        assertThat(here.read("back.csv")).isEqualTo("no,code\n3,C\n");
        assertThat(ok("set-aside", "--waiting", "2").out()).isEqualTo("No rows wait.\n");
        assertThat(ok("set-aside").out()).isEqualTo("No rows were set aside.\n");
    }

    @Test
    void writesRowsSetAsideBackInTheFormTheyCameIn() {
        here.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: "huts*.csv", csv: {delimiter: ";", date-format: d.M.yyyy}, columns: {beds: integer, changed_on: date}}
                key: code
                attributes: {name: type 1, beds: type 1}
                history: {effective: changed_on}
                """);
        here.write(
                "dimensions/warden.yaml",
                "dimension: warden\nfrom: {files: wardens.json}\nkey: no\nattributes: {age: {type: 1, as: integer}}\n");
        here.write("wardens.json", "[{\"no\": 1, \"age\": 40}, {\"no\": 2, \"age\": \"old\"}]");
        here.write("huts.csv", HUTS.replace(";12;", ";\"twelve; or so\";") + "E;short\n");
        ok("load");
        Run both = here.run("set-aside", "--to", "back.csv");
        assertThat(both.status()).isEqualTo(2);
        assertThat(both.err()).contains("2 forms", "--table");
        ok("set-aside", "--table", "hut", "--to", "back.csv");
        assertThat(here.read("back.csv").lines())
                .startsWith("code;name;category;beds;changed_on;status")
                .containsExactlyInAnyOrder(
                        "code;name;category;beds;changed_on;status",
                        "A;Alphütte;x;\"twelve; or so\";1.3.2026;ok",
                        "E;short");
        ok("set-aside", "--table", "warden", "--to", "back.json");
        assertThat(here.read("back.json")).contains("[\n{\"no\": 2, \"age\": \"old\"}\n]");
        assertThat(here.run("set-aside", "--table", "hut", "--to", "back.csv").err())
                .contains("it is there already");
        here.write(
                "huts-mended.csv",
                here.read("back.csv").replace("\"twelve; or so\"", "12").replace("E;short\n", ""));
        here.write("huts.csv", "code;name;category;beds;changed_on;status\n");
        assertThat(ok("load", "hut", "--format", "json")
                        .json()
                        .at("/tables/0/counts/new")
                        .asLong())
                .isEqualTo(1);
    }

    @Test
    void showsAndSetsHighWaterMarks() {
        here.write("facts/visit.yaml", """
                fact: visit
                from: {files: visits.csv, newer-than: visit_no}
                append: true
                degenerate: [visit_no]
                """);
        here.write("visits.csv", "visit_no\n1\n2\n3\n");
        ok("load");
        assertThat(ok("journal", "--marks", "--format", "csv").out())
                .isEqualTo("table,input,column,mark\nfact_visit,visit,visit_no,3\n");
        assertThat(here.run("journal", "--set-mark", "visit.visit=soon").err())
                .contains("cannot be the mark of visit_no");
        assertThat(here.run("journal", "--set-mark", "visit.huts=1").err()).contains("no input \"huts\"");
        assertThat(ok("journal", "--set-mark", "visit.visit=2").err()).contains("The mark was 3");
        assertThat(ok("load", "--format", "json")
                        .json()
                        .at("/tables/0/counts/new")
                        .asLong())
                .isEqualTo(1);
        ok("journal", "--set-mark", "visit.visit=none");
        assertThat(ok("load", "--format", "json")
                        .json()
                        .at("/tables/0/counts/new")
                        .asLong())
                .isEqualTo(3);
    }

    @Test
    void catchesUpAndGoesOnAtTheDayThatFailed() {
        here.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: "{date}.csv", retain: true}
                key: code
                attributes: {beds: {type: 2, as: integer}}
                """);
        here.write("2026-03-01.csv", "code,beds\nA,1\n");
        here.write("2026-03-02.csv", "code,places\nA,2\n");
        here.write("2026-03-03.csv", "code,beds\nA,3\n");
        Run failed = here.run("load", "--dates", "2026-03-01..2026-03-03", "--format", "json");
        assertThat(failed.status()).isEqualTo(1);
        assertThat(failed.json()).hasSize(2);
        here.write("2026-03-02.csv", "code,beds\nA,2\n");
        Run mended = ok("load", "--dates", "2026-03-01..2026-03-03", "--format", "json");
        assertThat(mended.json()).hasSize(2);
        assertThat(mended.json().at("/0/date").asText()).isEqualTo("2026-03-02");
        assertThat(mended.err()).contains("2026-03-01 is loaded already");
        assertThat(here.table("hut").stream().filter(row -> row.contains(",A,")))
                .hasSize(3);
        assertThat(ok("load", "--dates", "2026-03-01..2026-03-03", "--format", "json")
                        .json())
                .isEmpty();
        assertThat(ok("load", "--dates", "2026-03-03..2026-03-03", "--again", "--format", "json")
                        .json())
                .hasSize(1);
    }
}
