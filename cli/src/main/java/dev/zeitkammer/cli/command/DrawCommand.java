package dev.zeitkammer.cli.command;

import dev.zeitkammer.books.Journal;
import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.cli.drawing.Drawing;
import dev.zeitkammer.cli.drawing.Drawing.Form;
import dev.zeitkammer.cli.drawing.OperationsData;
import dev.zeitkammer.cli.drawing.ProfileSection;
import dev.zeitkammer.cli.output.Json;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Nearest;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.UsageException;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.Warehouse.Access;
import dev.zeitkammer.engine.ZeitkammerException;
import dev.zeitkammer.lineage.DefinitionLineage;
import dev.zeitkammer.lineage.Headers;
import dev.zeitkammer.load.Checker;
import dev.zeitkammer.load.Checker.Finding;
import dev.zeitkammer.load.Tidying;
import dev.zeitkammer.profile.Distributions;
import dev.zeitkammer.profile.Distributions.Spread;
import dev.zeitkammer.profile.Profiler;
import dev.zeitkammer.verify.Verifier;
import dev.zeitkammer.view.DiskSizes;
import dev.zeitkammer.view.MemberHistory;
import dev.zeitkammer.view.WarehouseState;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.time.Duration;
import java.time.LocalDateTime;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.ToIntFunction;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code zeitkammer draw}. */
@Command(
        name = "draw",
        description = {
            "Draws the stars, the lineage of their columns and the loads as one page for a browser.",
            "With a word, one of them: stars, lineage, loads, history with a dimension and a key, profile: what is delivered,"
                    + " or operations: what runs, waits and came late, of one project or several."
        })
final class DrawCommand extends BaseCommand {

    /** Of a delivery with more columns, the values of so many are counted. */
    private static final int MOST_SPREADS = 300;

    /** So often a page is drawn at most. */
    private static final Duration SHORTEST = Duration.ofSeconds(2);

    /** Pictures of what the definitions say. */
    private static final Set<String> DEFINED = Set.of("stars", "lineage");

    private static final String OPERATIONS = "operations";

    static final List<String> PICTURES = List.of("stars", "lineage", "loads", "history", "profile", OPERATIONS);

    @Parameters(
            arity = "0..*",
            paramLabel = "PICTURE",
            description =
                    "stars, lineage, loads, history DIMENSION KEY…, profile [INPUT…] or operations [DIR…]; default: the first three.")
    private List<String> wanted = new ArrayList<>();

    @Option(
            names = "--to",
            paramLabel = "FILE",
            description = "The file to write: .html, .svg (one picture) or .mmd (Mermaid). Default: <picture>.html.")
    private @Nullable Path to;

    @Option(
            names = "--watch",
            paramLabel = "TIME",
            description = "Draws the page again after each such time (30s, 5m) until it is ended; a browser follows.")
    private @Nullable Duration again;

    @Option(
            names = "--seals",
            description = "Of operations: tells also which tables somebody changed but loads. Reads whole tables.")
    private boolean seals;

    @Override
    int run() {
        Optional<String> picture = wanted.stream().findFirst();
        picture.filter(word -> !PICTURES.contains(word)).ifPresent(word -> {
            throw new UsageException("There is no picture \"" + word + "\"; " + Nearest.hint(word, PICTURES));
        });
        Path file = Optional.ofNullable(to)
                .orElseGet(() -> root().context().here().resolve(picture.orElse("pictures") + ".html"));
        Form form = Form.of(file.toString());
        boolean isOfOperations = picture.filter(OPERATIONS::equals).isPresent();
        if (isOfOperations && form != Form.HTML) {
            throw new UsageException("Operations are drawn as a page only; name a file that ends in .html");
        }
        if (seals && !isOfOperations) {
            throw new UsageException("--seals is for draw operations; zeitkammer verify compares the seals of tables");
        }
        Runnable drawing = isOfOperations ? operations(file) : drawing(project(), picture, form, file);
        refuseOthers(file);
        if (again == null) {
            drawing.run();
            output().line("Wrote " + file + ".");
            return ExitStatus.DONE;
        }
        if (form != Form.HTML || again.compareTo(SHORTEST) < 0) {
            throw new UsageException(
                    "--watch draws pages (.html), " + SHORTEST.toSeconds() + "s after each other at least");
        }
        output().line("Draws " + file + " every " + again.toSeconds() + " s, until it is ended.");
        return watch(drawing, again);
    }

    private Runnable drawing(Project project, Optional<String> picture, Form form, Path file) {
        return () -> draw(project, picture, form, file);
    }

    /** The page of one warehouse or several, and the same for programs beside it. */
    private Runnable operations(Path file) {
        List<Project> projects = wanted.size() == 1
                ? List.of(project())
                : wanted.stream()
                        .skip(1)
                        .map(folder -> project(root().context().here().resolve(folder)))
                        .toList();
        Path data = file.resolveSibling(file.getFileName().toString().replaceFirst("(?i)\\.html$", ".json"));
        refuseOthers(data);
        return () -> {
            String before = text(data);
            List<WarehouseState> states =
                    projects.stream().map(project -> state(project, before)).toList();
            write(data, Json.of(OperationsData.of(states)) + "\n");
            put(file, Drawing.operations(states));
        };
    }

    private static String text(Path file) {
        try {
            return Files.exists(file) ? Files.readString(file) : "";
        } catch (IOException unreadable) {
            throw new UsageException("Cannot read " + file + ": " + unreadable.getMessage());
        }
    }

    /**
     * A warehouse that cannot be read, since a load has it or its server is away, keeps the others from nothing.
     *
     * @param before what was told of the warehouses the last time
     */
    private WarehouseState state(Project project, String before) {
        LocalDateTime now = LocalDateTime.now(clock());
        String name = project.warehouse(options().warehouse()).name();
        DiskSizes disk = OperationsData.disk(before, project.folder() + ", " + name);
        List<WarehouseState> read = new ArrayList<>();
        try {
            withWarehouse(project, Access.READ, warehouse -> {
                Optional<List<String>> changed =
                        seals ? Optional.of(new Verifier(warehouse).changed(project.definitions())) : Optional.empty();
                long bytes = new Tidying(project, warehouse).size().bytes();
                read.add(WarehouseState.read(project.name(), warehouse, now, disk.and(now, bytes), changed));
                return ExitStatus.DONE;
            });
            return read.get(0);
        } catch (UsageException wrong) {
            throw wrong;
        } catch (ZeitkammerException unreadable) {
            return WarehouseState.unreadable(project.name(), name, now, disk, String.valueOf(unreadable.getMessage()));
        }
    }

    /** Where a warehouse cannot be read, since a load has it, the page that was drawn before stays. */
    private int watch(Runnable drawing, Duration pause) {
        while (!Thread.currentThread().isInterrupted()) {
            try {
                drawing.run();
            } catch (UsageException wrong) {
                throw wrong;
            } catch (ZeitkammerException unreadable) {
                output().aside("not drawn, and tried again: " + unreadable.getMessage());
            }
            try {
                Thread.sleep(pause.toMillis());
            } catch (InterruptedException ended) {
                Thread.currentThread().interrupt();
            }
        }
        return ExitStatus.DONE;
    }

    private void put(Path file, String content) {
        write(file, again == null ? content : Drawing.following(content, again, LocalDateTime.now(clock())));
    }

    private void draw(Project project, Optional<String> picture, Form form, Path file) {
        ToIntFunction<Warehouse> drawing = warehouse -> {
            put(file, drawn(project, warehouse, picture, form));
            return ExitStatus.DONE;
        };
        if (picture.filter(DEFINED::contains).isPresent()) {
            withDefinitions(project, drawing);
        } else {
            withWarehouse(project, Access.PLAN, drawing);
        }
    }

    private String drawn(Project project, Warehouse warehouse, Optional<String> picture, Form form) {
        if (picture.filter("history"::equals).isPresent()) {
            return history(project, warehouse, form);
        }
        if (picture.filter("profile"::equals).isPresent()) {
            return Drawing.profile(form, project.name(), profiles(project, warehouse));
        }
        if (wanted.size() > 1) {
            throw new UsageException(
                    "\"" + wanted.get(1) + "\" is one word too many; only history and profile take further ones");
        }
        Drawing drawing = new Drawing(project, DefinitionLineage.of(project, Headers.newest(project, warehouse)));
        if (picture.isEmpty() && form == Form.HTML) {
            return drawing.everything(loads(warehouse));
        }
        return switch (picture.orElse("stars")) {
            case "lineage" -> drawing.lineage(form);
            case "loads" -> drawing.loads(form, loads(warehouse));
            default -> drawing.stars(form);
        };
    }

    /** The newest deliveries of the inputs that are named, or of all. */
    private List<ProfileSection> profiles(Project project, Warehouse warehouse) {
        List<String> names = wanted.subList(1, wanted.size());
        Set<Input> inputs = inputs(project, names);
        List<Finding> findings =
                new Checker(project, warehouse, clock()).check().findings();
        Profiler profiler = new Profiler(project, warehouse);
        Distributions distributions = new Distributions(warehouse);
        List<ProfileSection> sections = new ArrayList<>();
        for (Input input : inputs) {
            profiler.of(input).ifPresent(profile -> {
                Map<String, Spread> spreads = new HashMap<>();
                profile.columns().stream()
                        .limit(MOST_SPREADS)
                        .forEach(column -> spreads.put(column.name(), distributions.of(column)));
                sections.add(
                        new ProfileSection(input.name().text(), profile, spreads, stumbles(project, input, findings)));
            });
        }
        return sections;
    }

    private static Set<Input> inputs(Project project, List<String> names) {
        Map<String, Input> known = new LinkedHashMap<>();
        project.inputs().forEach(input -> known.put(input.name().text(), input));
        project.definitions()
                .forEach(definition -> definition
                        .from()
                        .ifPresent(input -> known.putIfAbsent(input.name().text(), input)));
        names.stream().filter(name -> !known.containsKey(name)).findFirst().ifPresent(name -> {
            throw new UsageException(
                    "There is no input \"" + name + "\" in this project; " + Nearest.hint(name, known.keySet()));
        });
        return known.entrySet().stream()
                .filter(entry -> names.isEmpty() || names.contains(entry.getKey()))
                .map(Map.Entry::getValue)
                .collect(Collectors.toCollection(LinkedHashSet::new));
    }

    /** What a check found of the tables that are loaded from an input. */
    private static List<String> stumbles(Project project, Input input, List<Finding> findings) {
        Set<String> tables = project.definitions().stream()
                .filter(definition -> definition
                        .from()
                        .filter(from -> from.name().text().equals(input.name().text()))
                        .isPresent())
                .map(Definition::table)
                .collect(Collectors.toSet());
        return findings.stream()
                .filter(finding -> tables.contains(finding.table()))
                .map(finding -> finding.table() + ": " + finding.text())
                .toList();
    }

    private static List<LoadEntry> loads(Warehouse warehouse) {
        Journal journal = new Journal(warehouse);
        return journal.hasBooks() ? journal.loads() : List.of();
    }

    private String history(Project project, Warehouse warehouse, Form form) {
        if (wanted.size() < 3) {
            throw new UsageException("history needs a dimension and a key: zeitkammer draw history hut ADL");
        }
        Definition definition = project.definition(wanted.get(1));
        if (!(definition instanceof Dimension dimension)) {
            throw new UsageException(definition.table() + " is a fact table; history is of a dimension's members");
        }
        List<String> key = wanted.subList(2, wanted.size());
        return Drawing.history(
                form,
                MemberHistory.read(warehouse, dimension, key, Optional.empty()),
                dimension.table() + ", member " + String.join(", ", key));
    }

    /** What others made is not written over. */
    private static void refuseOthers(Path file) {
        try {
            if (Files.exists(file)
                    && (!Files.isRegularFile(file)
                            || Drawing.MARKS.stream().noneMatch(readBeginning(file)::contains))) {
                throw new UsageException(
                        file + " is there, and is no picture of this program's; name another file: --to");
            }
        } catch (IOException unreadable) {
            throw new UsageException("Cannot read " + file + ": " + unreadable.getMessage());
        }
    }

    private static String readBeginning(Path file) throws IOException {
        int few = 400;
        try (var in = Files.newInputStream(file)) {
            return new String(in.readNBytes(few), StandardCharsets.UTF_8);
        }
    }

    /** Put in place whole: a reader never sees half of a page. */
    private static void write(Path file, String content) {
        try {
            Path folder = file.toAbsolutePath().getParent();
            if (!Files.isDirectory(folder)) {
                throw new UsageException("There is no folder " + folder + " to draw into");
            }
            Path beside = folder.resolve("." + file.getFileName() + ".new");
            Files.writeString(beside, content);
            Files.move(beside, file.toAbsolutePath(), StandardCopyOption.REPLACE_EXISTING);
        } catch (IOException unwritable) {
            throw new UsageException("Cannot write " + file + ": " + unwritable.getMessage());
        }
    }
}
