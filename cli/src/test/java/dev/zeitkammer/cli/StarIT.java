package dev.zeitkammer.cli;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import dev.zeitkammer.cli.Program.Run;
import java.nio.file.Path;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** The program on a star whose tables look each other up: order, placeholders, feeds, hourly loads, changed definitions. */
class StarIT {

    @TempDir
    Path folder;

    private Program here;

    @BeforeEach
    void star() {
        here = new Program(folder);
        here.write("zeitkammer.yaml", "project: star\n");
        here.write("dimensions/area.yaml", """
                dimension: area
                from: {files: "{date}/areas.csv", columns: {parent: varchar}}
                key: area
                attributes: {title: type 1}
                lookups:
                  parent: {dimension: area, match: parent, type: 2, hierarchy: true}
                  warden: {match: warden_no, type: 1}
                """);
        here.write("dimensions/warden.yaml", """
                dimension: warden
                from: {files: "{date}/wardens.csv"}
                key: warden_no
                attributes: {name: type 1}
                surrogate: hash
                """);
        here.write("facts/visit.yaml", """
                fact: visit
                from: {files: "{date}/visits.csv", columns: {visit_no: integer, area: varchar}}
                grain: visit_no
                lookups: {area: {unmatched: placeholder}, warden: {unmatched: placeholder}}
                measures: {guests: integer, rating: integer}
                feeds: [{from: {files: "{date}/ratings.csv"}, match: {visit_no: visit}, updates: rating}]
                """);
        here.write("2026-03-01/areas.csv", "area,parent,title,warden_no\nvalley,region,Valley,7\nregion,,Region,\n");
        here.write("2026-03-01/wardens.csv", "warden_no,name\n7,Resi\n");
        here.write(
                "2026-03-01/visits.csv",
                "visit_no,area,warden_no,guests,rating\n1,valley,7,2,\n2,peak,8,3,\n3,peak,8,1,\n");
        here.write("2026-03-01/ratings.csv", "visit,rating\n1,5\n9,1\n");
    }

    private JsonNode table(JsonNode load, String name) {
        for (JsonNode table : load.get("tables")) {
            if (table.get("table").asText().equals(name)) {
                return table;
            }
        }
        throw new AssertionError(name + " is not in " + load);
    }

    @Test
    void everyTableFindsTheOthers() {
        Run run = here.run("load", "--date", "2026-03-01", "--format", "json");
        assertThat(run.status()).as(run.err()).isZero();
        JsonNode load = run.json();
        assertThat(load.get("tables"))
                .extracting(table -> table.get("table").asText())
                .containsExactly("dim_warden", "dim_area", "fact_visit");
        JsonNode visit = table(load, "fact_visit");
        assertThat(visit.at("/counts/staged").asLong()).isEqualTo(5);
        assertThat(visit.at("/counts/new").asLong()).isEqualTo(3);
        assertThat(visit.at("/counts/updated").asLong()).isEqualTo(1);
        assertThat(visit.at("/counts/setAside").asLong()).isEqualTo(1);
        assertThat(visit.at("/rows/updated").asLong())
                .as("the rated visit was inserted by the same load")
                .isZero();
        assertThat(visit.at("/lookups/area/placeholders").asLong()).isEqualTo(2);
        assertThat(visit.get("unmatched"))
                .extracting(value -> value.get("role").asText() + " "
                        + value.get("found").asText() + " " + value.get("value").asText() + " "
                        + value.get("rows").asLong())
                .containsExactly("area placeholders peak 2", "warden placeholders 8 2");
        assertThat(here.run("show", "area", "--format", "csv", "--where", "row_origin = 'placeholder'")
                        .out())
                .contains("3,peak,,-1,-1,0001-01-01,9999-12-31,true,1,false,placeholder");
        assertThat(here.run("set-aside", "--format", "csv").out()).contains("no fact");
        assertThat(here.run("verify").status()).isZero();
    }

    @Test
    void whatIsBlockedIsSaidAndALaterLoadMendsIt() {
        here.write("2026-03-01/wardens.csv", "warden,name\n7,Resi\n");
        Run run = here.run("load", "--date", "2026-03-01", "--format", "json");
        assertThat(run.status()).isEqualTo(1);
        assertThat(run.json().get("tables"))
                .extracting(table -> table.get("status").asText())
                .containsExactly("failed", "blocked", "blocked");
        here.write("2026-03-01/wardens.csv", "warden_no,name\n7,Resi\n");
        assertThat(here.run("load", "--date", "2026-03-01").status()).isZero();
        assertThat(here.run("verify").status()).isZero();
    }

    @Test
    void placeholdersAreCompletedAndHashedKeysStay() {
        here.run("load", "--date", "2026-03-01");
        String visits = here.wholeTable("visit");
        here.write("2026-03-02/wardens.csv", "warden_no,name\n8,Toni\n");
        here.write("2026-03-02/areas.csv", "area,parent,title,warden_no\npeak,valley,Peak,8\n");
        JsonNode load =
                here.run("load", "--date", "2026-03-02", "--format", "json").json();
        assertThat(table(load, "dim_warden").at("/counts/completed").asLong()).isEqualTo(1);
        assertThat(table(load, "dim_area").at("/counts/completed").asLong()).isEqualTo(1);
        assertThat(table(load, "fact_visit").get("status").asText()).isEqualTo("skipped");
        assertThat(here.wholeTable("visit")).isEqualTo(visits);
        assertThat(here.run("show", "area", "--format", "csv", "--where", "area = 'peak'")
                        .out())
                .contains("3,peak,Peak,1,", "2026-03-02,9999-12-31,true,1,false,source");
        assertThat(here.run("verify").status()).isZero();
    }

    @Test
    void aMomentIsALoadDateAndNonsenseIsNot() {
        assertThat(here.run("load", "--date", "yesterday").err())
                .contains("\"yesterday\" is neither a date such as 2026-03-01 nor a moment such as 2026-03-01T14:00");
        assertThat(here.run("load", "--date", "yesterday").status()).isEqualTo(2);
        assertThat(here.run("load", "area", "warden", "--date", "2026-03-01").status())
                .isZero();
        Run hourly = here.run("load", "area", "--date", "2026-03-01T14:30", "--format", "json");
        assertThat(hourly.json().get("date").asText()).isEqualTo("2026-03-01T14:30");
        assertThat(here.run("show", "area", "--format", "csv", "--where", "area = 'valley'")
                        .out())
                .contains("2026-03-01T00:00");
        Run older = here.run("load", "area", "--date", "2026-03-01");
        assertThat(older.status()).isEqualTo(3);
        assertThat(older.out()).contains("dim_area was loaded for 2026-03-01T14:30 already");
    }

    @Test
    void alignShowsWhatAChangedDefinitionTakes() {
        here.run("load", "--date", "2026-03-01");
        here.write(
                "dimensions/area.yaml",
                here.read("dimensions/area.yaml")
                                .replace(
                                        "{title: type 1}", "{name: {type: 2, was: title, take: title, about: On maps}}")
                        + "about: Where huts stand\ncurrent-view: area_now\n");
        assertThat(here.run("align", "--show").out())
                .contains(
                        "rename column \"title\" to \"name\"",
                        "comment on table",
                        "is 'Where huts stand'",
                        "is 'On maps'",
                        "create or replace view \"main\".\"area_now\"");
        assertThat(here.run("check").out())
                .contains("the table will be changed to fit", "fits its feed 2026-03-01/ratings.csv");
        assertThat(here.run("load", "--date", "2026-03-01", "--no-align").status())
                .isEqualTo(1);
        assertThat(here.run("align").status()).isZero();
        assertThat(here.run("align", "--show").out()).doesNotContain("alter table", "comment on", "view");
        assertThat(here.run("load", "--date", "2026-03-02").status()).isZero();
        assertThat(here.run("explain", "visit").out()).contains("missing members of dim_area", "rows without a fact");
    }
}
