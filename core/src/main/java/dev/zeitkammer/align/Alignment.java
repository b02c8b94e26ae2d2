package dev.zeitkammer.align;

import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.ZeitkammerException;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/**
 * What it takes to make a table fit its shape.
 *
 * @param statements the SQL, in order; empty when the table fits
 * @param creates whether the table does not exist yet
 * @param notes what the reader should know and nothing is done about
 */
public record Alignment(List<String> statements, boolean creates, List<String> notes) {

    public Alignment {
        statements = List.copyOf(statements);
        notes = List.copyOf(notes);
    }

    /**
     * Compares a table with its shape; changes nothing.
     *
     * @throws ZeitkammerException when the table belongs to somebody else, or a change would lose data
     */
    public static Alignment of(TableShape shape, Warehouse warehouse) {
        String table = warehouse.table(shape.name());
        List<Column> existing = warehouse.columns(shape.name());
        Dialect dialect = warehouse.dialect();
        if (existing.isEmpty()) {
            return new Alignment(List.of(dialect.createTable(table, shape.columns())), true, List.of());
        }
        refuseForeign(shape, existing);
        List<String> statements = new ArrayList<>();
        for (Column wanted : shape.columns()) {
            Optional<Column> found = named(existing, wanted.name());
            if (found.isEmpty()) {
                statements.add(dialect.addColumn(table, wanted));
            } else if (!found.get().type().equals(dialect.stored(wanted.type()))) {
                statements.add(retyped(shape.name(), found.get(), wanted, warehouse));
            }
        }
        return new Alignment(statements, false, dropped(shape, existing));
    }

    private static Optional<Column> named(List<Column> columns, String name) {
        return columns.stream()
                .filter(column -> column.name().equalsIgnoreCase(name))
                .findFirst();
    }

    private static void refuseForeign(TableShape shape, List<Column> existing) {
        List<String> missing = shape.identity().stream()
                .filter(name -> named(existing, name).isEmpty())
                .toList();
        if (!missing.isEmpty()) {
            throw new ZeitkammerException("The table " + shape.name()
                    + " exists and is not one that this definition made: it has no column " + String.join(", ", missing)
                    + "; choose another name with table:, or rename the table that is there");
        }
    }

    private static String retyped(String table, Column found, Column wanted, Warehouse warehouse) {
        Dialect dialect = warehouse.dialect();
        String quoted = warehouse.table(table);
        String alter = dialect.alterColumn(quoted, wanted);
        boolean harmless = found.type().fitsIn(wanted.type())
                || warehouse.number("select count(" + dialect.quote(found.name()) + ") from " + quoted) == 0;
        if (!harmless) {
            throw new ZeitkammerException("The column " + found.name() + " of " + table + " is " + found.type()
                    + " and the definition wants " + wanted.type()
                    + ", which could lose data; if that is meant, run this yourself:\n  " + alter + ";");
        }
        return alter;
    }

    private static List<String> dropped(TableShape shape, List<Column> existing) {
        return existing.stream()
                .filter(column -> named(shape.columns(), column.name()).isEmpty())
                .map(column -> "column " + column.name() + " of " + shape.name()
                        + " is no longer in the definition; it stays as it is")
                .toList();
    }

    /** The type a column should have: that of the table, widened where the rows need it. */
    public static SqlType widened(Optional<SqlType> existing, SqlType staged) {
        return existing.filter(staged::fitsIn).orElse(staged);
    }
}
