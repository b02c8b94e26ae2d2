package dev.zeitkammer.dimension.table;

import dev.zeitkammer.align.Constraint;
import dev.zeitkammer.align.TableShape;
import dev.zeitkammer.align.TableShape.ShapedColumn;
import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Conventions;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Dimension.Kind;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.dimension.table.DimensionColumn.Role;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.StoredFlag;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.step.RowValidation;
import dev.zeitkammer.step.Stamp;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.EnumMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/**
 * A dimension's table: its columns in order, each with its role.
 *
 * @param momentType the type of valid_from: that of the effective column or the load date
 * @param hasHistory whether it keeps versions: the definition wants them, or the table has some from an earlier definition
 */
public record DimensionTable(
        Dimension definition, List<DimensionColumn> columns, SqlType momentType, boolean hasHistory) {

    public DimensionTable {
        columns = List.copyOf(columns);
    }

    /** Puts the housekeeping columns around the business key and the attributes. */
    public static DimensionTable of(
            Dimension definition, List<DimensionColumn> described, SqlType momentType, boolean hasHistory) {
        List<DimensionColumn> columns = new ArrayList<>();
        columns.add(DimensionColumn.plain(definition.keyColumn(), SqlType.BIGINT, Role.SURROGATE));
        if (definition.hasMemberKey()) {
            columns.add(DimensionColumn.plain(definition.memberKeyColumn(), SqlType.BIGINT, Role.MEMBER_KEY));
        }
        columns.addAll(described);
        Conventions conventions = definition.conventions();
        for (AuditColumn housekeeping : AuditColumn.values()) {
            if (isKept(housekeeping, definition, hasHistory)) {
                columns.add(DimensionColumn.plain(
                        conventions.column(housekeeping),
                        typeOf(housekeeping, momentType, conventions),
                        Role.valueOf(housekeeping.name())));
            }
        }
        return new DimensionTable(definition, columns, momentType, hasHistory);
    }

    private static boolean isKept(AuditColumn housekeeping, Dimension definition, boolean hasHistory) {
        return switch (housekeeping) {
            case VALID_FROM, VALID_TO, IS_CURRENT, VERSION -> hasHistory;
            case LAST_STATED -> hasHistory && definition.hasEffective();
            case IS_DELETED, ROW_ORIGIN, INSERTED_AT, UPDATED_AT, INSERTED_BY, UPDATED_BY -> true;
        };
    }

    private static SqlType typeOf(AuditColumn housekeeping, SqlType momentType, Conventions conventions) {
        return switch (housekeeping) {
            case VALID_FROM, VALID_TO, LAST_STATED -> momentType;
            case IS_CURRENT, IS_DELETED -> conventions.flag(housekeeping).type();
            case VERSION -> SqlType.INTEGER;
            case ROW_ORIGIN -> SqlType.VARCHAR;
            case INSERTED_AT, UPDATED_AT -> SqlType.TIMESTAMP;
            case INSERTED_BY, UPDATED_BY -> SqlType.BIGINT;
        };
    }

    /**
     * The same with the types in which columns of the program's own stand, where a whole number or a text of another length does
     * as well.
     */
    public DimensionTable keeping(List<Column> existing) {
        Map<String, SqlType> types = new TreeMap<>(String.CASE_INSENSITIVE_ORDER);
        existing.forEach(column -> types.put(column.name(), column.type()));
        List<DimensionColumn> kept = columns.stream()
                .map(column -> column.isOwn()
                                && types.containsKey(column.name())
                                && types.get(column.name()).isLike(column.type())
                        ? column.as(types.get(column.name()))
                        : column)
                .toList();
        return new DimensionTable(definition, kept, momentType, hasHistory);
    }

    /** The form that the table must have in the warehouse. */
    public TableShape shape(Warehouse warehouse, Stamp stamp) {
        Moments moments = new Moments(this, warehouse.dialect());
        String ended = moments.literal(stamp.date());
        String now = warehouse.dialect().timestamp(stamp.at());
        Map<Role, String> initially = new EnumMap<>(Map.of(
                Role.VALID_FROM,
                moments.always(),
                Role.VALID_TO,
                "case when " + conventions().holds(warehouse.dialect(), AuditColumn.IS_DELETED) + " then "
                        + moments.endBefore(ended) + " else " + moments.openEnd() + " end",
                Role.IS_CURRENT,
                conventions().flag(AuditColumn.IS_CURRENT).stored(warehouse.dialect(), "true"),
                Role.VERSION,
                "1",
                Role.LAST_STATED,
                hasHistory ? warehouse.dialect().quote(conventions().column(AuditColumn.VALID_FROM)) : "null"));
        if (conventions().standing()) {
            initially.put(
                    Role.IS_DELETED, conventions().flag(AuditColumn.IS_DELETED).stored(warehouse.dialect(), "false"));
            initially.put(
                    Role.ROW_ORIGIN,
                    "case when " + definition.isReserved(warehouse.dialect().quote(definition.keyColumn())) + " then '"
                            + RowOrigin.RESERVED.word() + "' else '" + RowOrigin.SOURCE.word() + "' end");
            initially.put(Role.INSERTED_AT, now);
            initially.put(Role.UPDATED_AT, now);
            initially.put(Role.INSERTED_BY, "0");
            initially.put(Role.UPDATED_BY, "0");
        }
        List<ShapedColumn> shape = columns.stream()
                .map(column -> new ShapedColumn(
                        column.name(),
                        column.type(),
                        column.was().or(() -> definition.described().was(column.name())),
                        Optional.ofNullable(initially.get(column.role())),
                        column.about().or(() -> definition.described().meaning(column.name()))))
                .toList();
        return new TableShape(
                definition.table(),
                shape,
                conventions().standing()
                        ? names(Role.SURROGATE, Role.KEY)
                        : names(Role.SURROGATE, Role.ROW_ORIGIN, Role.INSERTED_BY),
                definition.described().about().map(Word::text),
                new DimensionViews(this, warehouse).all(),
                definition.isEnforced() && warehouse.dialect().keepsConstraints()
                        ? List.of(names(Role.KEY))
                        : List.of(names(Role.SURROGATE), names(Role.KEY)),
                definition.layout(),
                conventions().standing());
    }

    /** What the database is to hold of it, where it can. */
    public List<Constraint> constraints() {
        List<Constraint> constraints = new ArrayList<>();
        constraints.add(Constraint.primaryKey(name(Role.SURROGATE)));
        if (definition.isEnforced()) {
            names(Role.VALID_FROM, Role.IS_CURRENT, Role.VERSION, Role.IS_DELETED, Role.ROW_ORIGIN)
                    .forEach(column -> constraints.add(Constraint.notNull(column)));
            definition
                    .lookups()
                    .forEach(lookup -> constraints.add(Constraint.foreignKey(
                            lookup.column(),
                            lookup.lookup().dimension().table(),
                            lookup.lookup().dimension().keyColumn())));
        }
        return constraints;
    }

    /** The names of its audit columns, and how its versions end. */
    public Conventions conventions() {
        return definition.conventions();
    }

    /** The condition that a row is current, or its member deleted. */
    public String holds(Dialect dialect, String alias, Role role) {
        return flag(role).holds(dialect, dialect.column(alias, name(role)));
    }

    /** How a role that is yes or no is stored. */
    StoredFlag flag(Role role) {
        return conventions().flag(AuditColumn.valueOf(role.name()));
    }

    /** The names of the columns in these roles, in order of the table. */
    public List<String> names(Role... roles) {
        return in(roles).map(DimensionColumn::name).toList();
    }

    /** The columns in these roles, in order of the table. */
    public Stream<DimensionColumn> in(Role... roles) {
        Set<Role> wanted = Set.copyOf(Arrays.asList(roles));
        return columns.stream().filter(column -> wanted.contains(column.role()));
    }

    /** The name of the one column in a role. */
    public String name(Role role) {
        return in(role).map(DimensionColumn::name).findFirst().orElseThrow();
    }

    /** The columns that a delivery fills: the business key and the attributes. */
    public Stream<DimensionColumn> loaded() {
        return in(Role.KEY, Role.TYPE_0, Role.TYPE_1, Role.TYPE_2, Role.TYPE_3);
    }

    public List<String> keys() {
        return names(Role.KEY);
    }

    /** What a change may be told of. */
    public List<DimensionColumn> attributes() {
        return in(Role.TYPE_0, Role.TYPE_1, Role.TYPE_2, Role.TYPE_3, Role.PREVIOUS)
                .toList();
    }

    /** The columns by which two rows are compared in these roles. */
    public List<String> compared(Role... roles) {
        return in(roles).flatMap(column -> column.compared().stream()).toList();
    }

    /** The column of type 3 whose previous value another one keeps. */
    public DimensionColumn followed(DimensionColumn previous) {
        String followed = previous.follows().orElseThrow();
        return columns.stream()
                .filter(column -> column.name().equals(followed))
                .findFirst()
                .orElseThrow();
    }

    /** Whether two rows are of one member; of a combination, null is a value. */
    public String sameMember(Dialect dialect, String left, String right) {
        boolean nullIsAValue = definition.kind() == Kind.COMBINATION;
        return keys().stream()
                .map(key -> dialect.equal(dialect.column(left, key), dialect.column(right, key), nullIsAValue))
                .collect(Collectors.joining(" and "));
    }

    /** Whether a staged column orders the statements, so that rows can come late. */
    public boolean hasEffective() {
        return definition.hasEffective();
    }

    /** Whether a delivery may say that a member ended. */
    public boolean hasDeletions() {
        return definition.deletions().any();
    }

    /** Whether a row under an alias states values: one that ends its member may do so too. */
    public String states(String alias) {
        return RowValidation.states(definition.deletions().addsUnknown(), alias);
    }

    /**
     * Whether a member that stands may have ended: by a delivery, by the definition as it was, or by whoever made the table. A row of
     * one that did brings it back, whatever the definition says of deletions now.
     */
    public boolean mayHaveEnded() {
        return definition.kind() == Kind.MEMBERS;
    }

    /** Whether the timeline of a member may have to be rebuilt. */
    public boolean canBeRebuilt() {
        return hasHistory && (hasEffective() || mayHaveEnded());
    }
}
