package dev.zeitkammer.cli.command;

import dev.zeitkammer.cli.output.NewOutput;
import dev.zeitkammer.cli.output.SchemaFiles;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.UsageException;
import dev.zeitkammer.definition.reading.DefinitionSchemas;
import dev.zeitkammer.engine.Secrets;
import dev.zeitkammer.engine.Warehouse.Access;
import dev.zeitkammer.engine.ZeitkammerException;
import dev.zeitkammer.profile.DraftText;
import dev.zeitkammer.profile.StarDrafting;
import dev.zeitkammer.profile.StarDrafting.Piece;
import dev.zeitkammer.profile.StarSources;
import dev.zeitkammer.profile.StarSources.Waiting;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.TreeSet;
import java.util.function.UnaryOperator;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code zeitkammer new}. */
@Command(
        name = "new",
        description = {
            "Writes a project to start from: an empty one, or with --from the star that the data suggest.",
            "A FILE may be a folder of files; a path with a day in it (2026-03-01) is the delivery of that day. Of a database, given by"
                    + " its JDBC URL, every table is looked at; user and password come from the variables SOURCE_USER and"
                    + " SOURCE_PASSWORD."
        })
final class NewCommand extends BaseCommand {

    private static final String DATABASE = "source";

    @Parameters(paramLabel = "DIR", description = "The folder to make.")
    private Path folder = Path.of("");

    @Option(names = "--from", paramLabel = "FILE|URL", arity = "1..*", description = "The data to look at.")
    private List<String> from = new ArrayList<>();

    @Override
    boolean readsOnlyInputs() {
        return false;
    }

    @Override
    int run() {
        if (Files.exists(folder.resolve(Project.FILE))) {
            throw new UsageException("There is a project in " + folder + " already; nothing was changed");
        }
        Optional<String> url =
                from.stream().filter(each -> each.startsWith("jdbc:")).findFirst();
        url.ifPresent(this::checked);
        List<Waiting> files = from.isEmpty() || url.isPresent()
                ? List.of()
                : StarSources.files(from, root().context().here().toAbsolutePath());
        write(url);
        if (from.isEmpty()) {
            if (!options().quiet()) {
                new NewOutput(output()).empty(folder);
            }
            return ExitStatus.DONE;
        }
        List<Piece> pieces = draft(files, url.isPresent());
        TreeSet<String> days = new TreeSet<>();
        files.forEach(waiting -> days.addAll(waiting.days()));
        new NewOutput(output()).star(folder, pieces, days, format(), options().quiet());
        return ExitStatus.DONE;
    }

    private void checked(String url) {
        if (from.size() > 1) {
            throw new UsageException("A database is looked at alone; give files in another call, to: zeitkammer draft");
        }
        if (Secrets.areIn(url)) {
            throw new UsageException("A password in the URL would stand in " + Project.FILE
                    + "; leave it out, and put it into the variable SOURCE_PASSWORD");
        }
    }

    private void write(Optional<String> url) {
        ResourceFolder files = new ResourceFolder("/new/");
        String name = folder.toAbsolutePath().normalize().getFileName().toString();
        UnaryOperator<String> named = text -> text.replace("@PROJECT@", DraftText.scalar(name));
        files.list().forEach(file -> files.write(file, folder, named));
        url.ifPresent(source -> append("\n# Where inputs read from.\ndatabases:\n  " + DATABASE + ": {url: "
                + DraftText.quoted(source) + variable("user", "SOURCE_USER") + variable("password", "SOURCE_PASSWORD")
                + "}\n"));
        SchemaFiles.write(folder.resolve(DefinitionSchemas.FOLDER));
        leaveOut();
        made(folder);
    }

    /** What loads make is not for version control; a list that is there is left as it is. */
    private void leaveOut() {
        Path file = folder.resolve(".gitignore");
        if (Files.exists(file)) {
            return;
        }
        try {
            Files.writeString(file, "/warehouse.duckdb*\n/published/\n");
        } catch (IOException refused) {
            throw new ZeitkammerException("Cannot write " + file + ": " + refused.getMessage(), refused);
        }
    }

    /** A keyword that is taken from a variable, where there is that variable. */
    private String variable(String keyword, String variable) {
        return root().context().environment().containsKey(variable) ? ", " + keyword + ": \"${" + variable + "}\"" : "";
    }

    private void append(String text) {
        Path file = folder.resolve(Project.FILE);
        try {
            Files.writeString(file, Files.readString(file) + text);
        } catch (IOException refused) {
            throw new ZeitkammerException("Cannot write " + file + ": " + refused.getMessage(), refused);
        }
    }

    /** Where nothing can be made of the data, the next try must not find half a project. */
    private List<Piece> draft(List<Waiting> files, boolean isDatabase) {
        List<Piece> pieces = new ArrayList<>();
        try {
            Project project = project(folder);
            withWarehouse(project, Access.PLAN, warehouse -> {
                List<Waiting> waiting = isDatabase
                        ? StarSources.tables(project.settings().databases().get(DATABASE), project.folder())
                        : files;
                pieces.addAll(new StarDrafting(folder, () -> project(folder), warehouse).draft(waiting));
                return ExitStatus.DONE;
            });
            return pieces;
        } catch (ZeitkammerException failed) {
            try {
                Files.deleteIfExists(folder.resolve(Project.FILE));
            } catch (IOException stays) {
                failed.addSuppressed(stays);
            }
            throw failed;
        }
    }
}
