package dev.zeitkammer.cli;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.cli.Program.Run;
import dev.zeitkammer.cli.command.CommandLineProgram;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.PrintStream;
import java.io.UncheckedIOException;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.net.SocketTimeoutException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.Arguments;
import org.junit.jupiter.params.provider.MethodSource;

/**
 * Projects of strangers: whatever they say, nothing reaches beyond their folder until the user has vouched for it. Beyond it there are
 * here a server that would hear of them, a secret file, a secret variable, and a place where a file would appear.
 */
class StrangersIT {

    private static final String SECRET = "edelweiss-9000";

    private static final List<String> COMMANDS = List.of(
            "check",
            "check --profile",
            "explain hut",
            "lineage hut.name",
            "draw stars",
            "rehearse --date 2026-03-01",
            "load --date 2026-03-01");

    /** What a definition's lines say that reaches out; {@code @PORT@} is where the server listens. */
    enum Way {
        SERVER("warehouses: {dw: {url: 'jdbc:postgresql://127.0.0.1:@PORT@/dw', user: clerk, password: x}}"),
        SERVER_WITH_VARIABLE(
                "warehouses: {dw: {url: 'jdbc:postgresql://127.0.0.1:@PORT@/dw', user: clerk, password: '${SECRET}'}}"),
        VARIABLE_IN_URL("warehouses: {dw: {url: 'jdbc:postgresql://127.0.0.1:@PORT@/${SECRET}', user: clerk}}"),
        PASSWORD_FILE(
                "warehouses: {dw: {url: 'jdbc:postgresql://127.0.0.1:@PORT@/dw', user: clerk, password-file: ../beyond/secret}}"),
        CLUSTER("warehouses: {dw: {url: 'jdbc:hive2://127.0.0.1:@PORT@/x', catalog: dw, exchange: ../beyond}}"),
        EMBEDDED_BEYOND("warehouses: {dw: {url: 'jdbc:duckdb:../beyond/new.duckdb'}}"),
        EVENTS("events: {to: 'http://127.0.0.1:@PORT@/x', key: '${SECRET}'}"),
        EVENTS_BEYOND("events: {to: ../beyond/new.jsonl}"),
        COMMAND("extra: [{name: mark, before: load, command: [touch, ../beyond/new]}]"),
        COMMAND_AFTER("extra: [{name: mark, after: hut, command: [touch, ../beyond/new]}]"),
        VARIABLE_IN_NAME("extra: [{name: '${SECRET}', before: load, sql: select 1}]"),
        DATABASE(
                "databases: {office: {url: 'jdbc:postgresql://127.0.0.1:@PORT@/o', user: clerk, password: '${SECRET}'}}",
                "from: {table: huts, database: office}"),
        FILES_BEYOND("", "from: {files: '../beyond/*.csv'}"),
        FILES_ABSOLUTE("", "from: {files: '@BEYOND@/huts.csv'}"),
        FILES_LINKED("", "from: {files: 'linked/*.csv'}"),
        FOLDER_LINKED("", "from: {files: 'out/huts.csv'}"),
        PUBLISHED("", "from: {files: huts.csv}\npublish: {to: ../beyond/new}");

        private final String project;
        private final String from;

        Way(String project) {
            this(project, "from: {files: huts.csv}");
        }

        Way(String project, String from) {
            this.project = project;
            this.from = from;
        }
    }

    @TempDir
    Path folder;

    private ServerSocket server;
    private Path project;
    private Path beyond;

    @BeforeEach
    void listen() throws IOException {
        server = new ServerSocket(0, 5, InetAddress.getLoopbackAddress());
        server.setSoTimeout(1);
        project = Files.createDirectories(folder.resolve("project"));
        beyond = Files.createDirectories(folder.resolve("beyond"));
        Files.writeString(beyond.resolve("secret"), SECRET + "\n");
        Files.writeString(beyond.resolve("huts.csv"), "code,name\nADL," + SECRET + "\n");
    }

    @AfterEach
    void close() throws IOException {
        server.close();
    }

    private void write(Way way) {
        write("zeitkammer.yaml", "project: strange\n" + filled(way.project) + "\n");
        write(
                "dimensions/hut.yaml",
                "dimension: hut\nkey: code\nattributes: {name: type 2}\n" + filled(way.from) + "\n");
        write("huts.csv", "code,name\nADL,Adlerhorst\n");
        try {
            Files.createDirectories(project.resolve("linked"));
            Files.createSymbolicLink(project.resolve("linked/huts.csv"), beyond.resolve("huts.csv"));
            Files.createSymbolicLink(project.resolve("out"), beyond);
        } catch (IOException refused) {
            throw new UncheckedIOException(refused);
        }
    }

    private String filled(String text) {
        return text.replace("@PORT@", String.valueOf(server.getLocalPort())).replace("@BEYOND@", beyond.toString());
    }

    private void write(String file, String text) {
        new Program(project).write(file, text);
    }

    private Run run(String command) {
        ByteArrayOutputStream out = new ByteArrayOutputStream();
        ByteArrayOutputStream err = new ByteArrayOutputStream();
        Map<String, String> environment = new HashMap<>(Map.of(
                "SECRET", SECRET, "XDG_CONFIG_HOME", folder.resolve("config").toString()));
        int status;
        try (PrintStream told = new PrintStream(out, false, StandardCharsets.UTF_8);
                PrintStream said = new PrintStream(err, true, StandardCharsets.UTF_8)) {
            status = new CommandLineProgram(told, said, environment, project).run(command.split(" "));
        }
        return new Run(status, out.toString(StandardCharsets.UTF_8), err.toString(StandardCharsets.UTF_8));
    }

    private boolean wasCalled() throws IOException {
        try {
            server.accept().close();
            return true;
        } catch (SocketTimeoutException nobody) {
            return false;
        }
    }

    static Stream<Arguments> waysOfCommands() {
        return Stream.of(Way.values()).flatMap(way -> COMMANDS.stream().map(command -> Arguments.of(way, command)));
    }

    @ParameterizedTest
    @MethodSource("waysOfCommands")
    void nothingReachesBeyondTheFolder(Way way, String command) throws IOException {
        write(way);
        Run run = run("-p . " + command);
        assertThat(wasCalled()).as("the server heard of it").isFalse();
        assertThat(run.out() + run.err()).doesNotContain(SECRET).doesNotContain("\tat ");
        try (Stream<Path> files = Files.list(beyond)) {
            assertThat(files.map(Path::getFileName).map(Path::toString))
                    .containsExactlyInAnyOrder("secret", "huts.csv");
        }
        if (command.startsWith("load") || command.startsWith("rehearse")) {
            assertThat(run.status()).as(run.out() + run.err()).isNotZero();
            assertThat(run.out() + run.err()).contains("zeitkammer vouch");
        }
        if (List.of("check", "draw stars").contains(command) && !way.name().endsWith("LINKED")) {
            assertThat(run.status()).as(run.out() + run.err()).isZero();
        }
    }

    @Test
    void whatTheUserVouchesForRuns() throws IOException {
        write(Way.COMMAND);
        assertThat(run("vouch --show").out()).contains("It runs the command touch ../beyond/new (zeitkammer.yaml:2:");
        assertThat(run("load --date 2026-03-01").status()).isEqualTo(2);
        assertThat(run("vouch").out()).endsWith("Vouched for " + project + ".\n");
        assertThat(run("load --date 2026-03-01").status()).isZero();
        assertThat(beyond.resolve("new")).exists();
        assertThat(folder.resolve("config/zeitkammer/vouched-for")).hasContent(project.toRealPath() + "\n");
        assertThat(run("vouch --no-longer").out()).startsWith("No longer vouched for: ");
        assertThat(run("load --date 2026-03-02").status()).isEqualTo(2);
    }

    /** The server of these tests hears of those who call. */
    @Test
    void theServerOfAProjectThatIsVouchedForIsCalled() throws Exception {
        write(Way.SERVER);
        run("vouch");
        server.setSoTimeout(20_000);
        Thread calling = new Thread(() -> run("check"));
        calling.start();
        server.accept().close();
        server.close();
        calling.join();
    }

    @Test
    void aFolderBesideOneThatIsVouchedForIsNot() throws IOException {
        write(Way.COMMAND);
        run("vouch");
        Path other = Files.createDirectories(folder.resolve("project-2"));
        for (String file : List.of("zeitkammer.yaml", "dimensions/hut.yaml", "huts.csv")) {
            new Program(other).write(file, Files.readString(project.resolve(file)));
        }
        assertThat(run("-p " + other + " load --date 2026-03-01").status()).isEqualTo(2);
    }

    @Test
    void theNameOfAFolderVouchesForNoOther() throws IOException {
        write(Way.COMMAND);
        Path other = Files.createDirectories(
                folder.resolve("a\n" + project.toRealPath().toString().substring(1)));
        for (String file : List.of("zeitkammer.yaml", "dimensions/hut.yaml", "huts.csv")) {
            new Program(other).write(file, Files.readString(project.resolve(file)));
        }
        ByteArrayOutputStream err = new ByteArrayOutputStream();
        try (PrintStream said = new PrintStream(err, true, StandardCharsets.UTF_8)) {
            Map<String, String> environment =
                    Map.of("XDG_CONFIG_HOME", folder.resolve("config").toString());
            assertThat(new CommandLineProgram(said, said, environment, other).run("-p", ".", "vouch"))
                    .isEqualTo(2);
        }
        assertThat(err.toString(StandardCharsets.UTF_8)).contains("holds the end of a line");
        assertThat(run("load --date 2026-03-01").status()).isEqualTo(2);
    }

    @Test
    void aDefinitionThatIsALinkIsNotRead() throws IOException {
        write(Way.COMMAND);
        Files.createSymbolicLink(project.resolve("dimensions/secret.yaml"), beyond.resolve("secret"));
        Run run = run("check");
        assertThat(run.status()).isEqualTo(2);
        assertThat(run.err())
                .contains("dimensions/secret.yaml:1:1: this file is a link")
                .doesNotContain(SECRET);
    }

    @Test
    void driversOfAStrangerDoNotRun() {
        write(Way.FILES_BEYOND);
        write(
                "dimensions/hut.yaml",
                "dimension: hut\nkey: code\nattributes: {name: type 2}\nfrom: {files: huts.csv}\n");
        assertThat(run("--with-drivers load --date 2026-03-01").err())
                .contains("it runs the drivers in its folder drivers");
        assertThat(run("load --date 2026-03-01").status()).isZero();
    }

    @Test
    void whatTheProgramMakesIsVouchedFor() {
        assertThat(run("new mine").status()).isZero();
        assertThat(run("-p mine vouch --show").status()).isZero();
        assertThat(new Vouching(folder.resolve("config")).holds(project.resolve("mine")))
                .isTrue();
    }

    /** The file in which it is noted. */
    private record Vouching(Path config) {
        boolean holds(Path made) {
            try {
                return Files.readAllLines(config.resolve("zeitkammer/vouched-for"))
                        .contains(made.toRealPath().toString());
            } catch (IOException unreadable) {
                throw new UncheckedIOException(unreadable);
            }
        }
    }
}
