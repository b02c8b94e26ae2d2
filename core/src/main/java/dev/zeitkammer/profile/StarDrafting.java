package dev.zeitkammer.profile;

import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.reading.DefinitionSchemas;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.ZeitkammerException;
import dev.zeitkammer.profile.Drafting.Delivered;
import dev.zeitkammer.profile.References.Looked;
import dev.zeitkammer.profile.References.Reference;
import dev.zeitkammer.profile.StarSources.Waiting;
import dev.zeitkammer.staging.StagedRows;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.function.Supplier;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/**
 * Drafts a whole star of what is delivered: an input for each delivery, dimensions by their keys, facts by what refers to them, a
 * calendar over the dates that occur, and dimensions of flags and of times of day.
 */
public final class StarDrafting {

    private static final String SCRATCH = "zk_star_";

    private final Path folder;
    private final Supplier<Project> project;
    private final Warehouse warehouse;
    private final Set<Path> written = new HashSet<>();
    private final Set<String> names = new HashSet<>();
    private final List<Piece> pieces = new ArrayList<>();

    /**
     * @param folder the project's folder
     * @param project reads the project, which grows while it is drafted
     */
    public StarDrafting(Path folder, Supplier<Project> project, Warehouse warehouse) {
        this.folder = folder;
        this.project = project;
        this.warehouse = warehouse;
    }

    /**
     * What a definition was written for.
     *
     * @param kind dimension, fact or calendar, as one reads it
     * @param from the input, or nothing where it has none
     * @param why what the guess is built on
     */
    public record Piece(String kind, String name, String from, String why) {}

    /** Looks at all of it and writes the definitions; where that fails, those that were written are taken away again. */
    public List<Piece> draft(List<Waiting> waiting) {
        try {
            List<Looked> all = look(waiting);
            List<Reference> references = new References(warehouse, all).find();
            List<Looked> facts = facts(all, references);
            all.forEach(this::input);
            Map<Looked, String> dimensions = new LinkedHashMap<>();
            all.stream()
                    .filter(looked -> !facts.contains(looked))
                    .forEach(looked -> dimensions.put(looked, dimension(looked, references)));
            calendar(facts);
            clock(facts);
            facts.forEach(fact -> flags(fact, references));
            facts.forEach(fact -> fact(fact, facts, references, dimensions));
            return List.copyOf(pieces);
        } catch (ZeitkammerException failed) {
            written.forEach(StarDrafting::takeAway);
            throw failed;
        }
    }

    private List<Looked> look(List<Waiting> waiting) {
        List<Looked> all = new ArrayList<>();
        for (Waiting each : waiting) {
            Delivered delivered = new Drafting(project.get(), warehouse).delivered(each);
            String rows = SCRATCH + all.size();
            warehouse.keep(
                    rows,
                    "select "
                            + warehouse
                                    .dialect()
                                    .columns(delivered.profile().columns().stream()
                                            .map(ColumnProfile::name)
                                            .toList())
                            + " from " + StagedRows.TABLE);
            all.add(new Looked(each.name(), rows, delivered.lines(), delivered.profile()));
        }
        return all;
    }

    private static List<Looked> facts(List<Looked> all, List<Reference> references) {
        List<Looked> facts =
                all.stream().filter(looked -> isFact(looked, references)).toList();
        return all.stream()
                .filter(looked -> facts.contains(looked)
                        || sharesKey(looked, facts, references).isPresent())
                .toList();
    }

    /** The fact whose key something dated has too, to which nothing refers: what happens to it later. */
    private static Optional<Looked> sharesKey(Looked looked, List<Looked> facts, List<Reference> references) {
        boolean isLater = looked.profile().effective().isEmpty()
                && dates(looked).findAny().isPresent()
                && references.stream().noneMatch(reference -> reference.to() == looked);
        return looked.key()
                .filter(key -> isLater)
                .flatMap(key -> facts.stream()
                        .filter(fact -> fact != looked
                                && fact.key()
                                        .filter(other -> other.name().equals(key.name()))
                                        .isPresent())
                        .findFirst());
    }

    /**
     * A fact refers to others and happens on a date; what others refer to, or what changes with time, is a dimension. Where nothing
     * refers to anything, amounts on a date make a fact; what refers to one thing and has a time of day has happened to it.
     */
    static boolean isFact(Looked looked, List<Reference> references) {
        long refersTo = references.stream()
                .filter(reference -> reference.from() == looked)
                .map(Reference::to)
                .distinct()
                .count();
        boolean isReferred = references.stream().anyMatch(reference -> reference.to() == looked);
        boolean isDated = dates(looked).findAny().isPresent();
        boolean isCounted = looked.profile().columns().stream().anyMatch(FactDraft::isAmount);
        if (looked.profile().effective().isPresent() && (isReferred || refersTo < 2)) {
            return false;
        }
        if (isReferred) {
            return refersTo >= 2 && isDated;
        }
        return refersTo >= 2 && (isDated || isCounted) || isDated && isCounted || refersTo == 1 && happens(looked);
    }

    private static boolean happens(Looked looked) {
        return dates(looked)
                .anyMatch(column -> column.type().equals(SqlType.TIMESTAMP) && !Guess.isMomentOfMember(column.name()));
    }

    /** Its moments but for that of change. */
    private static Stream<ColumnProfile> dates(Looked looked) {
        return looked.profile().columns().stream()
                .filter(column -> column.type().isMoment())
                .filter(column -> looked.profile()
                        .effective()
                        .filter(column.name()::equals)
                        .isEmpty());
    }

    private void input(Looked looked) {
        StringBuilder text = new StringBuilder("# " + Draft.drafted(looked.profile()) + "\n");
        text.append("input: ").append(DraftText.scalar(looked.name())).append('\n');
        looked.lines().forEach(line -> text.append(line).append('\n'));
        write("inputs", looked.name(), "input.json", text.toString());
    }

    private String dimension(Looked looked, List<Reference> references) {
        String name = free(References.singular(looked.name()));
        DimensionDraft draft = new DimensionDraft(project.get(), looked.profile(), name, List.of(looked.name()));
        write("dimensions", name, "dimension.json", draft.written());
        String referring = references.stream()
                .filter(reference -> reference.to() == looked)
                .map(reference ->
                        reference.from().name() + "." + reference.column().name())
                .collect(Collectors.joining(", "));
        String key = looked.key().map(column -> "its key is " + column.name()).orElse("no single column is its key");
        pieces.add(new Piece(
                "dimension", name, looked.name(), key + (referring.isEmpty() ? "" : ", found again in " + referring)));
        return name;
    }

    private void calendar(List<Looked> facts) {
        TreeSet<String> years = facts.stream()
                .flatMap(StarDrafting::allMoments)
                .flatMap(column -> Stream.of(String.valueOf(column.least()), String.valueOf(column.greatest())))
                .filter(day -> day.matches("\\d{4}-.*"))
                .map(day -> day.substring(0, 4))
                .collect(Collectors.toCollection(TreeSet::new));
        if (years.isEmpty()) {
            return;
        }
        String name = free("calendar");
        String span = years.first() + "-01-01.." + years.last() + "-12-31";
        write(
                "dimensions",
                name,
                "dimension.json",
                "# The years of the dates in " + list(facts) + "; make it as long as dates will come.\n" + "dimension: "
                        + name + "\nkind: calendar\ndays: " + span + "\n");
        pieces.add(new Piece("calendar", name, "", span + ", the years of the dates in " + list(facts)));
    }

    private static Stream<ColumnProfile> allMoments(Looked looked) {
        return looked.profile().columns().stream()
                .filter(column -> column.type().isMoment());
    }

    private void clock(List<Looked> facts) {
        List<Looked> timed = facts.stream()
                .filter(fact -> fact.profile().columns().stream()
                        .anyMatch(column -> column.type().equals(SqlType.TIME)))
                .toList();
        if (timed.isEmpty()) {
            return;
        }
        String name = free("time_of_day");
        write(
                "dimensions",
                name,
                "dimension.json",
                "# The minutes of a day, for the times in " + list(timed) + ".\n" + "dimension: " + name
                        + "\nkind: calendar\ngrain: minute\n");
        pieces.add(new Piece("calendar", name, "", "the minutes of a day, for the times in " + list(timed)));
    }

    private void flags(Looked fact, List<Reference> references) {
        Set<String> referring = references.stream()
                .filter(reference -> reference.from() == fact)
                .map(reference -> reference.column().name())
                .collect(Collectors.toSet());
        List<String> key = fact.profile().keys().stream().findFirst().orElse(List.of());
        List<String> flags = FactDraft.flags(fact.profile().columns()).stream()
                .filter(column -> !referring.contains(column) && !key.contains(column))
                .toList();
        if (flags.size() < 2) {
            return;
        }
        String name = free(References.singular(fact.name()) + "_flags");
        write(
                "dimensions",
                name,
                "dimension.json",
                "# One member for each combination of yes and no that occurs.\ndimension: " + name
                        + "\nkind: combination\nfrom: " + fact.name() + "\nattributes: ["
                        + flags.stream().map(DraftText::scalar).collect(Collectors.joining(", ")) + "]\n");
        pieces.add(new Piece("dimension", name, fact.name(), "combinations of " + String.join(", ", flags)));
    }

    private void fact(Looked looked, List<Looked> facts, List<Reference> references, Map<Looked, String> dimensions) {
        Map<String, String> members = new LinkedHashMap<>();
        references.stream()
                .filter(reference -> reference.from() == looked && dimensions.containsKey(reference.to()))
                .forEach(reference -> members.put(reference.column().name(), dimensions.get(reference.to())));
        String name = free(References.singular(looked.name()));
        FactDraft draft = new FactDraft(project.get(), looked.profile().with(members), name, List.of(looked.name()));
        write("facts", name, "fact.json", draft.written());
        String dates = dates(looked).map(ColumnProfile::name).collect(Collectors.joining(", "));
        String why = (members.isEmpty()
                        ? "refers to nothing"
                        : "refers to " + String.join(", ", new TreeSet<>(members.values())))
                + (dates.isEmpty() ? "" : ", dated by " + dates);
        String feed = sharesKey(looked, facts, references)
                .filter(fact -> !isFact(looked, references))
                .map(fact -> "; has the key of " + fact.name() + ", and could be a feed of it")
                .orElse("");
        pieces.add(new Piece("fact", name, looked.name(), why + feed));
    }

    private static String list(List<Looked> some) {
        return some.stream().map(Looked::name).collect(Collectors.joining(", "));
    }

    private String free(String name) {
        String free = name;
        for (int number = 2; !names.add(free); number++) {
            free = name + "_" + number;
        }
        return free;
    }

    private void write(String subfolder, String name, String schema, String text) {
        Path file = folder.resolve(subfolder).resolve(name + ".yaml");
        try {
            Files.createDirectories(file.getParent());
            Files.writeString(file, DefinitionSchemas.head(folder, schema) + text, StandardOpenOption.CREATE_NEW);
            written.add(file);
        } catch (IOException refused) {
            throw new ZeitkammerException("Cannot write " + file + ": " + refused.getMessage(), refused);
        }
    }

    private static void takeAway(Path file) {
        try {
            Files.deleteIfExists(file);
        } catch (IOException stays) {
            // the failure that led here is told; a file that cannot be taken away is seen by the next try
        }
    }
}
