package dev.zeitkammer.dimension.table;

import dev.zeitkammer.dimension.table.DimensionColumn.Role;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.step.Stamp;
import java.util.EnumMap;
import java.util.List;
import java.util.Map;
import java.util.function.Function;
import java.util.stream.Collectors;

/** Writes the select list that makes a row of a dimension's table: one expression a role, in order of the table's columns. */
public final class RowImage {

    private final DimensionTable table;
    private final Dialect dialect;
    private final Map<Role, Function<DimensionColumn, String>> byRole = new EnumMap<>(Role.class);

    private RowImage(DimensionTable table, Dialect dialect) {
        this.table = table;
        this.dialect = dialect;
    }

    /** The image of a row that did not exist: a version of a member delivered by its source, open and current. */
    public static RowImage inserted(DimensionTable table, Dialect dialect, Moments moments, Stamp stamp) {
        return new RowImage(table, dialect)
                .with(Role.VALID_TO, moments.openEnd())
                .with(Role.IS_CURRENT, "true")
                .with(Role.IS_DELETED, "false")
                .with(Role.ROW_ORIGIN, dialect.text(RowOrigin.SOURCE.word()))
                .stamped(stamp, true)
                .stamped(stamp, false);
    }

    /** The image of a row that exists: every column as it stands under the alias. */
    public static RowImage existing(DimensionTable table, Dialect dialect, String alias) {
        RowImage images = new RowImage(table, dialect);
        for (Role role : Role.values()) {
            images.from(role, alias);
        }
        return images;
    }

    private RowImage stamped(Stamp stamp, boolean inserted) {
        return with(inserted ? Role.INSERTED_AT : Role.UPDATED_AT, dialect.timestamp(stamp.at()))
                .with(inserted ? Role.INSERTED_BY : Role.UPDATED_BY, String.valueOf(stamp.load()));
    }

    /** The row is changed by this load. */
    public RowImage touched(Stamp stamp) {
        return stamped(stamp, false);
    }

    /** Columns of a role take an expression: a condition, where the role is yes or no. */
    public RowImage with(Role role, String expression) {
        boolean isFlag = role == Role.IS_CURRENT || role == Role.IS_DELETED;
        String stored = isFlag ? table.flag(role).stored(dialect, expression) : expression;
        return withEach(role, column -> stored);
    }

    /** Columns of a role take the column of the same name under an alias. */
    public RowImage from(Role role, String alias) {
        return withEach(role, column -> dialect.column(alias, column.name()));
    }

    public RowImage withEach(Role role, Function<DimensionColumn, String> expression) {
        byRole.put(role, expression);
        return this;
    }

    /** The image where a condition holds, and another one of the same table where it does not. */
    public RowImage or(RowImage other, String condition) {
        RowImage either = new RowImage(table, dialect);
        for (Role role : Role.values()) {
            either.withEach(role, column -> {
                String then = of(column);
                String otherwise = other.of(column);
                return then.equals(otherwise) ? then : dialect.either(condition, then, otherwise);
            });
        }
        return either;
    }

    private String of(DimensionColumn column) {
        return byRole.get(column.role()).apply(column);
    }

    /** The select list, one column a line. */
    public String selectList() {
        return table.columns().stream()
                .map(column -> of(column) + " as " + dialect.quote(column.name()))
                .collect(Collectors.joining(",\n"));
    }

    /** Whether any column of some roles is another one than it is under an alias; null is a value. */
    public String differs(String alias, List<Role> roles) {
        List<String> differing = table.columns().stream()
                .filter(column -> roles.contains(column.role()))
                .map(column -> dialect.differs(of(column), dialect.column(alias, column.name())))
                .toList();
        return differing.isEmpty() ? "false" : "(" + String.join(" or ", differing) + ")";
    }
}
