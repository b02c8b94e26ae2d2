package dev.zeitkammer.engine.postgres;

import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Stager;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;

/** A scratch table of the embedded engine, written in the form of {@link TextRows}. */
final class HandedRows {

    private final Stager from;
    private final String scratch;
    private final List<Column> columns;

    HandedRows(Stager from, String scratch) {
        this.from = from;
        this.scratch = scratch;
        this.columns = from.describe("select * from " + scratch);
    }

    List<Column> columns() {
        return columns;
    }

    long count() {
        return from.number("select count(*) from " + scratch);
    }

    /** Writes all rows. Replacing takes longer than writing, and few texts have what must be replaced: they are asked first. */
    void write(Path file) {
        List<Boolean> escaped = escaped();
        List<String> values = new ArrayList<>();
        for (int index = 0; index < columns.size(); index++) {
            values.add(escaped.get(index) ? replaced(text(columns.get(index))) : quoted(columns.get(index)));
        }
        from.execute("copy (select " + String.join(", ", values) + " from " + scratch + ") to "
                + from.dialect().text(file.toString()) + " (format csv, header false, delimiter "
                + from.dialect().text(TextRows.SEPARATOR) + ", quote '', escape '', nullstr "
                + from.dialect().text(TextRows.NULL) + ")");
    }

    /** Which columns have a text with something to replace. */
    private List<Boolean> escaped() {
        List<String> asked = columns.stream()
                .map(column ->
                        column.type().isText() ? "coalesce(bool_or(" + hasAny(text(column)) + "), false)" : "false")
                .toList();
        return from.query("select " + String.join(", ", asked) + " from " + scratch, row -> {
                    List<Boolean> flags = new ArrayList<>();
                    for (int column = 1; column <= columns.size(); column++) {
                        flags.add(row.flag(column));
                    }
                    return flags;
                })
                .get(0);
    }

    private String hasAny(String text) {
        return String.join(
                " or ",
                TextRows.ESCAPES.keySet().stream()
                        .map(sign -> "contains(" + text + ", " + sign(sign) + ")")
                        .toList());
    }

    private String replaced(String text) {
        String replaced = text;
        for (Map.Entry<String, String> escape : TextRows.ESCAPES.entrySet()) {
            replaced = "replace(" + replaced + ", " + sign(escape.getKey()) + ", "
                    + from.dialect().text(escape.getValue()) + ")";
        }
        return replaced;
    }

    private static String sign(String sign) {
        return "chr(" + sign.codePointAt(0) + ")";
    }

    private String text(Column column) {
        return "cast(" + quoted(column) + " as varchar)";
    }

    private String quoted(Column column) {
        return from.dialect().quote(column.name());
    }
}
