package dev.zeitkammer.align;

import java.util.List;
import java.util.Optional;

/**
 * Something that the database itself is to hold of a table, where it can.
 *
 * @param columns the columns that it is about
 * @param references the table that a foreign key points into, and {@code referenced} its column
 */
public record Constraint(Kind kind, List<String> columns, Optional<String> references, Optional<String> referenced) {

    /** What is held. */
    public enum Kind {
        PRIMARY_KEY,
        UNIQUE,
        NOT_NULL,
        FOREIGN_KEY
    }

    public Constraint {
        columns = List.copyOf(columns);
    }

    public static Constraint primaryKey(String column) {
        return new Constraint(Kind.PRIMARY_KEY, List.of(column), Optional.empty(), Optional.empty());
    }

    public static Constraint unique(List<String> columns) {
        return new Constraint(Kind.UNIQUE, columns, Optional.empty(), Optional.empty());
    }

    public static Constraint notNull(String column) {
        return new Constraint(Kind.NOT_NULL, List.of(column), Optional.empty(), Optional.empty());
    }

    public static Constraint foreignKey(String column, String references, String referenced) {
        return new Constraint(Kind.FOREIGN_KEY, List.of(column), Optional.of(references), Optional.of(referenced));
    }

    /** Whether what a database holds already does as well: a primary key is unique and never null too. */
    boolean isHeldBy(Constraint standing) {
        boolean sameColumns = columns.size() == standing.columns.size()
                && columns.stream().allMatch(column -> standing.columns.stream().anyMatch(column::equalsIgnoreCase));
        return sameColumns
                && switch (kind) {
                    case PRIMARY_KEY -> standing.kind == Kind.PRIMARY_KEY || standing.kind == Kind.UNIQUE;
                    case UNIQUE -> standing.kind == Kind.PRIMARY_KEY || standing.kind == Kind.UNIQUE;
                    case NOT_NULL -> standing.kind == Kind.NOT_NULL || standing.kind == Kind.PRIMARY_KEY;
                    case FOREIGN_KEY -> standing.kind == Kind.FOREIGN_KEY;
                };
    }
}
