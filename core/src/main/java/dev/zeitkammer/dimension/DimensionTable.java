package dev.zeitkammer.dimension;

import dev.zeitkammer.align.TableShape;
import dev.zeitkammer.definition.Conventions;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Housekeeping;
import dev.zeitkammer.dimension.DimensionColumn.Role;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.SqlType;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Set;
import java.util.stream.Stream;

/**
 * A dimension's table: its columns in order, each with its role.
 *
 * @param momentType the type of valid_from: that of the effective column, or date
 */
public record DimensionTable(
        Dimension definition, Conventions conventions, List<DimensionColumn> columns, SqlType momentType) {

    public DimensionTable {
        columns = List.copyOf(columns);
    }

    /** Puts the housekeeping columns around the business key and the attributes. */
    static DimensionTable of(
            Dimension definition, Conventions conventions, List<DimensionColumn> described, SqlType momentType) {
        List<DimensionColumn> columns = new ArrayList<>();
        columns.add(DimensionColumn.own(keyColumn(definition), SqlType.BIGINT, Role.SURROGATE));
        columns.addAll(described);
        for (Housekeeping housekeeping : Housekeeping.values()) {
            if (isKept(housekeeping, definition)) {
                columns.add(DimensionColumn.own(
                        conventions.column(housekeeping),
                        typeOf(housekeeping, momentType),
                        Role.valueOf(housekeeping.name())));
            }
        }
        return new DimensionTable(definition, conventions, columns, momentType);
    }

    /** The surrogate key's column. */
    public static String keyColumn(Dimension definition) {
        return definition.name() + "_key";
    }

    private static boolean isKept(Housekeeping housekeeping, Dimension definition) {
        return switch (housekeeping) {
            case VALID_FROM, VALID_TO, IS_CURRENT, VERSION -> definition.hasHistory();
            case LAST_STATED -> definition.hasHistory() && definition.hasEffective();
            case IS_DELETED, ROW_ORIGIN, INSERTED_AT, UPDATED_AT, INSERTED_BY, UPDATED_BY -> true;
        };
    }

    private static SqlType typeOf(Housekeeping housekeeping, SqlType momentType) {
        return switch (housekeeping) {
            case VALID_FROM, VALID_TO, LAST_STATED -> momentType;
            case IS_CURRENT, IS_DELETED -> SqlType.BOOLEAN;
            case VERSION -> SqlType.INTEGER;
            case ROW_ORIGIN -> SqlType.VARCHAR;
            case INSERTED_AT, UPDATED_AT -> SqlType.TIMESTAMP;
            case INSERTED_BY, UPDATED_BY -> SqlType.BIGINT;
        };
    }

    /** The form that the table must have in the warehouse. */
    TableShape shape() {
        List<Column> shape = columns.stream()
                .map(column -> new Column(column.name(), column.type()))
                .toList();
        return new TableShape(definition.table(), shape, identity());
    }

    private List<String> identity() {
        return names(Role.SURROGATE, Role.ROW_ORIGIN, Role.INSERTED_BY);
    }

    /** The names of the columns in these roles, in order of the table. */
    List<String> names(Role... roles) {
        Set<Role> wanted = Set.copyOf(Arrays.asList(roles));
        return having(wanted).map(DimensionColumn::name).toList();
    }

    private Stream<DimensionColumn> having(Set<Role> roles) {
        return columns.stream().filter(column -> roles.contains(column.role()));
    }

    /** The name of the one column in a role. */
    String name(Role role) {
        return having(Set.of(role)).map(DimensionColumn::name).findFirst().orElseThrow();
    }

    /** The columns that a delivery fills: the business key and the attributes. */
    List<DimensionColumn> loaded() {
        return having(Set.of(Role.KEY, Role.TYPE_0, Role.TYPE_1, Role.TYPE_2)).toList();
    }

    List<String> keys() {
        return names(Role.KEY);
    }

    List<String> attributes() {
        return names(Role.TYPE_0, Role.TYPE_1, Role.TYPE_2);
    }

    boolean hasHistory() {
        return definition.hasHistory();
    }

    /** Whether a staged column orders the statements, so that rows can come late. */
    boolean hasEffective() {
        return definition.hasEffective();
    }

    boolean hasDeletions() {
        return definition.deletions().any();
    }

    /** Whether the history of a member may have to be told anew. */
    boolean canBeRetold() {
        return hasHistory() && (hasEffective() || hasDeletions());
    }
}
