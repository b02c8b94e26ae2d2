package dev.zeitkammer.engine.spark;

import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.TableChange.Matching;
import dev.zeitkammer.engine.Warehouse;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;

/**
 * SQL as Spark writes it, for Iceberg tables. A time of day is a text here, as in {@code 07:30:00}, since there is no such type;
 * a timestamp is one without a time zone.
 */
final class SparkDialect implements Dialect {

    /**
     * Rows that are changed are written anew beside the files that hold them, and branches take writes before readers see them,
     * and of the files that say what the table was the hundred newest stay.
     *
     * @see <a href="https://iceberg.apache.org/docs/latest/configuration/">the properties of a table</a>
     */
    static final String PROPERTIES = "'format-version' = '2', 'write.delete.mode' = 'merge-on-read',"
            + " 'write.update.mode' = 'merge-on-read', 'write.merge.mode' = 'merge-on-read',"
            + " 'write.metadata.delete-after-commit.enabled' = 'true', '" + Branches.ENABLED + "' = 'true'";

    private static final String TABLE = "\nusing iceberg tblproperties (" + PROPERTIES + ")";

    /** The pattern of a time of day that is kept as a text. */
    private static final String TIME_OF_DAY = "'HH:mm:ss'";

    @Override
    public String quote(String identifier) {
        return '`' + identifier.replace("`", "``") + '`';
    }

    /** Backslashes begin an escape here, and two quotes are none. */
    @Override
    public String text(String value) {
        StringBuilder literal = new StringBuilder("'");
        for (int index = 0; index < value.length(); index++) {
            char character = value.charAt(index);
            switch (character) {
                case '\'' -> literal.append("\\'");
                case '\\' -> literal.append("\\\\");
                case '\0' -> literal.append("\\u0000");
                // a text of several lines would be moved with the statement around it
                case '\n' -> literal.append("\\n");
                case '\r' -> literal.append("\\r");
                default -> literal.append(character);
            }
        }
        return literal.append('\'').toString();
    }

    @Override
    public String timestamp(LocalDateTime value) {
        return "timestamp_ntz '" + TIMESTAMP_FORMAT.format(value) + "'";
    }

    @Override
    public String type(SqlType type) {
        return switch (type.kind()) {
            case VARCHAR, TIME -> "string";
            case TIMESTAMP -> "timestamp_ntz";
            case REAL -> "float";
            default -> type.toString();
        };
    }

    /** The tables have neither small whole numbers nor times of the day. */
    @Override
    public SqlType stored(SqlType type) {
        return switch (type.kind()) {
            case VARCHAR, TIME -> SqlType.VARCHAR;
            case SMALLINT -> SqlType.INTEGER;
            default -> type;
        };
    }

    @Override
    public String cast(String expression, SqlType type) {
        if (type.equals(SqlType.TIME) && !expression.equals("null")) {
            return "date_format(cast(" + expression + " as timestamp_ntz), " + TIME_OF_DAY + ")";
        }
        return Dialect.super.cast(expression, type);
    }

    @Override
    public String tryCast(String expression, SqlType type) {
        if (type.equals(SqlType.TIME)) {
            return "date_format(try_cast(" + expression + " as timestamp_ntz), " + TIME_OF_DAY + ")";
        }
        if (type.isText()) {
            String text = cast(expression, SqlType.VARCHAR);
            return type.length() == 0
                    ? text
                    : "case when length(%s) <= %d then %s end".formatted(text, type.length(), text);
        }
        return "try_cast(" + expression + " as " + type(type) + ")";
    }

    /** Here {@code $} would also be the place before a last end of line. */
    @Override
    public String matches(String text, String form) {
        return text + " rlike " + text(form.replaceFirst("\\$$", "\\\\z"));
    }

    @Override
    public String minuteOf(String moment, SqlType type) {
        String minute = type.equals(SqlType.TIME) ? moment : "date_format(" + moment + ", " + TIME_OF_DAY + ")";
        return "concat(substr(" + minute + ", 1, 5), ':00')";
    }

    @Override
    public String hash63(String text) {
        return "shiftrightunsigned(cast(conv(substr(md5(" + text + "), 1, 16), 16, -10) as bigint), 1)";
    }

    @Override
    public String rowHash(List<String> columns, int seed) {
        return "xxhash64(" + String.join(", ", columns) + ", " + seed + ")";
    }

    @Override
    public String anyNumber() {
        return "monotonically_increasing_id()";
    }

    @Override
    public String upperHalf(String hash) {
        return "shiftright(" + hash + ", 32)";
    }

    @Override
    public String lowerHalf(String hash) {
        return "(" + hash + " & 4294967295)";
    }

    @Override
    public String joined(String text, String separator, String order) {
        return "array_join(transform(array_sort(collect_list(struct(" + order + " as zk_order, " + text
                + " as zk_text))), zk_each -> zk_each.zk_text), " + text(separator) + ")";
    }

    @Override
    public String momentBefore(String timestamp) {
        return "(" + timestamp + " - interval '0.000001' second)";
    }

    @Override
    public String always(SqlType type) {
        return type.equals(SqlType.DATE) ? "date '-9999-01-01'" : "timestamp_ntz '-9999-01-01 00:00:00'";
    }

    @Override
    public String forever(SqlType type) {
        return type.equals(SqlType.DATE) ? "date '+99999-12-31'" : "timestamp_ntz '+99999-12-31 00:00:00'";
    }

    @Override
    public boolean hasRecursion() {
        return false;
    }

    @Override
    public String nextMoment(String moment, SqlType type) {
        return type.equals(SqlType.DATE)
                ? "date_add(" + moment + ", 1)"
                : "(" + moment + " + interval '0.000001' second)";
    }

    @Override
    public String dayBefore(String date) {
        return "date_sub(" + date + ", 1)";
    }

    /** In its file: rows of one statement are in the order in which they came, those of several are not. */
    @Override
    public String rowPlace() {
        return "_pos";
    }

    /** What the rows are kept as; the session puts a path of its own before the name. */
    @Override
    public String keep(String scratch, String query) {
        return written(scratch, query);
    }

    /**
     * Rows of a query as files of their own, and no cached query: what is cached is computed once more, from tables that have been
     * changed, when an executor is lost.
     */
    String written(String path, String query) {
        return "insert overwrite directory " + text(path) + " using parquet\n" + query;
    }

    /** Gives a name to the rows of Parquet files. */
    String files(String scratch, String path) {
        return "create or replace temporary view " + quote(scratch) + " using parquet options (path " + text(path)
                + ", recursiveFileLookup 'true')";
    }

    @Override
    public String name(String scratch, String query) {
        return "create or replace temporary view " + quote(scratch) + " as\n" + query;
    }

    @Override
    public String drop(String scratch) {
        return dropName(scratch);
    }

    @Override
    public String dropName(String scratch) {
        return "drop view if exists " + quote(scratch);
    }

    @Override
    public String days(LocalDate first, LocalDate last) {
        return "select explode(sequence(%s, %s, interval '1' day)) as day".formatted(date(first), date(last));
    }

    @Override
    public String minutes() {
        return "select date_format(explode(sequence(timestamp_ntz '1970-01-01 00:00:00',"
                + " timestamp_ntz '1970-01-01 23:59:00', interval '1' minute)), " + TIME_OF_DAY + ") as minute";
    }

    @Override
    public String part(String part, String date) {
        String field = switch (part) {
            case "isodow" -> "dayofweek_iso";
            case "isoyear" -> "yearofweek";
            default -> part;
        };
        return "cast(extract(" + field + " from " + date + ") as integer)";
    }

    @Override
    public String createTableOf(String table, String query) {
        return "create table " + table + TABLE + " as\n" + query;
    }

    @Override
    public String defined(String table, List<Column> columns) {
        return Dialect.super.defined(table, columns) + TABLE;
    }

    @Override
    public List<String> layOut(String table, List<String> partition, List<String> sort) {
        List<String> statements = new ArrayList<>();
        partition.forEach(field -> statements.add("alter table " + table + " add partition field " + field));
        if (!sort.isEmpty()) {
            statements.add("alter table " + table + " write ordered by " + columns(sort));
        }
        return statements;
    }

    @Override
    public List<String> retain(String schema, String table, String query) {
        String name = quote(schema) + "." + quote(table);
        return List.of(
                "create schema if not exists " + quote(schema),
                "create or replace table " + name + " using iceberg as\n" + query,
                commentOnTable(name, "The staged rows of the last load; " + Warehouse.KEPT));
    }

    @Override
    public String commentOnColumn(String table, String column, String about) {
        return "alter table " + table + " alter column " + quote(column) + " comment " + text(about);
    }

    @Override
    public String commentOnView(String view, String about) {
        return "alter view " + view + " set tblproperties ('comment' = " + text(about + "; " + Warehouse.KEPT) + ")";
    }

    /** A merge refuses a row that several rows of the source match; the branch that never inserts is what makes it look out for other writers. */
    @Override
    public String rewrite(String table, String source, String on, Map<String, String> set) {
        return """
                merge into %s as t
                using %s as c
                on %s
                when matched then update set %s""".formatted(
                table, source, on, list(set.entrySet(), each -> "t." + quote(each.getKey()) + " = " + each.getValue()));
    }

    @Override
    public String remove(String table, Matching matching) {
        return """
                merge into %s as t
                using %s as c
                on %s
                when matched then delete""".formatted(table, matching.relation(), matching.on());
    }
}
