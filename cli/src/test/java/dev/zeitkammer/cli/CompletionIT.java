package dev.zeitkammer.cli;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** What a shell completes: asked as a shell asks, and by bash itself. */
class CompletionIT {

    @TempDir
    Path folder;

    private Program program;

    @BeforeEach
    void project() {
        program = new Program(folder);
        program.write("zeitkammer.yaml", """
                project: huts
                warehouses: {here: {url: "jdbc:duckdb:w.duckdb"}, there: {url: "jdbc:postgresql://127.0.0.1/x"}}
                """);
        program.write("inputs/huts.yaml", "input: huts\nfiles: huts.csv\n");
        program.write("dimensions/hut.yaml", "dimension: hut\nfrom: huts\nkey: code\nattributes: {name: type 1}\n");
        program.write(
                "facts/night.yaml",
                "fact: night\nfrom: {files: n.csv}\ngrain: no\nlookups: {hut: {match: code}}\nmeasures: {paid: integer}\n");
    }

    private List<String> completed(String... words) {
        return program.run(Stream.concat(Stream.of("completion", "--words", "--"), Stream.of(words))
                        .toArray(String[]::new))
                .out()
                .lines()
                .toList();
    }

    @Test
    void wordsAreThoseOfTheCommandsAndOfTheProject() {
        assertThat(completed("")).contains("load", "draw", "completion").doesNotContain("hut");
        assertThat(completed("lo")).containsExactly("load");
        assertThat(completed("load", "")).containsExactly("hut", "night");
        assertThat(completed("load", "--da")).containsExactly("--date", "--dates");
        assertThat(completed("load", "--date", "")).isEmpty();
        assertThat(completed("history", "")).containsExactly("hut");
        assertThat(completed("show", "hu")).containsExactly("hut", "huts");
        assertThat(completed("show", "hut", "-w", "")).containsExactly("here", "there");
        assertThat(completed("journal", "--format", "c")).containsExactly("csv");
        assertThat(completed("draw", "p")).containsExactly("profile");
        assertThat(completed("lineage", "hut.na")).containsExactly("hut.name");
        assertThat(completed("lineage", "huts.c")).containsExactly("huts.code");
        assertThat(completed("show", "hut.")).isEmpty();
        assertThat(completed("draft", "")).containsExactly("dimension", "fact");
        assertThat(completed("draw", "--to", "")).containsExactly(":files");
        assertThat(completed("-p", "elsewhere", "load", "")).isEmpty();
    }

    @Test
    void bashCompletesWithIt() throws Exception {
        assertThat(bash("load", "ni")).isEqualTo("night");
        assertThat(bash("ver")).isEqualTo("verify");
        Files.createDirectories(folder.resolve("a folder"));
        assertThat(bash("new", "a ")).isEqualTo("a folder");
        assertThat(program.run("load", "--dat=2026-03-01").err())
                .contains("no option \"--dat\"; did you mean \"--date\"?");
        assertThat(program.run("completion", "tcsh").err()).contains("Which shell?", "bash");
    }

    private String bash(String... words) throws IOException, InterruptedException {
        String script = "cd '" + folder + "'\nzeitkammer() { '"
                + Path.of("..", "zeitkammer").toAbsolutePath().normalize()
                + "' \"$@\"; }\nsource <(zeitkammer completion bash)\nCOMP_WORDS=(zeitkammer "
                + Stream.of(words).map(word -> "'" + word + "'").collect(Collectors.joining(" "))
                + ")\nCOMP_CWORD=" + words.length + "\n_zeitkammer\necho \"${COMPREPLY[*]}\"\n";
        Process process = new ProcessBuilder("bash", "-c", script)
                .redirectError(ProcessBuilder.Redirect.DISCARD)
                .start();
        String said = new String(process.getInputStream().readAllBytes(), StandardCharsets.UTF_8);
        process.waitFor();
        return said.strip();
    }
}
