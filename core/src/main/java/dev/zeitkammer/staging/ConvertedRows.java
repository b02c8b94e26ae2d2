package dev.zeitkammer.staging;

import dev.zeitkammer.definition.CsvForm;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlType;
import java.util.List;
import java.util.Optional;

/** Builds the query that converts what a source gives to the types of the staged rows, and names each row's first bad value. */
final class ConvertedRows {

    private final Conversion conversion;
    private final Conversion plain;
    private final Source source;
    private final Dialect dialect;

    ConvertedRows(Conversion conversion, Source source, Dialect dialect) {
        this.conversion = conversion;
        this.plain = new Conversion(dialect, CsvForm.STANDARD);
        this.source = source;
        this.dialect = dialect;
    }

    String sql(String query, List<Column> columns) {
        StringBuilder inner = new StringBuilder();
        StringBuilder outer = new StringBuilder();
        StringBuilder badColumn = new StringBuilder();
        StringBuilder badText = new StringBuilder();
        for (int index = 0; index < columns.size(); index++) {
            Column column = columns.get(index);
            String name = dialect.quote(column.name());
            Optional<SqlType> from = source.type(column.name());
            inner.append("%s as zk_v%d, %s as zk_t%d,\n    "
                    .formatted(value(name, from, column.type()), index, name, index));
            outer.append("zk_v%d as %s,\n  ".formatted(index, name));
            if (canFail(from, column.type())) {
                String text = from.isEmpty() ? "zk_t" + index : "cast(zk_t" + index + " as varchar)";
                String bad = "\n    when zk_v%d is null and zk_t%d is not null and trim(%s) <> '' then "
                        .formatted(index, index, text);
                badColumn.append(bad).append(dialect.text(column.name()));
                badText.append(bad).append(text);
            }
        }
        String extras = source.extras().stream().map(extra -> extra + ", ").reduce("", String::concat);
        String carried = extras + (source.knowsBadValues() ? "zk_was_bad_column, zk_was_bad_text, " : "");
        return """
                select
                  %s%szk_file,
                  %s as zk_bad_column,
                  %s as zk_bad_text
                from (
                  select
                    %s%szk_file
                  from (
                %s
                  ) as texts
                ) as converted""".formatted(
                        outer,
                        extras,
                        firstOf(badColumn, "zk_was_bad_column"),
                        firstOf(badText, "zk_was_bad_text"),
                        inner,
                        carried,
                        query.indent(4).stripTrailing());
    }

    private String firstOf(StringBuilder branches, String before) {
        String known = source.knowsBadValues() ? before : "cast(null as varchar)";
        return branches.isEmpty()
                ? known
                : "case" + (source.knowsBadValues() ? "\n    when zk_was_bad_column is not null then " + before : "")
                        + branches + "\n  end";
    }

    private static boolean canFail(Optional<SqlType> from, SqlType type) {
        return from.map(known -> !known.fitsIn(type)).orElse(!type.equals(SqlType.VARCHAR));
    }

    private String value(String name, Optional<SqlType> from, SqlType type) {
        boolean isText = from.map(SqlType::isText).orElse(true);
        String trimmed = isText && source.input().trim() ? "nullif(trim(" + name + "), '')" : name;
        if (from.isEmpty()) {
            return conversion.of(trimmed, type);
        }
        if (from.get().fitsIn(type)) {
            return from.get().equals(type) ? trimmed : dialect.cast(trimmed, type);
        }
        String text = dialect.cast(trimmed, SqlType.VARCHAR);
        return from.get().equals(SqlType.TIMESTAMP) && type.equals(SqlType.DATE)
                ? "case when %s = cast(%s as date) then cast(%s as date) end".formatted(name, name, name)
                : plain.of(text, type);
    }
}
