package dev.zeitkammer.cli;

import static org.assertj.core.api.Assertions.assertThat;
import static org.junit.jupiter.api.Assumptions.assumeTrue;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.TimeUnit;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.condition.EnabledOnOs;
import org.junit.jupiter.api.condition.OS;
import org.junit.jupiter.api.io.TempDir;

/**
 * Loads in two containers that share a temporary folder, as far as process numbers go: each numbers processes from 1, and sees none of
 * the other's. What is alive there is not taken for dead.
 */
@EnabledOnOs(OS.LINUX)
class ContainersIT {

    private static final List<String> CONTAINER = List.of("unshare", "--pid", "--fork", "--kill-child", "--mount-proc");

    @TempDir
    Path folder;

    private Process start(boolean isInContainer, Path project, String... args) throws IOException {
        List<String> command = new ArrayList<>(isInContainer ? CONTAINER : List.of());
        command.add(Program.launcher().toString());
        command.addAll(List.of(args));
        ProcessBuilder builder = new ProcessBuilder(command)
                .directory(project.toFile())
                .redirectErrorStream(true)
                .redirectOutput(
                        project.resolveSibling(project.getFileName() + ".log").toFile());
        builder.environment()
                .put("JAVA_TOOL_OPTIONS", "-Djava.io.tmpdir=" + Files.createDirectories(folder.resolve("tmp")));
        return builder.start();
    }

    private static boolean canContain() throws InterruptedException {
        List<String> command = new ArrayList<>(CONTAINER);
        command.add("true");
        try {
            return new ProcessBuilder(command).start().waitFor() == 0;
        } catch (IOException noSuchProgram) {
            return false;
        }
    }

    /** A project with files that the engine cannot read as they are: they are written anew into the temporary folder, and read there. */
    private Path project(String name, int days) throws IOException {
        Path project = Files.createDirectories(folder.resolve(name));
        Program program = new Program(project);
        program.write("zeitkammer.yaml", "project: " + name + "\n");
        program.write(
                "dimensions/hut.yaml",
                "dimension: hut\nfrom: {files: \"{date}/huts.csv\", csv: {encoding: utf-16}}\nkey: code\nattributes: {name: type 2}\n");
        for (int day = 1; day <= days; day++) {
            StringBuilder rows = new StringBuilder("code,name\n");
            for (int row = 0; row < 2000; row++) {
                rows.append("H%d,Hut %d of day %d\n".formatted(row, row, row % 10 == 0 ? day : 1));
            }
            Path file = project.resolve("2026-03-%02d/huts.csv".formatted(day));
            Files.createDirectories(file.getParent());
            Files.write(file, ("\ufeff" + rows).getBytes(StandardCharsets.UTF_16LE));
        }
        return project;
    }

    private static void succeeded(Process process, Path project) throws IOException, InterruptedException {
        assertThat(process.waitFor(5, TimeUnit.MINUTES)).isTrue();
        assertThat(process.exitValue())
                .as(Files.readString(project.resolveSibling(project.getFileName() + ".log")))
                .isZero();
    }

    @Test
    void loadsInTwoContainersLeaveEachOthersFilesAlone() throws Exception {
        assumeTrue(canContain(), "this user may not make namespaces of process numbers");
        int several = Program.isThorough() ? 20 : 6;
        List<Path> projects = new ArrayList<>();
        List<Process> loads = new ArrayList<>();
        for (int number = 0; number < several; number++) {
            projects.add(project("project-" + number, 1));
        }
        for (int number = 0; number < several; number++) {
            loads.add(start(number % 2 == 0, projects.get(number), "load", "--date", "2026-03-01"));
        }
        for (int number = 0; number < several; number++) {
            succeeded(loads.get(number), projects.get(number));
        }
        try (Stream<Path> left = Files.list(folder.resolve("tmp"))) {
            assertThat(left.filter(each -> each.getFileName().toString().startsWith("zeitkammer-")))
                    .isEmpty();
        }
    }

    @Test
    void loadsOfOneWarehouseWaitForEachOther() throws Exception {
        assumeTrue(canContain(), "this user may not make namespaces of process numbers");
        Path project = project("shared", 4);
        List<Process> loads = new ArrayList<>();
        for (int day = 1; day <= 4; day++) {
            loads.add(start(day % 2 == 0, project, "load", "--date", "2026-03-0" + day, "--wait", "200s"));
        }
        for (Process load : loads) {
            assertThat(load.waitFor(5, TimeUnit.MINUTES)).isTrue();
            assertThat(load.exitValue())
                    .as("done, or stopped since a newer day has been loaded")
                    .isIn(0, 3);
        }
        Program program = new Program(project);
        assertThat(program.run("verify").status()).isZero();
        assertThat(program.run(
                                "show",
                                "hut",
                                "--where",
                                "is_current and hut_key > 0",
                                "--format",
                                "csv",
                                "--limit",
                                "9999")
                        .out()
                        .lines())
                .hasSize(2001);
    }
}
