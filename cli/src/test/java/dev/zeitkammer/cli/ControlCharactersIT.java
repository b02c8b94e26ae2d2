package dev.zeitkammer.cli;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.cli.Program.Run;
import java.nio.file.Path;
import java.util.List;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Whatever stands in data, in headers and in definitions: nothing of it steers the terminal, from no command. */
class ControlCharactersIT {

    /** One that colours, all that control, as one and as two bytes, and two that turn the direction of writing. */
    private static final String SIGNS =
            "\u001b[31m\u0001\u0007\b\u000b\u000c\u000e\u001f\u007f\u0085\u009b2J\u202e\u2066";

    private static final String IN_YAML = "\\x1b[31m\\x01\\x07\\b\\v\\f\\x0e\\x1f\\x7f\\x85\\x9b2J\\u202e\\u2066";

    private static final List<String> COMMANDS = List.of(
            "check",
            "check --profile",
            "explain hut",
            "rehearse --date 2026-03-02",
            "load --date 2026-03-02",
            "load --date 2026-03-03 -v",
            "set-aside",
            "show hut",
            "show huts --date 2026-03-02",
            "history hut A1",
            "lineage hut",
            "lineage huts --to",
            "journal",
            "journal 1",
            "journal hut",
            "compare 1 2",
            "verify",
            "undo --show",
            "draw stars --to stars.mmd",
            "draw lineage",
            "draft dimension other --from deliveries/2026-03-02/huts.csv",
            "show nobody@",
            "history hut @",
            "show hut --where @");

    @TempDir
    Path folder;

    private Program program;

    @BeforeEach
    void write() {
        program = new Program(folder);
        program.write(
                "zeitkammer.yaml",
                "project: \"p@\"\nextra: [{name: \"step@\", after: hut, sql: \"select '@'\"}]\n".replace("@", IN_YAML));
        program.write("inputs/huts.yaml", "input: huts\nfiles: \"deliveries/{date}/huts.csv\"\n");
        program.write("dimensions/hut.yaml", """
                dimension: hut
                from: huts
                key: code
                about: "about@"
                attributes: {"na@me": type 2, beds: {type: 1, as: integer}}
                """.replace("@", IN_YAML));
        for (int day = 1; day <= 3; day++) {
            StringBuilder rows = new StringBuilder("code,na" + SIGNS + "me,beds\n");
            for (int row = 0; row < 100; row++) {
                rows.append("A%d,Adlerhorst %d%s,%d\n".formatted(row, day, row == 1 ? SIGNS : "", row));
            }
            program.write("deliveries/2026-03-0" + day + "/huts.csv", rows + "B,Bergli,x" + SIGNS + "\n");
        }
        Run first = program.run("load", "--date", "2026-03-01");
        assertThat(first.status()).as(first.out() + first.err()).isZero();
    }

    @Test
    void nothingSteersTheTerminal() {
        for (String command : COMMANDS) {
            Run run = program.run(command.replace("@", SIGNS).split(" "));
            assertThat((run.out() + run.err()).chars().filter(ControlCharactersIT::steers))
                    .as(command + "\n" + run.out() + run.err())
                    .isEmpty();
        }
        assertThat(program.run("show", "hut").out())
                .contains("Adlerhorst 1␛[31m␁␇")
                .contains("na␛[31m␁␇");
        assertThat(program.read("dimensions/other.yaml")).contains("\"na\\u001B[31m\\u0001\\u0007");
        assertThat(program.run("check").status()).isZero();
        assertThat(program.run("set-aside").out()).contains("x␛[31m");
        assertThat(program.run("journal", "3").out()).contains("step␛[31m");
    }

    /** What programs read is not touched. */
    @Test
    void dataForProgramsAreWhatTheyAre() {
        assertThat(program.run("show", "hut", "--format", "csv").out()).contains("Adlerhorst 1" + SIGNS);
    }

    private static boolean steers(int character) {
        return Character.isISOControl(character) && character != '\n' && character != '\t'
                || Character.getType(character) == Character.FORMAT;
    }
}
