package dev.zeitkammer.definition.reading;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assertions.catchThrowableOfType;

import dev.zeitkammer.definition.DefinitionException;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Problem;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.UsageException;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.WarehouseException;
import dev.zeitkammer.load.TestStar;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class ProjectReaderTest {

    private static final String HUT = """
            dimension: hut
            from: {files: huts.csv}
            key: hut_code
            attributes: {category: type 2, phone: type 1}
            """;

    @TempDir
    Path folder;

    private TestStar star;

    @BeforeEach
    void project() {
        star = new TestStar(folder);
    }

    private List<String> problems() {
        DefinitionException wrong = catchThrowableOfType(DefinitionException.class, star::project);
        assertThat(wrong).as("the project is read without an error").isNotNull();
        return wrong.problems().stream().map(Problem::toString).toList();
    }

    @Test
    void reportsEveryErrorOfAProjectAtOnceWithItsPlace() {
        star.write("zeitkammer.yaml", "project: test\nuse: locl\nconvention: {}\n")
                .write("inputs/huts.yaml", "input: huts\nfile: huts.csv\ncolumns:\n  beds: integr\n")
                .write("dimensions/hut.yaml", "dimension: hut\nfrom: hutz\nkey: hut_code\natributes: {a: type 9}\n")
                .write("facts/stay.yaml", "fact: stay\nfrom: huts\ngrain: no\nlookups: {hutt: {as-of: day}}\n");
        assertThat(problems())
                .containsExactly(
                        "dimensions/hut.yaml:1:1: a dimension needs \"attributes\" or \"all-others\"",
                        "dimensions/hut.yaml:2:7: there is no input \"hutz\"; did you mean \"huts\"?",
                        "dimensions/hut.yaml:4:1: unknown keyword \"atributes\" in a dimension; did you mean \"attributes\"?",
                        "facts/stay.yaml:4:11: there is no dimension \"hutt\"; did you mean \"hut\"?",
                        "inputs/huts.yaml:1:1: \"files\" is missing; expected a path such as \"deliveries/{date}/huts*.csv\", or instead of it table, query or join",
                        "inputs/huts.yaml:2:1: unknown keyword \"file\" in an input; did you mean \"files\"?",
                        "inputs/huts.yaml:4:9: \"integr\" is not a type; did you mean \"integer\"?",
                        "zeitkammer.yaml:2:6: there is no warehouse \"locl\"; did you mean \"local\"?",
                        "zeitkammer.yaml:3:1: unknown keyword \"convention\" in zeitkammer.yaml; did you mean \"conventions\"?");
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "'key: hut_code'|'key: hut_code\nkey: other'|dimensions/hut.yaml:4:1: \"key\" stands here a second time; the first is on line 3",
                "'type 2'|'typ 2'|dimensions/hut.yaml:4:24: the attribute \"category\" is \"typ 2\"; expected one of: type 0, type 1, type 2, type 3",
                "'type 2'|'{type: 2, as: decimal(10,2)}'|dimensions/hut.yaml:4:38: \"decimal(10\" is not a type; YAML cut it at the comma; quote it: \"decimal(10,2)\"",
                "'phone: type 1'|'phone: '|dimensions/hut.yaml:4:38: the attribute \"phone\" is nothing; expected a text",
                "'phone'|'valid_from'|dimensions/hut.yaml:4:32: the column \"valid_from\" is already taken, by an audit column; columns of a table need different names (audit columns can be renamed under columns:)",
                "'phone'|'Category'|dimensions/hut.yaml:4:32: the column \"Category\" is already taken, by another attribute; columns of a table need different names (audit columns can be renamed under columns:)",
                "'key: hut_code'|'key: hut_code\n---\na: b'|dimensions/hut.yaml:5:1: a second document in one file; expected one definition a file",
                "huts.csv|'\"${NO_SUCH}\"'|dimensions/hut.yaml:2:15: ${NO_SUCH} is put in only in zeitkammer.yaml, so that nothing of the environment comes into tables; write the value down here",
                "'type 2'|'{type: 2, take: \"beds); drop table dim_hut; select (1\"}'|dimensions/hut.yaml:4:40: \"take\" is not one expression: a parenthesis is closed that was not opened",
                "'key: hut_code'|'key: hut_code\n bad: ['|dimensions/hut.yaml:4:5: this is not YAML: mapping values are not allowed here"
            })
    void namesThePlaceTheFaultAndWhatWasExpected(String instead, String of, String problem) {
        star.write("dimensions/hut.yaml", HUT.replaceFirst(instead, java.util.regex.Matcher.quoteReplacement(of)));
        assertThat(problems()).contains(problem);
    }

    @Test
    void readsScalarsAsTheTextThatStandsThere() {
        star.write("dimensions/hut.yaml", """
                dimension: no
                from: {files: 010.csv}
                key: [1.50, 0x1F, "null", yes]
                attributes: {on: type 1}
                """);
        Dimension dimension = star.project().dimensions().get(0);
        assertThat(dimension.name().text()).isEqualTo("no");
        assertThat(((Input.Files) dimension.from().orElseThrow().origin())
                        .pattern()
                        .text())
                .isEqualTo("010.csv");
        assertThat(dimension.key().stream().map(Word::text)).containsExactly("1.50", "0x1F", "null", "yes");
        assertThat(dimension.attributes().get(0).name().text()).isEqualTo("on");
    }

    @Test
    void putsEnvironmentVariablesInAfterParsingAndNeverShowsAPassword() {
        star.write("zeitkammer.yaml", """
                project: test
                warehouses:
                  server: {url: "jdbc:duckdb:${NAME}.duckdb", user: me, password: "${SECRET}"}
                """);
        Project project = ProjectReader.read(folder, Map.of("NAME", "a: b", "SECRET", "pass{word"));
        assertThat(project.warehouse(java.util.Optional.empty()).url()).isEqualTo("jdbc:duckdb:a: b.duckdb");
        assertThat(project.warehouse(java.util.Optional.empty()).password()).isEqualTo("pass{word");
        assertThat(project.toString()).doesNotContain("pass{word");
    }

    @Test
    void refusesAsOfOnADimensionWithoutVersionsAndAMatchOfTheWrongWidth() {
        star.write("dimensions/hut.yaml", HUT.replace("type 2", "type 1").replace("hut_code", "[country, code]"))
                .write("facts/stay.yaml", """
                        fact: stay
                        from: {files: stays.csv}
                        grain: stay_no
                        lookups:
                          hut: {as-of: day, match: code}
                          other: {dimension: hut, match: {country: land, cod: code}}
                        """);
        assertThat(problems())
                .containsExactly(
                        "facts/stay.yaml:5:16: \"as-of\" needs versions, and the dimension \"hut\" has no attribute of type 2; leave it out",
                        "facts/stay.yaml:5:28: \"match\" names 1 columns; the key of \"hut\" has 2: country, code",
                        "facts/stay.yaml:6:34: \"match\" lacks \"code\" of the key of \"hut\"",
                        "facts/stay.yaml:6:50: \"cod\" is not in the key of \"hut\"; did you mean \"code\"?");
    }

    @Test
    void refusesTwoDefinitionsOfOneNameOrTable() {
        star.write("dimensions/a.yaml", HUT)
                .write("dimensions/b.yaml", HUT)
                .write("dimensions/c.yaml", HUT.replace("dimension: hut", "dimension: cabin\ntable: DIM_HUT"));
        assertThat(problems())
                .containsExactly(
                        "dimensions/b.yaml:1:12: there is already a dimension \"hut\", in dimensions/a.yaml:1:12",
                        "dimensions/c.yaml:1:12: the table DIM_HUT is already that of \"hut\", in dimensions/a.yaml:1:12");
    }

    @Test
    void saysThatAFolderIsNoProject() {
        assertThatThrownBy(() -> ProjectReader.read(folder.resolve("elsewhere"), Map.of()))
                .isInstanceOf(UsageException.class)
                .hasMessageContaining("There is no zeitkammer.yaml");
    }

    @Test
    void aVariableOfAnAddressThatIsNotOpenedIsNotAskedFor() {
        star.write("zeitkammer.yaml", """
                project: huts
                use: local
                warehouses:
                  local: {url: "jdbc:duckdb:"}
                  prod: {url: "jdbc:postgresql://${NO_HOST}/dw", user: me, password: "${NO_SUCH}"}
                """);
        Project project = ProjectReader.read(folder, Map.of());
        project.settings().warehouses().get("local").known();
        assertThatThrownBy(() -> project.settings().warehouses().get("prod").known())
                .isInstanceOf(WarehouseException.class)
                .hasMessage(
                        "Cannot open prod: the environment variable NO_HOST, which zeitkammer.yaml names for it, is not set");
    }
}
