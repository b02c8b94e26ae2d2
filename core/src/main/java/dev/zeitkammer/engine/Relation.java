package dev.zeitkammer.engine;

import java.util.List;
import java.util.Optional;

/**
 * A scratch relation: a query's rows, kept or only named, that one connection sees while it loads a table. Each is declared
 * once. In SQL it stands by its name.
 *
 * @param name what it is called in SQL
 * @param row what a row of it is, in a sentence
 * @param columns the columns that the program gives it, in no order; one that ends in {@code *} stands for a numbered family.
 *     Columns of the definition's own may stand beside them.
 * @param probedBy the column by which single rows are asked for, where that happens however many there are
 */
public record Relation(String name, String row, List<String> columns, Optional<String> probedBy) {

    public Relation {
        columns = List.copyOf(columns);
    }

    public Relation(String name, String row, List<String> columns) {
        this(name, row, columns, Optional.empty());
    }

    public static Relation of(String name, String row, String... columns) {
        return new Relation(name, row, List.of(columns));
    }

    public Relation probedBy(String column) {
        return new Relation(name, row, columns, Optional.of(column));
    }

    /** The name, so that a relation can stand in a text of SQL. */
    @Override
    public String toString() {
        return name;
    }
}
