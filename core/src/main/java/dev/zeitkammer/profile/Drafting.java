package dev.zeitkammer.profile;

import dev.zeitkammer.definition.CsvForm;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Input.ListedColumn;
import dev.zeitkammer.definition.Nearest;
import dev.zeitkammer.definition.Place;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.UsageException;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.definition.reading.DefinitionSchemas;
import dev.zeitkammer.engine.DatabaseAddress;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.ZeitkammerException;
import dev.zeitkammer.profile.StarSources.Waiting;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.function.Predicate;
import java.util.stream.Collectors;

/** Drafts definitions from files, tables or inputs. */
public final class Drafting {

    private static final Place COMMAND_LINE = new Place("--from", 1, 1);

    private final Project project;
    private final Warehouse warehouse;

    public Drafting(Project project, Warehouse warehouse) {
        this.project = project;
        this.warehouse = warehouse;
    }

    /** What is drafted. */
    public enum Kind {
        DIMENSION("dimensions"),
        FACT("facts");

        private final String folder;

        Kind(String folder) {
            this.folder = folder;
        }
    }

    /** A definition that was written, and the profile it was made of. */
    public record Drafted(Path file, Profile profile) {}

    /** What stands below {@code from:} of a draft, and the input that it means. */
    private record From(Input input, List<String> lines) {}

    /**
     * Profiles rows and writes a definition of them.
     *
     * @param from a file or glob, the name of an input, or a table of the warehouse or of a database
     * @param database the database that holds the table
     * @param here the folder that relative files are relative to, before that of the project
     * @throws UsageException when there is nothing to look at, or the definition is there already
     */
    public Drafted draft(Kind kind, String name, String from, Optional<String> database, Path here) {
        Path file = free(kind, name);
        Delivered delivered = delivered(name, from, database, here);
        write(file, draft(kind, name, delivered).written());
        return new Drafted(file, delivered.profile());
    }

    private Draft draft(Kind kind, String name, Delivered delivered) {
        return kind == Kind.DIMENSION
                ? new DimensionDraft(project, delivered.profile(), name, delivered.lines())
                : new FactDraft(project, delivered.profile(), name, delivered.lines());
    }

    /**
     * What is delivered.
     *
     * @param lines what stands below {@code from:}, or the name of an input
     */
    public record Delivered(List<String> lines, Profile profile) {

        /** The same of all the files of a pattern. */
        Delivered withFiles(String pattern) {
            List<String> all = new ArrayList<>(lines);
            all.set(0, "files: " + DraftText.quoted(pattern));
            return new Delivered(all, profile);
        }
    }

    /** Looks at what is delivered; the parameters are those of {@link #draft}. */
    public Delivered delivered(String name, String from, Optional<String> database, Path here) {
        return delivered(name, from, from(name, from, database, here));
    }

    /** Looks at what waits for a star. */
    Delivered delivered(Waiting waiting) {
        String name = waiting.name();
        return waiting.sample()
                .map(sample -> delivered(name, waiting.from(), files(name, shown(sample), Sniffing.form(sample)))
                        .withFiles(shown(Path.of(waiting.from()))))
                .orElseGet(() -> delivered(name, waiting.from(), waiting.database(), project.folder()));
    }

    private Delivered delivered(String name, String from, From looked) {
        From found = looked;
        Profile profile = new Profiler(project, warehouse)
                .of(found.input())
                .orElseThrow(() -> new UsageException("There is nothing to look at: " + from + " has no delivery"));
        if (found.input().origin() instanceof Input.Files files) {
            From again = files(
                    name, files.pattern().text(), Sniffing.refined(files.csv(), profile), Sniffing.times(profile));
            Optional<Profile> better = again.equals(found)
                    ? Optional.empty()
                    : new Profiler(project, warehouse).of(again.input()).filter(isBetterThan(profile));
            found = better.isPresent() ? again : found;
            profile = better.orElse(profile);
            List<String> lines = new ArrayList<>(found.lines());
            lines.addAll(Sniffing.questions(((Input.Files) found.input().origin()).csv(), profile));
            return new Delivered(lines, profile);
        }
        return new Delivered(found.lines(), profile);
    }

    /** The file of a definition that is not there yet. */
    public Path free(Kind kind, String name) {
        if (!name.matches("[\\p{L}_][\\p{L}\\p{N}_]*")) {
            throw new UsageException("\"" + name + "\" cannot be a name; expected letters, digits and underscores");
        }
        Path file = project.folder().resolve(kind.folder).resolve(name + ".yaml");
        if (Files.exists(file)) {
            throw new UsageException("There is a definition in " + file + " already; nothing was changed");
        }
        return file;
    }

    /** Fewer columns are mere texts. */
    private static Predicate<Profile> isBetterThan(Profile before) {
        return after -> texts(after) < texts(before);
    }

    private static long texts(Profile profile) {
        return profile.columns().stream()
                .filter(column -> column.type().isText())
                .count();
    }

    /** Writes a definition that is not there yet. */
    public static void write(Path file, String text) {
        String schema = file.getParent().endsWith(Kind.FACT.folder) ? "fact.json" : "dimension.json";
        try {
            Files.createDirectories(file.getParent());
            Path project = file.getParent().getParent();
            Files.writeString(file, DefinitionSchemas.head(project, schema) + text, StandardOpenOption.CREATE_NEW);
        } catch (IOException refused) {
            throw new ZeitkammerException("Cannot write " + file + ": " + refused.getMessage(), refused);
        }
    }

    private From from(String name, String from, Optional<String> database, Path here) {
        if (database.isPresent()) {
            DatabaseAddress address = Optional.ofNullable(
                            project.settings().databases().get(database.get()))
                    .orElseThrow(() -> new UsageException("There is no database \"" + database.get() + "\" in "
                            + Project.FILE + "; "
                            + Nearest.hint(
                                    database.get(),
                                    project.settings().databases().keySet())));
            return new From(
                    input(name, new Input.Table(word(from), Optional.of(address))),
                    List.of("table: " + DraftText.quoted(from), "database: " + database.get()));
        }
        Optional<Input> known = project.inputs().stream()
                .filter(input -> input.name().text().equals(from))
                .findFirst();
        if (known.isPresent()) {
            return new From(known.get(), List.of(from));
        }
        boolean isPattern = from.contains("*") || from.contains("{");
        for (Path folder : List.of(here, project.folder())) {
            if (isPattern || Files.isRegularFile(folder.resolve(from))) {
                String pattern = isPattern ? from : shown(folder.resolve(from));
                return files(name, pattern, isPattern ? CsvForm.STANDARD : Sniffing.form(folder.resolve(from)));
            }
        }
        if (from.contains("/") || from.matches(".*\\.(csv|tsv|txt|json|jsonl|ndjson|parquet)(\\.gz|\\.zst)?")) {
            throw new UsageException("There is no file " + from + ", neither here nor in the project's folder");
        }
        return new From(
                input(name, new Input.Table(word(from), Optional.empty())),
                List.of("table: " + DraftText.quoted(from)));
    }

    /** A file as the project names it: relative where it is inside. */
    private String shown(Path file) {
        Path whole = file.toAbsolutePath().normalize();
        return whole.startsWith(project.folder())
                ? project.folder().relativize(whole).toString().replace('\\', '/')
                : whole.toString();
    }

    private static From files(String name, String pattern, CsvForm form) {
        return files(name, pattern, form, List.of());
    }

    private static From files(String name, String pattern, CsvForm form, List<ListedColumn> columns) {
        String remark =
                pattern.matches(".*\\d{4}-\\d\\d-\\d\\d.*") ? "   # for every day: {date} instead of the date" : "";
        List<String> lines = new ArrayList<>(List.of("files: " + DraftText.quoted(pattern) + remark));
        Sniffing.written(form).ifPresent(lines::add);
        if (!columns.isEmpty()) {
            lines.add("columns: {"
                    + columns.stream()
                            .map(column -> DraftText.scalar(column.name().text()) + ": " + column.type())
                            .collect(Collectors.joining(", "))
                    + "}");
        }
        return new From(input(name, new Input.Files(word(pattern), form), columns), lines);
    }

    private static Word word(String text) {
        return new Word(text, COMMAND_LINE);
    }

    private static Input input(String name, Input.Origin origin) {
        return input(name, origin, List.of());
    }

    private static Input input(String name, Input.Origin origin, List<ListedColumn> columns) {
        return new Input(
                word(name),
                origin,
                columns,
                Optional.empty(),
                false,
                Input.Extract.CHANGES,
                false,
                Optional.empty(),
                false,
                Optional.empty(),
                List.of());
    }
}
