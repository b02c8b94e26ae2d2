package dev.zeitkammer.cli.command;

import dev.zeitkammer.books.Journal;
import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.cli.output.DemoOutput;
import dev.zeitkammer.cli.output.Stamps;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.Warehouse.Access;
import dev.zeitkammer.load.Loader;
import dev.zeitkammer.load.Loader.Request;
import dev.zeitkammer.staging.LoadDate;
import dev.zeitkammer.view.MemberHistory;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.LocalDate;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import picocli.CommandLine.Command;
import picocli.CommandLine.Parameters;

/** {@code zeitkammer demo}. */
@Command(
        name = "demo",
        description = {
            "Writes the demo project, a network of alpine huts, and loads its deliveries day by day, telling what to look at.",
            "Run again in the same folder, it writes over no file and loads no day twice."
        })
final class DemoCommand extends BaseCommand {

    @Parameters(
            arity = "0..1",
            paramLabel = "DIR",
            defaultValue = "hut-network",
            description = "The folder (default: hut-network).")
    private Path folder = Path.of("");

    /** What happens on a day of the demo. */
    private record Day(LocalDate date, String story) {}

    @Override
    int run() {
        ResourceFolder files = new ResourceFolder("/demo/");
        boolean isNew = !Files.exists(folder.resolve(Project.FILE));
        files.list().forEach(file -> files.write(file, folder, text -> text));
        if (isNew) {
            made(folder);
        }
        Project project = project(folder);
        DemoOutput told = new DemoOutput(output(), new Stamps(project.settings().conventions()));
        told.opening(folder.toString());
        int status = withWarehouse(project, Access.WRITE, warehouse -> days(project, warehouse, files, told));
        String launcher = root().context().environment().getOrDefault("ZEITKAMMER_LAUNCHER", "zeitkammer");
        String called =
                options().warehouse().map(name -> launcher + " -w " + name).orElse(launcher);
        told.closing(folder.toString(), called, files.text("closing.txt"));
        return status;
    }

    private int days(Project project, Warehouse warehouse, ResourceFolder files, DemoOutput told) {
        Loader loader = new Loader(project, warehouse, new Narrator(output(), options(), warehouse), clock());
        int status = ExitStatus.DONE;
        Set<String> tables =
                project.definitions().stream().map(Definition::table).collect(Collectors.toSet());
        for (Day day : days(files)) {
            told.day(day.date().toString(), day.story());
            Optional<LoadEntry> before =
                    new Journal(warehouse).doneFor(day.date().toString(), tables);
            LoadEntry load = before.orElseGet(() -> loader.load(Request.everything(LoadDate.of(day.date()))));
            told.load(load, before.isPresent());
            if (load.status() != LoadStatus.DONE) {
                return LoadCommand.status(load);
            }
        }
        histories(project, warehouse, files, told);
        return status;
    }

    private static List<Day> days(ResourceFolder files) {
        return files.text("days.txt")
                .lines()
                .filter(line -> !line.isBlank())
                .map(line -> line.split(" ", 2))
                .map(parts -> new Day(LocalDate.parse(parts[0]), parts[1]))
                .toList();
    }

    /** The members worth a look: lines of dimension, key and what to see. */
    private static void histories(Project project, Warehouse warehouse, ResourceFolder files, DemoOutput told) {
        files.text("members.txt").lines().filter(line -> !line.isBlank()).forEach(line -> {
            String[] parts = line.split(" ", 3);
            Definition definition = project.definition(parts[0]);
            told.member(
                    parts[2],
                    MemberHistory.read(warehouse, (Dimension) definition, List.of(parts[1]), Optional.empty()));
        });
    }
}
