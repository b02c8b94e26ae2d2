package dev.zeitkammer.adopt;

import dev.zeitkammer.adopt.StandingTable.Held;
import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Conventions;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.SqlType.Kind;
import dev.zeitkammer.engine.Warehouse;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.EnumMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.regex.Pattern;

/** What a fact table that others made looks like: which keys are of which dimensions, what identifies a row, what is measured. */
final class StandingFact {

    private static final Set<Kind> BROKEN = Set.of(Kind.DECIMAL, Kind.REAL, Kind.DOUBLE);
    private static final int MOST_TRIED = 10;

    private final StandingTable table;
    private final Warehouse warehouse;
    private final Dialect dialect;
    private final List<Dimension> dimensions;
    private final List<Role> roles = new ArrayList<>();
    private final Map<AuditColumn, String> audit = new EnumMap<>(AuditColumn.class);
    private final List<String> grain = new ArrayList<>();
    private Optional<String> own = Optional.empty();

    /**
     * A key of a dimension.
     *
     * @param asOf the column with the date at which the versions were valid
     */
    record Role(Held column, String name, Dimension dimension, Optional<String> asOf) {}

    /** @param dimensions those of the project; of those that stand, keys are looked for */
    StandingFact(StandingTable table, Warehouse warehouse, List<Dimension> dimensions) {
        this.table = table;
        this.warehouse = warehouse;
        this.dialect = warehouse.dialect();
        this.dimensions = dimensions.stream()
                .filter(dimension -> warehouse.has(dimension.table()))
                .toList();
    }

    StandingFact look() {
        stamp(AuditColumn.INSERTED_AT, Likeness.INSERTED);
        stamp(AuditColumn.UPDATED_AT, Likeness.UPDATED);
        table.columns().stream().filter(Held::isWhole).forEach(this::key);
        identity();
        return this;
    }

    List<Role> roles() {
        return roles;
    }

    List<String> grain() {
        return grain;
    }

    Map<AuditColumn, String> audit() {
        return audit;
    }

    /** A number that the table itself counts its rows with, which no delivery brings. */
    Optional<String> own() {
        return own;
    }

    private void stamp(AuditColumn stamp, Pattern likeness) {
        table.columns().stream()
                .filter(column -> column.column().type().equals(SqlType.TIMESTAMP))
                .filter(table::isFilled)
                .filter(column -> Likeness.is(likeness, column.name()))
                .findFirst()
                .ifPresent(column -> audit.put(stamp, column.name()));
    }

    /** A column all of whose values are keys of a dimension, and whose name says so: its key's, or a role's with its ending. */
    private void key(Held column) {
        List<Dimension> holding = dimensions.stream()
                .filter(dimension -> isKeyOf(column, dimension))
                .toList();
        Optional<Dimension> found = holding.stream()
                .filter(dimension -> column.name().equalsIgnoreCase(dimension.keyColumn()))
                .findFirst()
                .or(() -> holding.stream()
                        .filter(dimension -> column.name()
                                .toLowerCase(Locale.ROOT)
                                .contains(dimension.name().text().toLowerCase(Locale.ROOT)))
                        .findFirst())
                .or(() ->
                        holding.size() == 1 && !table.isUnique(column) && Likeness.is(Likeness.SURROGATE, column.name())
                                ? Optional.of(holding.get(0))
                                : Optional.empty());
        found.ifPresent(
                dimension -> roles.add(new Role(column, role(column, dimension), dimension, asOf(column, dimension))));
    }

    private static String role(Held column, Dimension dimension) {
        if (column.name().equalsIgnoreCase(dimension.keyColumn())) {
            return dimension.name().text();
        }
        String role = column.name().toLowerCase(Locale.ROOT).replaceFirst(Likeness.SURROGATE.pattern(), "");
        return role.isEmpty() ? dimension.name().text() : role;
    }

    private boolean isKeyOf(Held column, Dimension dimension) {
        String missing = Sql.of("""
                ${fact} as zk_f where zk_f.${key} is not null
                  and not exists (select 1 from ${dimension} as d where d.${dimension_key} = zk_f.${key})""")
                .with("fact", table.table())
                .with("key", dialect.quote(column.name()))
                .with("dimension", warehouse.table(dimension.table()))
                .with("dimension_key", dialect.quote(dimension.keyColumn()))
                .text();
        return column.filled() > 0 && table.count(missing) == 0;
    }

    /** The date at which all the versions that are pointed at were valid. */
    private Optional<String> asOf(Held column, Dimension dimension) {
        if (!dimension.hasHistory()) {
            return Optional.empty();
        }
        Conventions conventions = dimension.conventions();
        return table.columns().stream()
                .filter(Held::isMoment)
                .filter(date -> !audit.containsValue(date.name()))
                .filter(date -> {
                    String at = dialect.column("f", date.name());
                    String to = dialect.column("d", conventions.column(AuditColumn.VALID_TO));
                    String invalid = Sql.of("""
                            ${fact} as f join ${dimension} as d on ${d_key} = ${f_key}
                            where ${is_member} and (${at} < ${from} or (${to} is not null and ${at} ${behind} ${to}))""")
                            .with("fact", table.table())
                            .with("dimension", warehouse.table(dimension.table()))
                            .with("d_key", dialect.column("d", dimension.keyColumn()))
                            .with("f_key", dialect.column("f", column.name()))
                            .with("is_member", dimension.isMember(dialect.column("f", column.name())))
                            .with("at", at)
                            .with("from", dialect.column("d", conventions.column(AuditColumn.VALID_FROM)))
                            .with("to", to)
                            .with("behind", conventions.inclusive() ? ">" : ">=")
                            .text();
                    return table.count(invalid) == 0;
                })
                .map(Held::name)
                .findFirst();
    }

    private boolean isRole(Held column) {
        return roles.stream().anyMatch(role -> role.column().equals(column));
    }

    /** Of what tells all rows apart, a number that the table counts itself comes last: a delivery does not know it. */
    private void identity() {
        List<Held> candidates = table.columns().stream()
                .filter(column -> !isRole(column) && !audit.containsValue(column.name()))
                .filter(column -> !BROKEN.contains(column.column().type().kind()))
                .sorted(Comparator.comparing((Held column) -> isCounted(column))
                        .thenComparing(column -> !Likeness.is(Likeness.BUSINESS_KEY, column.name())))
                .limit(MOST_TRIED)
                .toList();
        List<List<String>> tried = new ArrayList<>();
        candidates.stream().filter(column -> !isCounted(column)).forEach(column -> tried.add(List.of(column.name())));
        for (int first = 0; first < candidates.size(); first++) {
            for (int second = first + 1; second < candidates.size(); second++) {
                tried.add(List.of(
                        candidates.get(first).name(), candidates.get(second).name()));
            }
        }
        candidates.stream().filter(StandingFact::isCounted).forEach(column -> tried.add(List.of(column.name())));
        tried.stream()
                .filter(columns -> columns.stream().noneMatch(this::isCounted) || columns.size() == 1)
                .filter(columns -> table.tellApart(columns, "true"))
                .findFirst()
                .ifPresent(grain::addAll);
        own = table.columns().stream()
                .filter(column -> isCounted(column) && !isRole(column) && !grain.contains(column.name()))
                .filter(table::isUnique)
                .map(Held::name)
                .findFirst();
    }

    private boolean isCounted(String column) {
        return table.column(column).filter(StandingFact::isCounted).isPresent();
    }

    private static boolean isCounted(Held column) {
        return column.isWhole() && Likeness.is(Likeness.SURROGATE, column.name());
    }

    /** The columns that nothing else is known of. */
    private List<Held> rest() {
        return table.columns().stream()
                .filter(column -> !isRole(column))
                .filter(column -> !audit.containsValue(column.name()))
                .filter(column -> !grain.contains(column.name()))
                .filter(column -> own.filter(column.name()::equals).isEmpty())
                .toList();
    }

    List<Held> measures() {
        return rest().stream().filter(StandingFact::isAmount).toList();
    }

    List<Held> degenerates() {
        return rest().stream().filter(column -> !isAmount(column)).toList();
    }

    private static boolean isAmount(Held column) {
        return BROKEN.contains(column.column().type().kind())
                || (column.isWhole() && !Likeness.is(Likeness.BUSINESS_KEY, column.name()));
    }
}
