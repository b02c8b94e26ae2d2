package dev.zeitkammer.cli;

import static org.assertj.core.api.Assertions.assertThat;
import static org.junit.jupiter.api.Assumptions.assumeTrue;

import java.io.IOException;
import java.io.InputStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Enumeration;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.TimeUnit;
import java.util.function.Predicate;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import java.util.zip.ZipEntry;
import java.util.zip.ZipFile;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** The packages that the build makes, unpacked somewhere else. */
@Tag("package")
class PackageIT {

    private static final List<String> COMMANDS =
            List.of("demo", "new", "load", "show", "verify", "set-aside", "completion");

    @TempDir
    Path folder;

    private static Path unpacked;

    /** Once: the zip for every platform is large. */
    @BeforeAll
    static void unpack(@TempDir Path shared) throws IOException {
        unpacked = unzipped(file -> file.matches("zeitkammer-[0-9.]+\\.zip"), shared);
    }

    private static Optional<Path> built(Predicate<String> name) throws IOException {
        try (Stream<Path> files = Files.list(Path.of("target"))) {
            return files.filter(file -> name.test(file.getFileName().toString()))
                    .findFirst();
        }
    }

    /** A zip that was built, unpacked into a folder with a space in its name; its programs can be run. */
    private static Path unzipped(Predicate<String> name, Path below) throws IOException {
        Path zip = built(name).orElseThrow();
        Path into = below.resolve("my programs").resolve(zip.getFileName().toString());
        try (ZipFile file = new ZipFile(zip.toFile())) {
            Enumeration<? extends ZipEntry> entries = file.entries();
            while (entries.hasMoreElements()) {
                ZipEntry entry = entries.nextElement();
                Path target = into.resolve(entry.getName());
                if (entry.isDirectory()) {
                    Files.createDirectories(target);
                    continue;
                }
                Files.createDirectories(target.getParent());
                try (InputStream content = file.getInputStream(entry)) {
                    Files.copy(content, target);
                }
                if (entry.getName().matches(".*/(zeitkammer|java/bin/.*|java/lib/jspawnhelper)")) {
                    assertThat(target.toFile().setExecutable(true)).isTrue();
                }
            }
        }
        try (Stream<Path> inside = Files.list(into)) {
            return inside.findFirst().orElseThrow();
        }
    }

    private String run(Path where, String... arguments) throws IOException, InterruptedException {
        return run(unpacked.resolve("zeitkammer"), where, Optional.empty(), arguments);
    }

    /** @param environment all variables that the program has, where they are not those of the tests */
    private String run(Path program, Path where, Optional<Map<String, String>> environment, String... arguments)
            throws IOException, InterruptedException {
        List<String> command = new ArrayList<>(List.of(program.toString()));
        command.addAll(List.of(arguments));
        Path output = folder.resolve("output.txt");
        ProcessBuilder builder = new ProcessBuilder(command)
                .directory(where.toFile())
                .redirectErrorStream(true)
                .redirectOutput(output.toFile());
        environment.ifPresent(variables -> {
            builder.environment().clear();
            builder.environment().putAll(variables);
        });
        Process process = builder.start();
        assertThat(process.waitFor(5, TimeUnit.MINUTES)).isTrue();
        String printed = Files.readString(output);
        assertThat(process.exitValue()).as(printed).isZero();
        return printed;
    }

    @Test
    void withAJavaOfItsOwnItNeedsNothingOfTheMachine() throws Exception {
        assumeTrue(Files.exists(Path.of(System.getProperty("java.home"), "jmods")), "this Java cannot link others");
        Path program = unzipped(file -> file.contains("-with-java-"), folder).resolve("zeitkammer");
        // there is no Java where the variable points to, nothing on the path, and no language
        Optional<Map<String, String>> nothing = Optional.of(Map.of("JAVA_HOME", "/nowhere", "PATH", ""));
        assertThat(run(program, folder, nothing, "demo", "huts")).contains("Load 5 for 2026-03-05: done");
        Path huts = folder.resolve("huts");
        assertThat(run(program, huts, nothing, "history", "hut", "KAL")).contains("null ◀", "Kaltwasser");
        assertThat(run(program, huts, nothing, "draw")).contains("pictures.html");
        assertThat(run(program, huts, nothing, "verify", "-q")).contains("proofs hold");
    }

    @Test
    void theDebianPackagesHoldAllThatBelongsToAProgram() throws Exception {
        assumeTrue(Files.exists(Path.of("/usr/bin/dpkg-deb")), "no Debian");
        for (String kind : List.of("zeitkammer_", "zeitkammer-with-java_")) {
            Optional<Path> built = built(file -> file.startsWith(kind) && file.endsWith(".deb"));
            assertThat(built).as(kind).isPresent();
            String file = built.get().toAbsolutePath().toString();
            Path root = folder.resolve(kind);
            String about = run(Path.of("/usr/bin/dpkg-deb"), folder, Optional.empty(), "--info", file);
            assertThat(about).contains("Package: " + kind.replace("_", ""), "Version: ", "postinst");
            run(Path.of("/usr/bin/dpkg-deb"), folder, Optional.empty(), "--extract", file, root.toString());
            assertThat(Files.readSymbolicLink(root.resolve("usr/bin/zeitkammer")))
                    .isEqualTo(Path.of("/usr/lib/zeitkammer/zeitkammer"));
            assertThat(root.resolve("usr/share/bash-completion/completions/zeitkammer"))
                    .isNotEmptyFile();
            for (String command : COMMANDS) {
                assertThat(root.resolve("usr/share/man/man1/zeitkammer-" + command + ".1.gz"))
                        .isNotEmptyFile();
            }
            Path units = root.resolve("usr/lib/systemd/user");
            assertThat(units.resolve("zeitkammer@.service"))
                    .content()
                    .contains("ExecStart=/usr/bin/zeitkammer load ", "WorkingDirectory=%h/%i");
            assertThat(units.resolve("zeitkammer@.timer")).content().contains("WantedBy=timers.target");
            assertThat(run(root.resolve("usr/lib/zeitkammer/zeitkammer"), folder, Optional.empty(), "--version"))
                    .startsWith("zeitkammer ");
        }
    }

    @Test
    void theManualHasAPageForEachCommandWithItsOptions() throws Exception {
        Path pages = unpacked.resolve("man/man1");
        for (String command : COMMANDS) {
            String page = Files.readString(pages.resolve("zeitkammer-" + command + ".1"));
            String help = run(folder, command, "--help");
            Matcher options = Pattern.compile("--[a-z-]+").matcher(help.replaceFirst("(?s)Examples:.*", ""));
            while (options.find()) {
                assertThat(page).as(command).contains(options.group().replace("-", "\\-"));
            }
            assertThat(page).contains(".SH EXAMPLES", ".SH EXIT STATUS");
        }
        assertThat(Files.readString(pages.resolve("zeitkammer.1"))).contains("zeitkammer\\-load", ".SH COMMANDS");
    }

    @Test
    void itRunsWhereItWasUnpackedAndStartsFasterTheSecondTime() throws Exception {
        Path archive = unpacked.resolve("classes.jsa");
        assertThat(run(folder, "--version")).startsWith("zeitkammer ").hasLineCount(1);
        assertThat(archive).isNotEmptyFile();
        assertThat(run(folder, "demo", "huts")).contains("Load 5 for 2026-03-05: done");
        assertThat(run(folder.resolve("huts"), "history", "hut", "KAL")).contains("differs from the version before");
    }

    @Test
    void anArchiveThatJavaCannotReadDoesNoHarm() throws Exception {
        Files.writeString(unpacked.resolve("classes.jsa"), "of another Java");
        assertThat(run(folder, "--version")).startsWith("zeitkammer ").hasLineCount(1);
        assertThat(run(folder, "new", "empty")).doesNotContain("warning");
    }

    @Test
    void itHoldsTheEngineOfEveryPlatformAndALauncherForEach() {
        assertThat(unpacked.resolve("zeitkammer.cmd")).isNotEmptyFile();
        assertThat(unpacked.resolve("README.md")).isNotEmptyFile();
        for (String platform : List.of("linux_amd64", "linux_arm64", "osx_universal", "windows_amd64")) {
            assertThat(unpacked.resolve("lib").resolve("libduckdb_java.so_" + platform))
                    .isNotEmptyFile();
        }
    }
}
