package dev.zeitkammer.definition.reading;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.catchThrowableOfType;

import dev.zeitkammer.definition.DefinitionException;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Problem;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.load.TestStar;
import java.nio.file.Path;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class InputReaderTest {

    @TempDir
    Path folder;

    private List<String> problems(String input) {
        TestStar star = new TestStar(folder)
                .write("inputs/nights.yaml", "input: nights\nfiles: n.csv\nnewer-than: id\n")
                .write("inputs/marked.yaml", "input: marked\nfiles: m.csv\nnewer-than: id\n")
                .write("inputs/stays.yaml", "input: stays\n" + input + "\n");
        DefinitionException wrong = catchThrowableOfType(DefinitionException.class, star::project);
        return wrong == null
                ? List.of()
                : wrong.problems().stream().map(Problem::message).toList();
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            quoteCharacter = '`',
            value = {
                "table: a.b~files: x.csv|one of files, table, query and join",
                "table: a.b~csv: {delimiter: ;}|\"csv\" belongs to files",
                "files: x.csv~database: office|\"database\" belongs to table or query",
                "table: t~database: office|there is no database \"office\"",
                "files: x.parquet~csv: {encoding: latin-1}|\"csv\" is about delimited files",
                "files: x.csv~csv: {header: false}|need \"columns\"",
                "files: x.csv~csv: {decimal: ;}|\"decimal\" is \";\"",
                "files: x.csv~csv: {decimal: \",\", thousands: \",\"}|are the same mark",
                "files: x.csv~csv: {time-format: quarter}|is not a format",
                "files: x.csv~csv: {encoding: latin1}|did you mean \"latin-1\"",
                "files: x.csv~overlap: 2 days|belongs to \"newer-than\"",
                "join: {from: nights}|\"with\" is no list",
                "join: {from: nights, with: [{input: marked, by: id}]}|only the from input may be",
                "join: {from: nights, with: [{input: night, by: id}]}|did you mean \"nights\"",
                "join: {from: nights, with: [{input: nights, by: id}]}|is joined twice",
                "join: {from: nights, with: []}~columns: {a: date}|write it in the inputs that are joined",
                "query: select * from nights|a query reads its inputs whole",
                "retain: maybe~files: x.csv|\"retain\" cannot be \"maybe\""
            })
    void saysWhatIsWrongWithAnInput(String input, String problem) {
        assertThat(problems(input.replace("~", "\n"))).anyMatch(message -> message.contains(problem));
    }

    @Test
    void readsEveryKindOfInput() {
        TestStar star = new TestStar(folder)
                .write(
                        "zeitkammer.yaml",
                        "project: test\nmemory: 2 GB\ndatabases: {office: {url: \"jdbc:x:y\", password-file: secret}}\n")
                .write("inputs/a.yaml", "input: a\nfiles: \"a*.csv\"\nretain: true\n")
                .write("inputs/b.yaml", "input: b\ntable: s.t\ndatabase: office\n")
                .write("inputs/c.yaml", "input: c\nquery: select * from a join \"b\" on a.x = b.x, d.c, other\n")
                .write(
                        "inputs/d.yaml",
                        "input: d\njoin: {from: a, with: [{input: b, by: [x, \"b.y = a.z and a.w=b.w\"], optional: true}]}\n")
                .write("inputs/e.yaml", "input: e\njoin: {from: a, with: [{input: b, by: {y: upper(z), w: w}}]}\n");
        Project project = star.project();
        assertThat(project.settings().memory()).hasValue("2 GB");
        assertThat(project.settings().databases().get("office").passwordFile()).isEqualTo("secret");
        assertThat(project.inputs()).extracting(input -> input.name().text()).containsExactly("a", "b", "c", "d", "e");
        assertThat(project.inputs().get(0).retain()).isTrue();
        Input.Query query = (Input.Query) project.inputs().get(2).origin();
        assertThat(query.inputs()).extracting(input -> input.name().text()).containsExactly("a", "b");
        Input.Join join = (Input.Join) project.inputs().get(3).origin();
        assertThat(join.with().get(0).optional()).isTrue();
        assertThat(join.with().get(0).by())
                .extracting(match -> match.column() + "=" + match.joinedColumn())
                .containsExactly("x=x", "z=y", "w=w");
        assertThat(((Input.Join) project.inputs().get(4).origin()).with().get(0).by())
                .extracting(match -> match.column() + "=" + match.joinedColumn())
                .containsExactly("upper(z)=y", "w=w");
    }
}
