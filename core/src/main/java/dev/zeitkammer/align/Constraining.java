package dev.zeitkammer.align;

import dev.zeitkammer.align.Constraint.Kind;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.Warehouse.Result;
import dev.zeitkammer.engine.ZeitkammerException;
import java.util.ArrayList;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import java.util.stream.Collectors;

/** Statements that make the database hold constraints of a table; those that its rows break are refused with the rows. */
public final class Constraining {

    private static final int EXAMPLES = 5;

    private final String name;
    private final String table;
    private final Warehouse warehouse;
    private final Dialect dialect;
    private final List<String> standing;

    private Constraining(String name, Warehouse warehouse) {
        this.name = name;
        this.table = warehouse.table(name);
        this.warehouse = warehouse;
        this.dialect = warehouse.dialect();
        this.standing = warehouse.columns(name).stream().map(Column::name).toList();
    }

    /**
     * The statements that are still needed; none where the engine keeps no constraints.
     *
     * @throws ZeitkammerException where rows that stand break one of them
     */
    public static List<String> of(String name, List<Constraint> constraints, Warehouse warehouse) {
        if (!warehouse.dialect().keepsConstraints() || constraints.isEmpty()) {
            return List.of();
        }
        return new Constraining(name, warehouse).statements(constraints);
    }

    private List<String> statements(List<Constraint> constraints) {
        List<Constraint> held = standing.isEmpty()
                ? List.of()
                : warehouse.constraints(name).stream().map(Constraining::held).toList();
        List<String> statements = new ArrayList<>();
        for (Constraint constraint : constraints) {
            if (held.stream().noneMatch(constraint::isHeldBy)) {
                refuseBroken(constraint);
                statements.add(added(constraint));
            }
        }
        return statements;
    }

    private static Constraint held(Warehouse.Held held) {
        Kind kind = switch (held.kind()) {
            case "p" -> Kind.PRIMARY_KEY;
            case "u" -> Kind.UNIQUE;
            case "n" -> Kind.NOT_NULL;
            default -> Kind.FOREIGN_KEY;
        };
        return new Constraint(kind, held.columns(), Optional.empty(), Optional.empty());
    }

    private String added(Constraint constraint) {
        String columns = dialect.columns(constraint.columns());
        return switch (constraint.kind()) {
            case PRIMARY_KEY -> dialect.addConstraint(table, "primary key (" + columns + ")");
            case UNIQUE -> dialect.addConstraint(table, "unique (" + columns + ")");
            case NOT_NULL -> dialect.setNotNull(table, constraint.columns().get(0));
            case FOREIGN_KEY ->
                dialect.addConstraint(
                        table,
                        "foreign key (" + columns + ") references "
                                + warehouse.table(constraint.references().orElseThrow()) + " ("
                                + dialect.quote(constraint.referenced().orElseThrow())
                                + ") deferrable initially deferred");
        };
    }

    private void refuseBroken(Constraint constraint) {
        boolean allStand = constraint.columns().stream()
                .allMatch(column -> standing.stream().anyMatch(column::equalsIgnoreCase));
        if (!allStand) {
            return;
        }
        String breaking = breaking(constraint);
        Result rows = warehouse.result(breaking + "\nlimit " + EXAMPLES);
        if (!rows.rows().isEmpty()) {
            String shown = rows.rows().stream()
                    .map(row -> row.stream().map(Objects::toString).collect(Collectors.joining(", ")))
                    .collect(Collectors.joining("; "));
            throw new ZeitkammerException("The database cannot hold that " + words(constraint) + ": " + name
                    + " has rows that break it, such as " + shown + "; mend them, or leave out constraints: enforced");
        }
    }

    private String breaking(Constraint constraint) {
        String columns = dialect.columns(constraint.columns());
        return switch (constraint.kind()) {
            case PRIMARY_KEY, UNIQUE ->
                "select " + columns + " from " + table + " as t group by " + columns + " having count(*) > 1"
                        + (constraint.kind() == Kind.PRIMARY_KEY ? " or " + anyNull(constraint) : "");
            case NOT_NULL -> "select * from " + table + " as t where " + anyNull(constraint);
            case FOREIGN_KEY ->
                Sql.of("""
                        select distinct ${column} from ${table} as t
                        where ${column} is not null
                          and not exists (select 1 from ${other} as d where d.${referenced} = t.${column})""")
                        .with("column", columns)
                        .with("table", table)
                        .with("other", warehouse.table(constraint.references().orElseThrow()))
                        .with(
                                "referenced",
                                dialect.quote(constraint.referenced().orElseThrow()))
                        .text();
        };
    }

    private String anyNull(Constraint constraint) {
        return constraint.columns().stream()
                .map(column -> dialect.quote(column) + " is null")
                .collect(Collectors.joining(" or "));
    }

    private static String words(Constraint constraint) {
        String columns = String.join(", ", constraint.columns());
        return switch (constraint.kind()) {
            case PRIMARY_KEY -> columns + " is never null and stands once";
            case UNIQUE -> columns + " stands once";
            case NOT_NULL -> columns + " is never null";
            case FOREIGN_KEY -> columns + " is in " + constraint.references().orElseThrow();
        };
    }
}
