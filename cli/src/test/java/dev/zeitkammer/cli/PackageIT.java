package dev.zeitkammer.cli;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.io.InputStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Enumeration;
import java.util.List;
import java.util.concurrent.TimeUnit;
import java.util.stream.Stream;
import java.util.zip.ZipEntry;
import java.util.zip.ZipFile;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** The zip that the build makes, unpacked somewhere else. */
class PackageIT {

    @TempDir
    Path folder;

    private Path unpacked;

    @BeforeEach
    void unpack() throws IOException {
        Path zip;
        try (Stream<Path> built = Files.list(Path.of("target"))) {
            zip = built.filter(file -> file.toString().endsWith(".zip"))
                    .findFirst()
                    .orElseThrow();
        }
        // a folder with a space in its name
        Path into = folder.resolve("my programs");
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
            }
        }
        try (Stream<Path> inside = Files.list(into)) {
            unpacked = inside.findFirst().orElseThrow();
        }
        assertThat(unpacked.resolve("zeitkammer").toFile().setExecutable(true)).isTrue();
    }

    private String run(Path where, String... arguments) throws IOException, InterruptedException {
        List<String> command =
                new ArrayList<>(List.of(unpacked.resolve("zeitkammer").toString()));
        command.addAll(List.of(arguments));
        Path output = folder.resolve("output.txt");
        Process process = new ProcessBuilder(command)
                .directory(where.toFile())
                .redirectErrorStream(true)
                .redirectOutput(output.toFile())
                .start();
        assertThat(process.waitFor(5, TimeUnit.MINUTES)).isTrue();
        String printed = Files.readString(output);
        assertThat(process.exitValue()).as(printed).isZero();
        return printed;
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
