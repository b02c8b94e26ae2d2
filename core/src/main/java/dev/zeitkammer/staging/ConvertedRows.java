package dev.zeitkammer.staging;

import dev.zeitkammer.definition.CsvForm;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlText;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.staging.conversion.Conversion;
import java.util.List;
import java.util.Optional;
import java.util.function.Function;
import java.util.stream.Collectors;
import java.util.stream.IntStream;

/**
 * Builds the query that converts what a source gives to the types of the staged rows, and names each row's first bad value.
 *
 * <p>It goes in layers, since an engine evaluates twice what is written twice inside a {@code case}: the texts with their
 * lenient casts, the values, whether any of them is bad, and only for such rows which one.
 */
final class ConvertedRows {

    private final Conversion conversion;
    private final Conversion plain;
    private final Source source;
    private final Dialect dialect;
    private final Function<String, Optional<SqlType>> given;

    ConvertedRows(Conversion conversion, Source source, Dialect dialect) {
        this(conversion, source, dialect, source::type);
    }

    /** @param given the types that the query gives columns; empty of those that it gives as texts */
    ConvertedRows(Conversion conversion, Source source, Dialect dialect, Function<String, Optional<SqlType>> given) {
        this.given = given;
        this.conversion = conversion;
        this.plain = new Conversion(dialect, CsvForm.STANDARD);
        this.source = source;
        this.dialect = dialect;
    }

    /** One column on its way: under {@code zk_t} as it came, {@code zk_l} as a lenient cast takes it, {@code zk_v} as a value. */
    private final class Part {
        private final int index;
        private final Column column;
        private final Optional<SqlType> from;

        Part(int index, Column column) {
            this.index = index;
            this.column = column;
            this.from = given.apply(column.name());
        }

        private String name() {
            return dialect.quote(column.name());
        }

        private String raw() {
            return "zk_t" + index;
        }

        private String value() {
            return "zk_v" + index;
        }

        /** The text that is converted; of a typed value, its text. */
        private String text(String from) {
            String trimmed = isText() && source.input().trim() ? "nullif(trim(" + from + "), '')" : from;
            return isConverted() && !isText() ? dialect.cast(trimmed, SqlType.VARCHAR) : trimmed;
        }

        private boolean isText() {
            return from.map(SqlType::isText).orElse(true);
        }

        private boolean isCut() {
            return from.isPresent()
                    && from.get().equals(SqlType.TIMESTAMP)
                    && column.type().equals(SqlType.DATE);
        }

        /** Whether texts are looked at, rather than values cast that fit. */
        private boolean isConverted() {
            return from.isEmpty() || (!from.get().fitsIn(column.type()) && !isCut());
        }

        boolean canFail() {
            return from.map(known -> !known.fitsIn(column.type()))
                    .orElse(!column.type().equals(SqlType.VARCHAR));
        }

        private Conversion own() {
            return from.isEmpty() ? conversion : plain;
        }

        private Optional<String> lenient(String text) {
            return isConverted() ? own().lenient(text, column.type()) : Optional.empty();
        }

        String asItCame() {
            return lenient(text(name()))
                            .map(cast -> cast + " as zk_l" + index + ", ")
                            .orElse("") + name() + " as " + raw();
        }

        String converted() {
            return sql(raw()) + " as " + value() + (canFail() ? ", " + raw() : "");
        }

        private String sql(String given) {
            if (isConverted()) {
                return own().of(text(given), "zk_l" + index, column.type());
            }
            if (isCut()) {
                return "case when %s = cast(%s as date) then cast(%s as date) end".formatted(given, given, given);
            }
            return from.get().equals(column.type()) ? text(given) : dialect.cast(text(given), column.type());
        }

        String lost() {
            return value() + " is null and " + raw() + " is not null";
        }

        String when(String then) {
            return "\n    when " + lost() + " and trim(" + shown() + ") <> '' then " + then;
        }

        /** The value as texts show it. */
        String shown() {
            return from.isEmpty() ? raw() : "cast(" + raw() + " as varchar)";
        }
    }

    String sql(String query, List<Column> columns) {
        return sql(query, columns, source.extras());
    }

    /** @param extras further columns of the query that are carried along */
    String sql(String query, List<Column> columns, List<String> extras) {
        List<Part> parts = IntStream.range(0, columns.size())
                .mapToObj(index -> new Part(index, columns.get(index)))
                .toList();
        List<Part> doubtful = parts.stream().filter(Part::canFail).toList();
        String more = extras.stream().map(extra -> extra + ", ").collect(Collectors.joining());
        String carried = more + (source.knowsBadValues() ? "zk_was_bad_column, zk_was_bad_text, " : "") + "zk_file";
        String values = layer(
                list(parts, Part::converted) + carried,
                layer(list(parts, Part::asItCame) + carried, query, "texts"),
                "lenient");
        if (!doubtful.isEmpty()) {
            String anyLost = doubtful.stream().map(Part::lost).collect(Collectors.joining("\n    or "));
            values = layer("*,\n  " + anyLost + " as zk_is_bad", values, "strict");
        }
        return layer(
                list(parts, part -> part.value() + " as " + part.name())
                        + more + "zk_file,\n  "
                        + firstBad(doubtful, part -> dialect.text(part.column.name()), "zk_was_bad_column")
                        + " as zk_bad_column,\n  "
                        + firstBad(doubtful, Part::shown, "zk_was_bad_text") + " as zk_bad_text",
                values,
                "converted");
    }

    private static String list(List<Part> parts, Function<Part, String> written) {
        return parts.stream().map(part -> written.apply(part) + ",\n  ").collect(Collectors.joining());
    }

    private static String layer(String selected, String from, String name) {
        return "select\n  " + selected + "\nfrom (\n" + SqlText.indented(from, 2) + "\n) as " + name;
    }

    private String firstBad(List<Part> doubtful, Function<Part, String> then, String before) {
        String known = source.knowsBadValues() ? before : "cast(null as varchar)";
        if (doubtful.isEmpty()) {
            return known;
        }
        String first =
                doubtful.stream().map(part -> part.when(then.apply(part))).collect(Collectors.joining());
        return "case"
                + (source.knowsBadValues() ? "\n    when zk_was_bad_column is not null then " + before : "")
                + "\n    when zk_is_bad then case" + SqlText.indented(first, 2) + " end\n  end";
    }
}
