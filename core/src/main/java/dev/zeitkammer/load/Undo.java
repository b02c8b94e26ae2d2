package dev.zeitkammer.load;

import dev.zeitkammer.books.Books;
import dev.zeitkammer.books.Journal;
import dev.zeitkammer.books.Known;
import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.books.SealBooks;
import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.books.UndoBooks;
import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Conventions;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.KeptImages;
import dev.zeitkammer.definition.Lookup;
import dev.zeitkammer.definition.MemberLookup;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.UsageException;
import dev.zeitkammer.dimension.DimensionLoad;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Counted;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.GuardException;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.past.BeforeImages;
import dev.zeitkammer.past.ImageTable;
import dev.zeitkammer.past.TakingBack;
import dev.zeitkammer.past.TakingBack.Taken;
import dev.zeitkammer.staging.KeptTable;
import java.time.Clock;
import java.time.LocalDateTime;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Collections;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;

/**
 * Takes loads back, the newest first: rows, marks, and what waited are as they were before. Keys that were given are not given
 * again, and the journal keeps the load and says that it was undone. What it had read is loaded again by the next load of it.
 */
public final class Undo {

    private final Project project;
    private final Warehouse warehouse;
    private final Clock clock;
    private final Books books;
    private final UndoBooks undone;

    public Undo(Project project, Warehouse warehouse, Clock clock) {
        this.project = project;
        this.warehouse = warehouse;
        this.clock = clock;
        this.books = new Books(warehouse);
        this.undone = new UndoBooks(warehouse);
    }

    /** A load that was taken back, and what that did to each table. */
    public record Undone(long load, String date, List<Taken> tables) {

        public Undone {
            tables = List.copyOf(tables);
        }
    }

    /**
     * Takes back the newest load, or all loads back to one, in one transaction.
     *
     * @param back the oldest load to take back
     * @param tables the tables of them that are taken back; empty: all
     * @throws UsageException when there is no such load
     * @throws GuardException when a load cannot be taken back, saying why; nothing is changed then
     */
    public List<Undone> undo(Optional<Long> back, List<String> tables) {
        Loader.lock(warehouse);
        Set<String> wanted = wanted(tables);
        List<LoadEntry> loads = loads(back, wanted);
        books.create();
        return warehouse.inTransaction(() -> takenBack(loads, wanted));
    }

    /** The same for all tables. */
    public List<Undone> undo(Optional<Long> back) {
        return undo(back, List.of());
    }

    private Set<String> wanted(List<String> tables) {
        return tables.stream()
                .map(name -> project.definition(name).table())
                .collect(Collectors.toCollection(LinkedHashSet::new));
    }

    /** What that would do; changes nothing. */
    public List<Undone> show(Optional<Long> back, List<String> tables) {
        Set<String> wanted = wanted(tables);
        List<LoadEntry> loads = loads(back, wanted);
        return warehouse.rehearse(() -> takenBack(loads, wanted));
    }

    /** The same for all tables. */
    public List<Undone> show(Optional<Long> back) {
        return show(back, List.of());
    }

    /** The loads to take back, the newest first. */
    private List<LoadEntry> loads(Optional<Long> back, Set<String> wanted) {
        List<LoadEntry> standing = new Journal(warehouse)
                .loads().stream()
                        .filter(load -> load.tables().stream()
                                .anyMatch(entry -> stands(entry) && isWanted(entry.table(), wanted)))
                        .sorted(Comparator.comparing(LoadEntry::load).reversed())
                        .toList();
        if (standing.isEmpty()) {
            throw new UsageException("There is no load "
                    + (wanted.isEmpty() ? "" : "of " + String.join(", ", wanted) + " ") + "to take back in "
                    + warehouse.title());
        }
        if (back.isPresent() && standing.stream().noneMatch(load -> load.load() == back.get())) {
            throw new UsageException("There is no load " + back.get() + " to take back; see: zeitkammer journal");
        }
        long oldest = back.orElse(standing.get(0).load());
        return standing.stream().filter(load -> load.load() >= oldest).toList();
    }

    private static boolean stands(TableEntry entry) {
        return entry.status() == LoadStatus.DONE;
    }

    private static boolean isWanted(String table, Set<String> wanted) {
        return wanted.isEmpty() || wanted.contains(table);
    }

    private List<Undone> takenBack(List<LoadEntry> loads, Set<String> wanted) {
        Known known = Known.of(warehouse);
        List<Undone> undone = new ArrayList<>();
        for (LoadEntry load : loads) {
            undone.add(takenBack(load, known, wanted));
        }
        if (wanted.isEmpty()) {
            Undone oldest = undone.remove(undone.size() - 1);
            List<Taken> taken = new ArrayList<>(oldest.tables());
            project.inputs().stream()
                    .filter(input -> input.keep().isPresent())
                    .forEach(input -> taken.addAll(remembered(input, oldest.load(), known)));
            undone.add(new Undone(oldest.load(), oldest.date(), taken));
        }
        return undone;
    }

    /** What an input remembers is what it was before the oldest load that is taken back. */
    private List<Taken> remembered(Input input, long oldest, Known known) {
        KeptTable rows = new KeptTable(input, warehouse);
        if (rows.columns().isEmpty()) {
            return List.of();
        }
        refuseWithoutImages(rows, oldest, known);
        Taken taken =
                TakingBack.since(oldest, new ImageTable(warehouse, input, rows)).rows();
        KeptTable away = rows.away();
        if (!away.columns().isEmpty()) {
            TakingBack.since(oldest, new ImageTable(warehouse, input, away)).rows();
        }
        return taken.removed() + taken.restored() == 0 ? List.of() : List.of(taken);
    }

    private void refuseWithoutImages(KeptTable rows, long oldest, Known known) {
        Optional<Long> since = known.imagesSince(rows.shown());
        Dialect dialect = warehouse.dialect();
        String changed = "select count(*) from " + rows.quoted() + " as t where "
                + dialect.column("t", Conventions.STANDARD.column(AuditColumn.UPDATED_BY)) + " >= " + oldest + " and "
                + dialect.column("t", Conventions.STANDARD.column(AuditColumn.INSERTED_BY)) + " < " + oldest;
        if ((since.isEmpty() || since.get() > oldest) && warehouse.number(changed) > 0) {
            throw new GuardException("Load " + oldest + " cannot be taken back: rows of " + rows.shown()
                    + " as they were before are kept "
                    + since.map(first -> "since load " + first + " only").orElse("of none of its loads")
                    + " (images: in zeitkammer.yaml)");
        }
    }

    private Undone takenBack(LoadEntry load, Known known, Set<String> wanted) {
        List<Taken> taken = new ArrayList<>();
        for (Definition definition : concerned(load, wanted)) {
            refuseWithoutImages(load, definition, known);
            refuseAccepted(load, definition);
            TakingBack back = new TakingBack(warehouse, definition, load.load());
            if (definition instanceof Dimension dimension) {
                refuseReferred(load, dimension, back);
            }
            taken.add(back.take());
            if (definition instanceof Dimension dimension
                    && dimension.hierarchy().isPresent()) {
                bridge(dimension, known);
            }
        }
        LocalDateTime now = LocalDateTime.now(clock).truncatedTo(ChronoUnit.MICROS);
        if (wanted.isEmpty()) {
            undone.noteUndone(load.load(), now);
        } else {
            undone.noteUndone(load.load(), List.copyOf(wanted), now);
        }
        return new Undone(load.load(), load.date(), taken);
    }

    private void refuseAccepted(LoadEntry load, Definition definition) {
        new SealBooks(warehouse)
                .accepted().stream()
                        .filter(each -> each.table().equals(definition.table()) && each.load() >= load.load())
                        .findFirst()
                        .ifPresent(each -> {
                            throw new GuardException("Load " + load.load() + " cannot be taken back: changes of "
                                    + each.table() + " by hand were accepted after load " + each.load() + " ("
                                    + each.reason() + ")");
                        });
    }

    /** The tables that a load wrote, facts before the dimensions that they point at. */
    private List<Definition> concerned(LoadEntry load, Set<String> wanted) {
        Map<String, Definition> byTable = new LinkedHashMap<>();
        project.definitions().forEach(definition -> byTable.put(definition.table(), definition));
        Set<String> tables = new LinkedHashSet<>(undone.placeholdersOf(load.load()));
        load.tables().stream().filter(Undo::stands).map(TableEntry::table).forEach(tables::add);
        tables.removeIf(table -> !isWanted(table, wanted));
        tables.stream().filter(table -> !byTable.containsKey(table)).findFirst().ifPresent(table -> {
            throw new GuardException("Load " + load.load() + " cannot be taken back: it wrote " + table
                    + ", which no definition of this project names any more");
        });
        List<Definition> concerned = new ArrayList<>(byTable.values().stream()
                .filter(each -> tables.contains(each.table()))
                .toList());
        Collections.reverse(concerned);
        return concerned;
    }

    private void refuseWithoutImages(LoadEntry load, Definition definition, Known known) {
        boolean loaded =
                load.tables().stream().anyMatch(entry -> entry.table().equals(definition.table()) && stands(entry));
        Optional<Long> since = known.imagesSince(definition.table());
        if (loaded && (since.isEmpty() || since.get() > load.load())) {
            throw new GuardException("Load " + load.load() + " cannot be taken back: rows of " + definition.table()
                    + " as they were before are kept "
                    + since.map(first -> "since load " + first + " only").orElse("of none of its loads")
                    + " (images: in zeitkammer.yaml)");
        }
    }

    /** Rows that the load inserted may be what other rows point at, which were not written by it. */
    private void refuseReferred(LoadEntry load, Dimension dimension, TakingBack back) {
        Dialect dialect = warehouse.dialect();
        referring(dimension)
                .forEach((table, columns) -> columns.forEach(column -> {
                    long rows = warehouse.number(Sql.of("""
                    select count(*)
                    from ${referring} as f
                    join ${dimension} as t on ${t_key} = ${f_key}
                    where ${inserted}""")
                            .with("referring", warehouse.table(table))
                            .with("dimension", warehouse.table(dimension.table()))
                            .with("t_key", dialect.column("t", dimension.keyColumn()))
                            .with("f_key", dialect.column("f", column))
                            .with("inserted", back.inserted())
                            .text());
                    if (rows > 0) {
                        throw new GuardException(
                                "Load " + load.load() + " cannot be taken back: " + Counted.rows(rows) + " of " + table
                                        + (rows == 1 ? " points" : " point") + " at members of " + dimension.table()
                                        + " that it inserted (" + column
                                        + "), and " + (rows == 1 ? "was" : "were") + " not written by it");
                    }
                }));
    }

    /** The tables that stand and point at a dimension, each with its columns that do; not the dimension itself. */
    private Map<String, List<String>> referring(Dimension dimension) {
        Map<String, List<String>> referring = new LinkedHashMap<>();
        project.facts().forEach(fact -> referring.put(fact.table(), columns(fact.table(), fact.lookups(), dimension)));
        project.dimensions().stream()
                .filter(other -> !other.table().equals(dimension.table()))
                .forEach(other -> referring.put(
                        other.table(),
                        columns(
                                other.table(),
                                other.lookups().stream()
                                        .map(MemberLookup::lookup)
                                        .toList(),
                                dimension)));
        return referring;
    }

    private List<String> columns(String table, List<Lookup> lookups, Dimension dimension) {
        List<String> standing =
                warehouse.columns(table).stream().map(Column::name).toList();
        return lookups.stream()
                .filter(lookup -> lookup.dimension().table().equals(dimension.table()))
                .map(Lookup::keyColumn)
                .filter(standing::contains)
                .toList();
    }

    private void bridge(Dimension dimension, Known known) {
        if (new TableLoads(project, warehouse, known).of(dimension) instanceof DimensionLoad members) {
            BeforeImages none = new BeforeImages(new ImageTable(warehouse, dimension), 0, KeptImages.NONE);
            members.bridge().ifPresent(plan -> {
                PlanRun run = new PlanRun(warehouse, LoadListener.NONE, none, Set.of());
                run.compute(plan);
                run.publish(plan);
            });
        }
    }
}
