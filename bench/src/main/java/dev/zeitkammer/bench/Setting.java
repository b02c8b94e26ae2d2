package dev.zeitkammer.bench;

import java.io.File;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.util.ArrayList;
import java.util.List;

/**
 * Where the program is and how contestants are started.
 *
 * @param home the checkout, with the program built in it
 * @param folder where data and warehouses go
 */
record Setting(Path home, Path folder) {

    /** The program, through its launcher. */
    List<String> program(String... arguments) {
        List<String> command = new ArrayList<>();
        command.add(home.resolve("zeitkammer").toString());
        command.addAll(List.of(arguments));
        return command;
    }

    /** A script of {@code bench/sql} in a process like the program's: the same Java, options and driver. */
    List<String> script(String name, String url, List<String> values) {
        Path libraries = home.resolve("cli/target/app/lib");
        List<String> command = new ArrayList<>(java());
        command.add("-cp");
        command.add(home.resolve("bench/target/classes") + File.pathSeparator + libraries.resolve("*"));
        command.add(SqlScript.class.getName());
        command.add(url);
        command.add(home.resolve("bench/sql").resolve(name + ".sql").toString());
        command.add("memory=" + Project.MEMORY);
        command.addAll(values);
        return command;
    }

    /** A Java that does nothing. */
    List<String> nothing() {
        List<String> command = new ArrayList<>(java());
        command.add("-version");
        return command;
    }

    private static List<String> java() {
        return List.of(
                Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                "-XX:+UseSerialGC",
                "-XX:TieredStopAtLevel=1");
    }

    /** Lets the program do something that is not measured. */
    void prepare(Path project, String... arguments) throws IOException, InterruptedException {
        Measure.of(program(arguments), project);
    }

    /** Puts a copy of a warehouse where the project looks for it; none where there is no such file. */
    static Contestant.State copyOf(Path base, Path project) {
        return () -> {
            Path warehouse = project.resolve(Project.WAREHOUSE);
            Files.deleteIfExists(warehouse);
            Files.deleteIfExists(Path.of(warehouse + ".wal"));
            if (Files.exists(base)) {
                Files.copy(base, warehouse, StandardCopyOption.REPLACE_EXISTING);
            }
        };
    }

    /** Keeps the warehouse of a project as a base for copies. */
    static Path keep(Path project, String name) throws IOException {
        Path base = project.resolve(name);
        Files.move(project.resolve(Project.WAREHOUSE), base, StandardCopyOption.REPLACE_EXISTING);
        return base;
    }
}
