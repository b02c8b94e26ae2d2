package dev.zeitkammer.staging;

import dev.zeitkammer.definition.DefinitionException;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Input.ListedColumn;
import dev.zeitkammer.definition.Nearest;
import dev.zeitkammer.definition.Problem;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.engine.BusyException;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Stager;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.WarehouseException;
import dev.zeitkammer.engine.ZeitkammerException;
import dev.zeitkammer.staging.conversion.Conversion;
import dev.zeitkammer.staging.conversion.Inference;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;

/** Stages the deliveries of inputs: finds them, looks at their columns, reads and converts their rows. */
public final class Staging {

    private static final String RAW = "zk_raw";

    /** The folders below which the files of a project's inputs are, also those written inside definitions. */
    public static Set<Path> folders(Project project) {
        FileFinder finder = new FileFinder(project.folder());
        Set<Path> folders = new TreeSet<>();
        for (Input input : project.allInputs()) {
            if (input.origin() instanceof Input.Files files) {
                Path base = finder.base(files.pattern().text());
                folders.add(base);
                folders.add(base.toAbsolutePath());
            }
        }
        return folders;
    }

    private final Warehouse warehouse;
    private final Stager stager;
    private final Path folder;

    /** @param folder the project's folder, which paths are relative to */
    public Staging(Warehouse warehouse, Path folder) {
        this.warehouse = warehouse;
        this.stager = warehouse.stager();
        this.folder = folder;
    }

    /**
     * The delivery of a load date; empty when there is none.
     *
     * @throws StagingException when it cannot be read, or is required and missing
     * @throws DefinitionException when a column that the input lists is not there
     */
    public Optional<Delivery> delivery(Input input, LoadDate date, Earlier earlier) {
        Sources sources = new Sources(warehouse, folder, Optional.of(date), earlier, this);
        Optional<Source> source = sources.of(input);
        if (source.isEmpty()) {
            requires(input, sources);
        }
        return source.map(Staging::withListedColumns);
    }

    /** The newest delivery there is, for looking at what a delivery is like. */
    public Optional<Delivery> newest(Input input, Earlier earlier) {
        return new Sources(warehouse, folder, Optional.empty(), earlier, this)
                .of(input)
                .map(Staging::withListedColumns);
    }

    /** Whether an input has files of its own for each day. */
    public static boolean isOfDays(Input input) {
        return input.origin() instanceof Input.Files files
                && files.pattern().text().contains(LoadDate.DATE);
    }

    /** Whether there are files of an input for a load date, whatever is in them. */
    public boolean isThere(Input input, LoadDate date) {
        return !new FileFinder(folder).of(input, date).isEmpty();
    }

    /** Why there is no delivery, in words: which files are not there. */
    public String missing(Input input, Optional<LoadDate> date) {
        return new Sources(warehouse, folder, date, Earlier.NOTHING, this).missing(input);
    }

    /** Throws when an input that has no delivery must have one. */
    static void requires(Input input, Sources sources) {
        if (input.required()) {
            throw new StagingException("There is no delivery: " + sources.missing(input) + ", and the input \""
                    + input.name() + "\" requires one");
        }
    }

    static Source withListedColumns(Source source) {
        List<Problem> problems = source.input().columns().stream()
                .map(ListedColumn::name)
                .filter(name -> source.column(name.text()).isEmpty())
                .map(name -> new Problem(
                        name.place(),
                        "the column \"" + name + "\" is listed and not staged: " + source.shown()
                                + " has no such column; " + Nearest.hint(name.text(), source.header())))
                .toList();
        if (!problems.isEmpty()) {
            throw new DefinitionException(problems);
        }
        return source;
    }

    /**
     * Reads the wanted columns of a delivery into {@link StagedRows#TABLE}.
     *
     * @throws StagingException when its source is not what it seems; nothing is staged then
     */
    public StagedRows stage(Delivery delivery, Wanted wanted, Earlier earlier) {
        return stageThere((Source) delivery, wanted, earlier, StagedRows.TABLE);
    }

    /** The same into another scratch relation of the warehouse. */
    StagedRows stageThere(Source source, Wanted wanted, Earlier earlier, String relation) {
        return LyingRows.stage(warehouse, source, wanted, earlier, relation).orElseGet(() -> {
            StagedRows staged = stage(source, wanted, earlier, relation);
            warehouse.receive(relation);
            return staged;
        });
    }

    /** Reads the wanted columns of a delivery into a relation of the stager; files that the engine refuses once more, rewritten. */
    StagedRows stage(Delivery delivery, Wanted wanted, Earlier earlier, String relation) {
        Source source = (Source) delivery;
        try {
            return staged(source, wanted, earlier, relation);
        } catch (WarehouseException | StagingException refused) {
            if (!source.rewrite()) {
                throw named(source, refused);
            }
            try {
                return staged(source, wanted, earlier, relation);
            } catch (WarehouseException | StagingException stillRefused) {
                source.discard();
                throw named(source, refused);
            }
        }
    }

    private static ZeitkammerException named(Source source, ZeitkammerException refused) {
        return refused instanceof WarehouseException && !(refused instanceof BusyException)
                ? new StagingException(
                        "Cannot read " + source.shown() + ": "
                                + refused.getMessage().lines().findFirst().orElse(""),
                        refused)
                : refused;
    }

    private StagedRows staged(Source source, Wanted wanted, Earlier earlier, String relation) {
        String input = source.input().remembered();
        Conversion conversion = new Conversion(stager.dialect(), source.csv());
        Map<String, Optional<SqlType>> columns = wanted.inOrder();
        Map<String, SqlType> remembered = earlier.types().apply(input);
        columns.replaceAll((name, type) -> type.or(() -> Optional.ofNullable(remembered.get(name))));
        if (source.isScanned()) {
            dropRejects();
        }
        String query = source.query(columns, earlier);
        columns.replaceAll((name, type) -> type.or(() -> own(source, name, wanted.moments())));
        Inference inference = new Inference(stager, conversion);
        Map<String, SqlType> found = new LinkedHashMap<>();
        if (source.isScanned() && !undecided(columns).isEmpty()) {
            inference
                    .provenTexts(query, undecided(columns), wanted.moments())
                    .forEach(text -> found.put(text, SqlType.VARCHAR));
            columns.replaceAll((name, type) -> type.or(() -> Optional.ofNullable(found.get(name))));
            dropRejects();
        }
        List<String> undecided = undecided(columns);
        List<String> statements = new ArrayList<>(source.statements());
        if (!undecided.isEmpty()) {
            keep(source, RAW, query, statements);
            query = "select * from " + RAW;
        }
        found.putAll(inference.of(RAW, undecided, wanted.moments()));
        List<Column> typed = columns.entrySet().stream()
                .map(entry -> new Column(
                        entry.getKey(),
                        entry.getValue().orElseGet(() -> found.getOrDefault(entry.getKey(), SqlType.VARCHAR))))
                .toList();
        String texts = query;
        String rows = source.inPlace(typed)
                .or(() -> undecided.isEmpty() ? plainlyKept(source, typed, relation, statements) : Optional.empty())
                .orElseGet(() -> kept(
                        source,
                        new ConvertedRows(conversion, source, stager.dialect()).sql(texts, typed),
                        relation,
                        statements));
        WaitedRows waited = new WaitedRows(stager, source.input(), earlier);
        String all = waited.any() && !source.remembers() ? waited.with(rows, typed, relation) : rows;
        source.wasRead(relation);
        statements.add(stager.dialect().name(relation, all));
        read(source, () -> stager.name(relation, all));
        if (!undecided.isEmpty()) {
            stager.dropScratch(RAW);
        }
        Map<String, Map<String, SqlType>> decided = new HashMap<>(source.inferred());
        decided.put(input, found);
        if (stager != warehouse) {
            statements.add("-- These statements run in the embedded engine, which then hands " + relation
                    + " over to the warehouse in bulk");
        }
        return new StagedRows(
                stager, source, typed, decided, source.unusable(relation), source.notes(relation), statements, waited);
    }

    private static List<String> undecided(Map<String, Optional<SqlType>> columns) {
        return columns.keySet().stream()
                .filter(name -> columns.get(name).isEmpty())
                .toList();
    }

    /** The type that a source gives a column itself; texts in which there must be dates or timestamps are looked into. */
    private static Optional<SqlType> own(Source source, String name, Set<String> moments) {
        Optional<SqlType> own = source.type(name);
        if (!moments.contains(name) || own.isEmpty() || own.get().isMoment()) {
            return own;
        }
        return own.get().isText() ? Optional.empty() : Optional.of(SqlType.DATE);
    }

    /** The relation of the stager that holds the rows of an input which another is made of. */
    static String relationOf(Input input) {
        String name = input.name().text();
        String plain = name.replaceAll("[^a-z0-9]", "_");
        return "zk_in_" + (plain.equals(name) ? plain : plain + "_" + Integer.toHexString(name.hashCode()));
    }

    /** The scratch table below a relation of staged rows. */
    static String readInto(String relation) {
        return relation.equals(StagedRows.TABLE) ? "zk_read" : relation + "_read";
    }

    private static String numbered(Source source, String rows) {
        return "select " + source.rowNumber() + " as zk_row, * from " + rows
                + (source.extras().contains(Source.BAD_LINE) ? " where " + Source.BAD_LINE + " is null" : "");
    }

    private String kept(Source source, String query, String relation, List<String> statements) {
        String rows = readInto(relation);
        keep(source, rows, query, statements);
        return numbered(source, rows);
    }

    /** Rows that were read plainly; empty, with nothing kept, where a value was not plain or the engine refused it. */
    private Optional<String> plainlyKept(
            Source source, List<Column> columns, String relation, List<String> statements) {
        Optional<PlainReading> reading = source.plainly(columns);
        if (reading.isEmpty()) {
            return Optional.empty();
        }
        String rows = readInto(relation);
        List<String> tried = new ArrayList<>();
        try {
            keep(source, rows, reading.get().query(), tried);
            if (reading.get().made(stager.number("select count(*) from " + rows))) {
                statements.addAll(tried);
                return Optional.of(numbered(source, rows));
            }
        } catch (StagingException refused) {
            if (stager.isInTransaction()) {
                throw refused;
            }
            // the closer look tells what is wrong
        }
        stager.dropScratch(rows);
        dropRejects();
        return Optional.empty();
    }

    private void keep(Source source, String relation, String query, List<String> statements) {
        statements.add(stager.dialect().keep(relation, query));
        read(source, () -> stager.keep(relation, query));
    }

    /** @throws StagingException that names the source, when the reading fails */
    static void read(Source source, Runnable reading) {
        try {
            reading.run();
        } catch (WarehouseException failed) {
            throw new StagingException(
                    "Cannot read " + source.shown() + ": "
                            + failed.getMessage().lines().findFirst().orElse(""),
                    failed);
        }
    }

    private void dropRejects() {
        stager.dropScratch("zk_rejects");
        stager.dropScratch("zk_reject_scans");
    }
}
