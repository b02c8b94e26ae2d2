package dev.zeitkammer.definition.reading;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.zeitkammer.definition.DefinitionException;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Dimension.Kind;
import dev.zeitkammer.definition.MemberLookup;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.ReservedMember;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.load.TestStar;
import java.nio.file.Path;
import java.time.DayOfWeek;
import java.util.Map;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Keywords of dimensions, calendars, inputs and facts: what they are read as, and what is wrong with others. */
class KeywordsTest {

    @TempDir
    Path folder;

    private TestStar star;

    @BeforeEach
    void project() {
        star = new TestStar(folder)
                .write(
                        "dimensions/warden.yaml",
                        "dimension: warden\nfrom: {files: w.csv}\nkey: no\nattributes: {name: type 2}\n")
                .write(
                        "dimensions/calendar.yaml",
                        "dimension: calendar\nkind: calendar\ndays: 2026-01-01..2026-12-31\n");
    }

    private static String hut(String more) {
        return "dimension: hut\nfrom: {files: h.csv}\nkey: code\n" + more + "\n";
    }

    private Dimension read(String more) {
        star.write("dimensions/hut.yaml", hut(more));
        return (Dimension) star.project().definition("hut");
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "attributes: {a: type 3}|type 3 keeps the previous value in a column of its own; name it: a: {type: 3, previous: former_a}",
                "attributes: {a: {type: 3}}|type 3 keeps the previous value in a column of its own",
                "attributes: {a: {type: 1, previous: b}}|\"previous\" belongs to type 3, and \"a\" is of type 1",
                "attributes: {a: {type: 3, previous: a}}|the column \"a\" is already taken, by another attribute",
                "all-others: type 3|\"all-others\" cannot be type 3",
                "'attributes: {a: type 1}\nlookups: {warden: {match: no}}'|\"type\" is missing; expected 0, 1 or 2",
                "'attributes: {a: type 1}\nlookups: {warden: {match: no, type: 3}}'|a lookup keeps no previous key",
                "'attributes: {a: type 1}\nlookups: {wardn: {match: no, type: 1}}'|there is no dimension \"wardn\"; did you mean \"warden\"?",
                "'attributes: {a: type 1}\nlookups: {warden: {match: [no, name], type: 1}}'|\"match\" names 2 columns; the key of \"warden\" has 1: no",
                "'attributes: {a: type 1}\nlookups: {warden: {match: no, type: 1, hierarchy: true}}'|\"hierarchy\" is for a parent in the same dimension",
                "'attributes: {a: type 1}\nlookups: {warden: {match: no, type: 1, unmatched: placeholder}}'|placeholders are made for facts",
                "'attributes: {a: type 1}\nlookups: {p: {dimension: hut, match: p, type: 1, hierarchy: true}, q: {dimension: hut, match: q, type: 1, hierarchy: true}}'|a dimension keeps one bridge table",
                "'attributes: {a: type 1}\nlookups: {warden: no}'|the lookup \"warden\" is \"no\"; expected keywords below it",
                "'attributes: {a: type 1, warden_key: type 1}\nlookups: {warden: {match: no, type: 1}}'|the column \"warden_key\" is already taken",
                "'attributes: {a: type 1}\nduplicates: last'|\"duplicates\" is \"last\"; expected set-aside, or last by and a column",
                "'attributes: {a: type 1}\nhistory: {overwrite: none}'|\"overwrite\" cannot be \"none\"; valid are: all, current",
                "'attributes: {a: type 1}\nhistory: {facts: stand}'|\"facts\" cannot be \"stand\"; did you mean \"stay\"?",
                "'attributes: {a: type 1}\nreserved: {unknown: {b: x}}'|\"hut\" has no column \"b\"",
                "'attributes: {a: type 1}\nreserved: {nobody: {a: x}}'|\"key\" is missing; expected its surrogate key",
                "'attributes: {a: type 1}\nreserved: {nobody: {key: 3}}'|expected a negative number such as -1",
                "'attributes: {a: type 1}\nreserved: {nobody: {key: -1}}'|which is that of \"unknown\"",
                "'attributes: {a: type 1}\nreserved: {not-applicable: {key: 0}, nobody: {key: 0}}'|which is that of \"not-applicable\"",
                "'attributes: {a: type 1}\nreserved: {wait: {key: -3}}'|cannot be the name of a reserved member",
                "'attributes: {a: type 2}\nsurrogate: {take: a}'|only where a member has one row",
                "'attributes: {a: type 2}\ncolumns: {is_current: {column: x, true: Y}}'|\"false\" is missing",
                "'attributes: {a: type 2}\ncolumns: {version: {column: x, true: Y, false: N}}'|unknown keyword \"true\"",
                "'attributes: {a: type 1}\ncurrent-view: dim_warden'|the name \"dim_warden\" is already that of a table",
                "'attributes: {a: type 1}\ncurrent-view: v\nrole-views: {home: v}'|the name \"v\" is already that of another view",
                "'kind: combination'|unknown keyword \"key\" in a combination",
                "'attributes: {a: type 1}\nfrom: {files: h.csv, overlap: 2}'|\"from\" stands here a second time",
            })
    void wrongKeywordsOfDimensionsAreNamed(String more, String problem) {
        assertThatThrownBy(() -> read(more))
                .isInstanceOf(DefinitionException.class)
                .hasMessageContaining(problem);
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "newer-than: seen, overlap: soon|\"overlap\" is \"soon\"; expected a number, or a time such as 2 days",
                "overlap: 2 days|\"overlap\" belongs to \"newer-than\", which is not given",
            })
    void wrongKeywordsOfInputsAreNamed(String keywords, String problem) {
        star.write("inputs/huts.yaml", "input: huts\nfiles: h.csv\n" + keywords.replace(", ", "\n") + "\n");
        assertThatThrownBy(star::project)
                .isInstanceOf(DefinitionException.class)
                .hasMessageContaining(problem);
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "deletions: {rows: mark}|\"when\" is missing",
                "deletions: {when: x, rows: hide}|\"rows\" cannot be \"hide\"",
                "feeds: {from: x}|\"feeds\" is a group of keywords; expected a list of inputs",
                "feeds: [{from: {files: x.csv}}]|\"match\" is missing; expected the columns by which rows of the fact are found",
                "feeds: [{from: {files: x.csv}, match: no}]|\"updates\" is missing; expected the roles and measures that the feed writes",
                "constraints: some|\"constraints\" cannot be \"some\"; did you mean \"none\"?",
                "'append: true'|\"append\" adds rows without comparing them; leave out \"grain\", or append",
            })
    void wrongKeywordsOfFactsAreNamed(String more, String problem) {
        star.write("facts/stay.yaml", "fact: stay\nfrom: {files: s.csv}\ngrain: no\n" + more + "\n");
        assertThatThrownBy(star::project)
                .isInstanceOf(DefinitionException.class)
                .hasMessageContaining(problem);
    }

    @Test
    void dimensionsAreReadWhole() {
        Dimension hut = read("""
                attributes:
                  region: {type: 3, previous: former_region, was: area, about: Where it is}
                duplicates: last by sent
                lookups: {warden: {match: {no: warden_no}, type: 2}, parent: {dimension: hut, match: up, type: 1, hierarchy: true}}
                reserved: {unknown: {region: nowhere}}
                role-views: {booked: booked_hut}
                about: Huts
                """);
        assertThat(hut.hasHistory()).as("a lookup of type 2 makes versions").isTrue();
        assertThat(hut.dependsOn()).containsExactly("warden");
        assertThat(hut.lastBy()).map(Word::text).hasValue("sent");
        assertThat(hut.attributes().get(0).previous()).map(Word::text).hasValue("former_region");
        assertThat(hut.attributes().get(0).was()).map(Word::text).hasValue("area");
        assertThat(hut.lookups()).extracting(MemberLookup::column).containsExactly("warden_key", "parent_key");
        assertThat(hut.hierarchy()).map(lookup -> lookup.lookup().role().text()).hasValue("parent");
        assertThat(hut.reserved(ReservedMember.UNKNOWN)
                        .orElseThrow()
                        .values()
                        .get("region")
                        .text())
                .isEqualTo("nowhere");
        assertThat(hut.views().roles()).containsOnlyKeys("booked");
        assertThat(star.project().dimensions())
                .extracting(dimension -> dimension.name().text())
                .containsExactly("calendar", "warden", "hut");
    }

    @Test
    void calendarsAreReadWhole() {
        star.write("dimensions/calendar.yaml", """
                dimension: calendar
                kind: calendar
                days: 2026-01-01..2026-12-31
                week-starts: saturday
                holidays: {files: h.csv, csv: {delimiter: ";"}}
                """)
                .write("dimensions/clock.yaml", "dimension: clock\nkind: calendar\ngrain: minute\n");
        Project project = ProjectReader.read(folder, Map.of());
        Dimension calendar = (Dimension) project.definition("calendar");
        assertThat(calendar.calendar().orElseThrow().weekStarts()).isEqualTo(DayOfWeek.SATURDAY);
        assertThat(calendar.from().orElseThrow().csv().delimiter()).hasValue(";");
        assertThat(((Dimension) project.definition("clock")).kind()).isEqualTo(Kind.MINUTES);
        star.write(
                "dimensions/clock.yaml",
                "dimension: clock\nkind: calendar\ngrain: minute\ndays: 2026-01-01..2026-01-02\n");
        assertThatThrownBy(star::project).hasMessageContaining("unknown keyword \"days\" in a calendar of minutes");
        star.write(
                "dimensions/clock.yaml",
                "dimension: clock\nkind: calendar\ngrain: minute\nreserved: {unknown: {key: 0}}\n");
        assertThatThrownBy(star::project).hasMessageContaining("has the key 0, which is that of midnight");
    }
}
