package dev.zeitkammer.cli;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.cli.Program.Run;
import dev.zeitkammer.engine.DatabaseAddress;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.Warehouse.Access;
import dev.zeitkammer.engine.Warehouses;
import io.zonky.test.db.postgres.embedded.EmbeddedPostgres;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.function.UnaryOperator;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/**
 * Pages of the manual, executed from top to bottom: files are written ({@code yaml FILE}, {@code csv FILE}),
 * files must have been written ({@code written FILE}), statements run in the warehouse ({@code sql}, and {@code sql gives no row}), and commands must answer as the page says ({@code console}).
 */
class PagesIT {

    private static final Pattern BLOCK = Pattern.compile("(?m)^```(\\w+)(?: (.+))?\\n([\\s\\S]*?)^```$");

    /** What differs from run to run, or from machine to machine. */
    private static final List<String[]> CHANGING = List.of(
            new String[] {"\\d{4}-\\d\\d-\\d\\d[ T]\\d\\d:\\d\\d(:\\d\\d)?(\\.\\d+)?", "TIME"},
            new String[] {"\\b\\d+\\.\\d\\d( s)?(?=\\s|$|\\))", "SECONDS"},
            new String[] {"(?:/[^\\s/]+)+/(dimensions|facts)/", "$1/"},
            new String[] {"[─ ]+", " "});

    private static final DatabaseAddress EMBEDDED =
            new DatabaseAddress("local", "jdbc:duckdb:warehouse.duckdb", null, null, null, null);

    @TempDir
    Path folder;

    private DatabaseAddress address = EMBEDDED;

    @ParameterizedTest
    @ValueSource(strings = {"first-star.md", "adopting.md", "history.md", "recipes.md", "by-hand.md"})
    void thePageHolds(String page) throws IOException {
        holds(page, text -> text);
    }

    /** Files as spreadsheets save them answer no differently: a byte order mark, quoted headers, lines that end in CR LF. */
    @Test
    void theFirstStarHoldsWithFilesOfASpreadsheet() throws IOException {
        holds("first-star.md", text -> {
            String[] parts = text.split("\n", 2);
            String separator = parts[0].contains(";") ? ";" : ",";
            String header = Arrays.stream(parts[0].split(separator))
                    .map(name -> '"' + name + '"')
                    .collect(Collectors.joining(separator));
            return "\uFEFF" + (header + "\n" + parts[1]).replace("\n", "\r\n");
        });
    }

    /** The same definitions, on a server. */
    @ParameterizedTest
    @ValueSource(strings = {"recipes.md", "by-hand.md"})
    void thePageHoldsOnAServer(String page) throws IOException {
        try (EmbeddedPostgres server = EmbeddedPostgres.builder().start()) {
            address = new DatabaseAddress(
                    "local",
                    "jdbc:postgresql://127.0.0.1:" + server.getPort() + "/postgres?user=postgres",
                    null,
                    null,
                    null,
                    null);
            holds(page, text -> text);
        }
    }

    private void holds(String page, UnaryOperator<String> saved) throws IOException {
        Program program = new Program(folder);
        Matcher blocks = BLOCK.matcher(Files.readString(Path.of("..", "docs", page)));
        int commands = 0;
        while (blocks.find()) {
            String text = blocks.group(3);
            switch (blocks.group(1)) {
                case "csv" -> program.write(blocks.group(2), saved.apply(text));
                case "yaml", "sh" -> program.write(blocks.group(2), text + warehouse(blocks.group(2)));
                case "written" -> assertThat(program.read(blocks.group(2))).isEqualTo(text);
                case "text" -> assertThat(text).isNotBlank();
                case "sql" -> execute(text, "gives no row".equals(blocks.group(2)));
                case "console" -> commands += answered(program, text);
                default -> throw new IllegalStateException("a block of kind " + blocks.group(1));
            }
        }
        assertThat(commands).isGreaterThan(3);
    }

    /** A project says where its warehouse is where that is not the file that it makes by itself. */
    private String warehouse(String file) {
        return file.equals("zeitkammer.yaml") && !address.equals(EMBEDDED)
                ? "warehouses:\n  local: {url: \"" + address.url() + "\"}\n"
                : "";
    }

    /** The script for the night, with a mailer that keeps what it gets. */
    @Test
    void theScriptForTheNightMailsWhatGoesWrong() throws Exception {
        Matcher blocks = BLOCK.matcher(Files.readString(Path.of("..", "docs", "first-star.md")));
        String script = blocks.results()
                .filter(block -> block.group(1).equals("sh"))
                .map(block -> block.group(3))
                .findFirst()
                .orElseThrow();
        Program program = new Program(folder);
        program.write("zeitkammer.yaml", "project: huts\n");
        program.write(
                "dimensions/hut.yaml",
                "dimension: hut\nfrom: {files: \"{date}.csv\"}\nkey: code\nattributes: {beds: {type: 1, as: integer}}\n");
        program.write(LocalDate.now() + ".csv", "code,beds\nADL,24\n");
        program.write("nightly.sh", script.replace("/home/you/huts", folder.toString()));
        program.write("bin/mail", "#!/bin/sh\necho \"$@\" >" + folder + "/mailed\ncat >>" + folder + "/mailed\n");
        Files.createSymbolicLink(folder.resolve("bin/zeitkammer"), Program.launcher());
        assertThat(folder.resolve("bin/mail").toFile().setExecutable(true)).isTrue();
        assertThat(nightly()).isZero();
        assertThat(folder.resolve("mailed")).doesNotExist();
        assertThat(folder.resolve("loads.jsonl")).isNotEmptyFile();
        program.write("dimensions/hut.yaml", "dimension: hut\nfrom: nowhere\nkey: code\nattributes: {beds: type 1}\n");
        assertThat(nightly()).isEqualTo(2);
        assertThat(folder.resolve("mailed"))
                .content()
                .contains("-s huts: the load ended with 2 you@example.org", "there is no input \"nowhere\"");
    }

    private int nightly() throws Exception {
        ProcessBuilder builder =
                new ProcessBuilder("sh", folder.resolve("nightly.sh").toString());
        builder.environment().merge("PATH", folder.resolve("bin") + ":", (path, first) -> first + path);
        return builder.start().waitFor();
    }

    private void execute(String script, boolean givesNothing) {
        try (Warehouse warehouse = Warehouses.open(address, folder, Access.WRITE)) {
            if (givesNothing) {
                assertThat(warehouse.query(script, row -> row.text(1))).isEmpty();
                return;
            }
            for (String statement : script.split(";\n")) {
                warehouse.execute(statement);
            }
        }
    }

    /** Runs the commands of a block, each followed by what it answers; three dots stand for any lines. */
    private static int answered(Program program, String block) {
        List<String> commands = new ArrayList<>();
        List<StringBuilder> answers = new ArrayList<>();
        for (String line : block.lines().toList()) {
            if (line.startsWith("$ zeitkammer ")) {
                commands.add(line.substring("$ zeitkammer ".length()));
                answers.add(new StringBuilder());
            } else {
                answers.get(answers.size() - 1).append(line).append('\n');
            }
        }
        for (int index = 0; index < commands.size(); index++) {
            String[] words = words(commands.get(index));
            // where a project is made, it is told from where the user is
            Run run = words[0].equals("new") ? program.launched(words) : program.run(words);
            String expected = answers.get(index).toString();
            String pattern = plain(expected)
                    .lines()
                    .map(line -> line.equals("…") ? "(?:.*\n)*?" : Pattern.quote(line) + "\n")
                    .collect(Collectors.joining());
            assertThat(plain(run.out() + run.err()))
                    .as(commands.get(index) + " answers\n" + run.out() + run.err())
                    .matches(pattern);
        }
        return commands.size();
    }

    private static String[] words(String command) {
        List<String> words = new ArrayList<>();
        Matcher word = Pattern.compile("\"([^\"]*)\"|(\\S+)").matcher(command);
        while (word.find()) {
            words.add(word.group(1) == null ? word.group(2) : word.group(1));
        }
        return words.toArray(String[]::new);
    }

    private static String plain(String text) {
        String plain = text;
        for (String[] changing : CHANGING) {
            plain = plain.replaceAll(changing[0], changing[1]);
        }
        return plain.lines()
                .map(String::strip)
                .filter(line -> !line.isEmpty())
                .map(line -> line + "\n")
                .collect(Collectors.joining());
    }
}
