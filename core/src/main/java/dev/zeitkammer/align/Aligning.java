package dev.zeitkammer.align;

import dev.zeitkammer.align.TableShape.ShapedColumn;
import dev.zeitkammer.align.TableShape.ShapedView;
import dev.zeitkammer.definition.DefinitionException;
import dev.zeitkammer.definition.Nearest;
import dev.zeitkammer.definition.Problem;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.ZeitkammerException;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;

/** Compares a table with its shape; changes nothing. */
public final class Aligning {

    private static final int LONGEST_NAME = 60;

    private final TableShape shape;
    private final Warehouse warehouse;
    private final Dialect dialect;
    private final String table;
    /** The columns that stand, by their names whatever their case, in order. */
    private final Map<String, Column> existing = new LinkedHashMap<>();

    private final List<String> statements = new ArrayList<>();
    private final List<String> notes = new ArrayList<>();
    private boolean viewsAreGone;
    private final List<ShapedColumn> added = new ArrayList<>();

    private Aligning(TableShape shape, Warehouse warehouse) {
        this.shape = shape;
        this.warehouse = warehouse;
        this.dialect = warehouse.dialect();
        this.table = warehouse.table(shape.name());
        warehouse.columns(shape.name()).forEach(this::stands);
    }

    /**
     * What it takes to make the table fit.
     *
     * @throws ZeitkammerException when the table belongs to somebody else, or a change would lose data
     */
    public static Alignment of(TableShape shape, Warehouse warehouse) {
        return new Aligning(shape, warehouse).alignment();
    }

    /** Refuses what the engine would cut or cannot make, before anything is made. */
    private void refuseTooLarge() {
        Stream.concat(Stream.of(shape.name()), shape.columns().stream().map(ShapedColumn::name))
                .filter(name -> name.getBytes(StandardCharsets.UTF_8).length > dialect.longestName())
                .findFirst()
                .ifPresent(name -> {
                    throw new ZeitkammerException("The name \"" + name + "\" of " + shape.name() + " has "
                            + name.getBytes(StandardCharsets.UTF_8).length + " bytes, and names have "
                            + dialect.longestName() + " at most in " + warehouse.title() + "; choose a shorter one");
                });
        if (shape.columns().size() > dialect.mostColumns()) {
            throw new ZeitkammerException(
                    shape.name() + " would have " + shape.columns().size() + " columns, and tables have "
                            + dialect.mostColumns() + " at most in " + warehouse.title());
        }
    }

    private Alignment alignment() {
        refuseTooLarge();
        boolean creates = existing.isEmpty();
        if (creates) {
            statements.add(dialect.createTable(
                    table, shape.columns().stream().map(ShapedColumn::column).toList()));
            layOut();
        } else {
            if (shape.standing()) {
                statements.addAll(warehouse.madeReady(shape.name()));
            }
            rename();
            refuseForeign();
            refuseUnfilled();
            shape.columns().forEach(this::fit);
            fill();
            notes.addAll(dropped());
        }
        comment();
        index();
        shape.views().forEach(this::show);
        return new Alignment(
                statements, creates, added.stream().map(ShapedColumn::name).toList(), notes);
    }

    private void layOut() {
        List<Problem> unknown = shape.layout().columns().stream()
                .filter(word -> shape.columns().stream()
                        .noneMatch(column -> column.name().equalsIgnoreCase(word.text())))
                .map(word -> new Problem(
                        word.place(),
                        "\"layout\" names " + word + ", which is no column of " + shape.name() + "; "
                                + Nearest.hint(
                                        word.text(),
                                        shape.columns().stream()
                                                .map(ShapedColumn::name)
                                                .toList())))
                .toList();
        if (!unknown.isEmpty()) {
            throw new DefinitionException(unknown);
        }
        statements.addAll(dialect.layOut(
                table,
                shape.layout().partition().stream().map(Word::text).toList(),
                shape.layout().sort().stream().map(Word::text).toList()));
    }

    private void stands(Column column) {
        existing.putIfAbsent(Word.folded(column.name()), column);
    }

    private Optional<Column> standing(String name) {
        return Optional.ofNullable(existing.get(Word.folded(name)));
    }

    private void rename() {
        for (ShapedColumn wanted : shape.columns()) {
            Optional<Column> old = wanted.was().flatMap(this::standing);
            if (old.isPresent() && standing(wanted.name()).isEmpty()) {
                statements.add(dialect.renameColumn(table, old.get().name(), wanted.name()));
                existing.remove(Word.folded(old.get().name()));
                stands(new Column(wanted.name(), old.get().type()));
            }
        }
    }

    private void refuseForeign() {
        List<String> missing = shape.identity().stream()
                .filter(name -> standing(name).isEmpty())
                .toList();
        if (!missing.isEmpty()) {
            throw new ZeitkammerException("The table " + shape.name()
                    + " exists and is not one that this definition made: it has no column " + String.join(", ", missing)
                    + "; choose another name with table:, rename the table that is there, or say standing: true where it is"
                    + " one that others made and this definition is to go on with");
        }
    }

    /** Refuses columns that must have a value and that nothing gives one. */
    private void refuseUnfilled() {
        if (!shape.standing()) {
            return;
        }
        List<String> unfilled = warehouse.required(shape.name()).stream()
                .filter(name -> shape.columns().stream()
                        .noneMatch(column -> column.name().equalsIgnoreCase(name)
                                || column.was().filter(name::equalsIgnoreCase).isPresent()))
                .toList();
        if (!unfilled.isEmpty()) {
            throw new ZeitkammerException(
                    shape.name() + " has a column that is never null and that the definition does not"
                            + " fill: " + String.join(", ", unfilled)
                            + "; load it, give it a default in the database, or let it be null there");
        }
    }

    private void fit(ShapedColumn wanted) {
        Optional<Column> found = standing(wanted.name());
        if (found.isEmpty()) {
            statements.add(dialect.addColumn(table, wanted.column()));
            added.add(wanted);
        } else if (!found.get().type().equals(dialect.stored(wanted.type()))
                && !isWideAndEmpty(found.get(), wanted.type())) {
            String alter = retyped(found.get(), wanted.column());
            notes.add("column " + wanted.name() + " of " + shape.name() + " is "
                    + found.get().type() + " and becomes " + dialect.stored(wanted.type()));
            if (dialect.viewsHoldColumns() && !viewsAreGone) {
                shape.views().forEach(view -> {
                    refuseForeign(view);
                    statements.add(dialect.dropView(warehouse.table(view.name())));
                });
                viewsAreGone = true;
            }
            statements.add(alter);
        }
    }

    /** Whether a column has no value and holds all that it should: it is not made narrower. */
    private boolean isWideAndEmpty(Column found, SqlType wanted) {
        return wanted.fitsIn(found.type()) && !hasValues(found.name(), table, warehouse);
    }

    private static boolean hasValues(String column, String table, Warehouse warehouse) {
        return warehouse.number("select count(" + warehouse.dialect().quote(column) + ") from " + table) > 0;
    }

    private String retyped(Column found, Column wanted) {
        if (shape.standing()) {
            throw new ZeitkammerException("The column " + found.name() + " of " + shape.name() + " is " + found.type()
                    + ", and the definition and its rows want " + wanted.type()
                    + "; others made it, so that it is left as it is; if the change is meant, run this yourself:\n  "
                    + dialect.alterColumn(table, wanted) + ";");
        }
        return retyped(new Retyped(shape.name(), table, found, wanted), warehouse);
    }

    /**
     * A column that stands and as it should be.
     *
     * @param shown what messages call the table, and {@code table} the table in SQL
     */
    public record Retyped(String shown, String table, Column found, Column wanted) {}

    /**
     * A statement that gives a column another type.
     *
     * @throws ZeitkammerException when that could lose data
     */
    public static String retyped(Retyped column, Warehouse warehouse) {
        Dialect dialect = warehouse.dialect();
        Column found = column.found();
        Column wanted = column.wanted();
        String alter = dialect.alterColumn(column.table(), wanted);
        boolean harmless = found.type().fitsIn(wanted.type()) || !hasValues(found.name(), column.table(), warehouse);
        if (!harmless) {
            throw new ZeitkammerException("The column " + found.name() + " of " + column.shown() + " is " + found.type()
                    + " and the definition wants " + wanted.type()
                    + ", which could lose data; if that is meant, run this yourself:\n  " + alter + ";");
        }
        return alter;
    }

    /** Rows that are there get the values that new columns of the program's own must have. */
    private void fill() {
        List<ShapedColumn> filled =
                added.stream().filter(column -> column.initially().isPresent()).toList();
        if (!filled.isEmpty()) {
            Map<String, String> set = new LinkedHashMap<>();
            filled.forEach(column -> set.put(column.name(), column.initially().orElseThrow()));
            statements.add(dialect.fill(table, set));
        }
    }

    /** Columns that no definition names; those of tables that others made are known to be there. */
    private List<String> dropped() {
        if (shape.standing()) {
            return List.of();
        }
        Set<String> wanted = new HashSet<>();
        shape.columns().forEach(column -> wanted.add(Word.folded(column.name())));
        return existing.entrySet().stream()
                .filter(column -> !wanted.contains(column.getKey()))
                .map(column -> "column " + column.getValue().name() + " of " + shape.name()
                        + " is not in the definition; it stays as it is")
                .toList();
    }

    private void comment() {
        List<ShapedColumn> described = shape.columns().stream()
                .filter(column -> column.about().isPresent())
                .toList();
        if (described.isEmpty() && shape.about().isEmpty()) {
            return;
        }
        Map<String, String> comments = warehouse.comments(shape.name());
        shape.about()
                .filter(about -> !about.equals(comments.get("")))
                .ifPresent(about -> statements.add(dialect.commentOnTable(table, about)));
        for (ShapedColumn column : described) {
            String about = column.about().orElseThrow();
            if (!about.equals(comments.get(column.name()))) {
                statements.add(dialect.commentOnColumn(table, column.name(), about));
            }
        }
    }

    private void index() {
        List<String> standing = List.copyOf(warehouse.indexes(shape.name()));
        for (List<String> columns : shape.indexes()) {
            String name = ("zk_" + shape.name() + "_" + String.join("_", columns)).replaceAll("[^\\p{L}\\p{N}_]", "_");
            String fitting = name.length() <= LONGEST_NAME
                    ? name
                    : name.substring(0, LONGEST_NAME - 9) + "_" + Integer.toHexString(name.hashCode());
            if (!standing.contains(fitting)) {
                statements.addAll(dialect.createIndex(fitting, table, columns));
            }
        }
    }

    private boolean sameColumns(List<Column> standing, List<Column> wanted) {
        return standing.equals(wanted.stream()
                .map(column -> new Column(column.name(), dialect.stored(column.type())))
                .toList());
    }

    private void refuseForeign(ShapedView view) {
        if (!warehouse.viewColumns(view.name()).isEmpty()
                && warehouse
                        .comment(warehouse.schema(), view.name())
                        .filter(comment -> comment.endsWith(Warehouse.KEPT))
                        .isEmpty()) {
            throw new ZeitkammerException("The view " + view.name() + " of " + shape.name()
                    + " cannot be made: there is one of that name that this program does not keep; choose another name, or"
                    + " drop the view that is there");
        }
    }

    private void show(ShapedView view) {
        if (warehouse.has(view.name())) {
            throw new ZeitkammerException("The view " + view.name() + " of " + shape.name()
                    + " cannot be made: a table has that name; choose another one");
        }
        if (viewsAreGone || !sameColumns(warehouse.viewColumns(view.name()), view.columns())) {
            refuseForeign(view);
            statements.add(dialect.createView(warehouse.table(view.name()), view.query()));
            statements.add(dialect.commentOnView(warehouse.table(view.name()), "A view of " + shape.name()));
        }
    }
}
