package dev.zeitkammer.dimension;

import dev.zeitkammer.dimension.DimensionColumn.Role;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.step.Stamp;
import java.util.EnumMap;
import java.util.Map;
import java.util.function.Function;
import java.util.stream.Collectors;

/** Writes the select list that makes a row of a dimension's table: one expression a role, in order of the table's columns. */
final class Images {

    private final DimensionTable table;
    private final Dialect dialect;
    private final Map<Role, Function<DimensionColumn, String>> byRole = new EnumMap<>(Role.class);

    private Images(DimensionTable table, Dialect dialect) {
        this.table = table;
        this.dialect = dialect;
    }

    /** The image of a row that did not exist: a version of a member delivered by its source, open and current. */
    static Images inserted(DimensionTable table, Dialect dialect, Moments moments, Stamp stamp) {
        return new Images(table, dialect)
                .with(Role.VALID_TO, moments.openEnd())
                .with(Role.IS_CURRENT, "true")
                .with(Role.IS_DELETED, "false")
                .with(Role.ROW_ORIGIN, dialect.text(RowOrigin.SOURCE.word()))
                .stamped(stamp, true)
                .stamped(stamp, false);
    }

    /** The image of a row that exists: every column as it stands under the alias. */
    static Images existing(DimensionTable table, Dialect dialect, String alias) {
        Images images = new Images(table, dialect);
        for (Role role : Role.values()) {
            images.from(role, alias);
        }
        return images;
    }

    private Images stamped(Stamp stamp, boolean inserted) {
        return with(inserted ? Role.INSERTED_AT : Role.UPDATED_AT, dialect.timestamp(stamp.at()))
                .with(inserted ? Role.INSERTED_BY : Role.UPDATED_BY, String.valueOf(stamp.load()));
    }

    /** The row is changed by this load. */
    Images touched(Stamp stamp) {
        return stamped(stamp, false);
    }

    Images with(Role role, String expression) {
        return withEach(role, column -> expression);
    }

    /** Columns of a role take the column of the same name under an alias. */
    Images from(Role role, String alias) {
        return withEach(role, column -> dialect.column(alias, column.name()));
    }

    Images withEach(Role role, Function<DimensionColumn, String> expression) {
        byRole.put(role, expression);
        return this;
    }

    /** The select list, one column a line. */
    String selectList() {
        return table.columns().stream()
                .map(column -> byRole.get(column.role()).apply(column) + " as " + dialect.quote(column.name()))
                .collect(Collectors.joining(",\n"));
    }
}
