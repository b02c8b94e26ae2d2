package dev.zeitkammer.engine.duckdb;

import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Dialect.Attempt;
import dev.zeitkammer.engine.SqlType;
import java.time.LocalDate;
import java.util.List;
import java.util.Optional;

/** SQL as the embedded warehouse writes it. */
final class DuckDbDialect implements Dialect {

    @Override
    public String type(SqlType type) {
        return type.kind() == SqlType.Kind.REAL ? "float" : type.toString();
    }

    @Override
    public SqlType stored(SqlType type) {
        return type.isText() ? SqlType.VARCHAR : type;
    }

    @Override
    public String matches(String text, String form) {
        return "regexp_matches(" + text + ", " + text(form) + ")";
    }

    @Override
    public String tryCast(String expression, SqlType type) {
        if (type.isText() && type.length() > 0) {
            String text = cast(expression, SqlType.VARCHAR);
            return "case when length(%s) <= %d then %s end".formatted(text, type.length(), text);
        }
        return "try_cast(" + expression + " as " + type(type) + ")";
    }

    @Override
    public String hash63(String text) {
        return "cast(cast('0x' || substr(md5(" + text + "), 1, 16) as ubigint) >> 1 as bigint)";
    }

    @Override
    public String rowHash(List<String> columns, int seed) {
        return "hash(" + String.join(", ", columns) + ", " + seed + ")";
    }

    @Override
    public String upperHalf(String hash) {
        return "cast(" + hash + " >> 32 as bigint)";
    }

    @Override
    public String lowerHalf(String hash) {
        return "cast(" + hash + " & 4294967295 as bigint)";
    }

    @Override
    public Optional<String> atMost(String query, String most) {
        return Optional.of(query + "\nlimit (" + most + ")");
    }

    /**
     * Within a lambda, so that the engine does not compute what several expressions, or parts of one, have in common before and
     * outside of the attempt.
     */
    @Override
    public Optional<Attempt> attempt(String tried, String expression) {
        return Optional.of(new Attempt(
                Optional.empty(),
                "try(list_transform([0], zk_given -> " + expression + "))",
                tried + "[1]",
                "case when " + tried + " is null then 'cannot be computed' end"));
    }

    /**
     * The engine keeps the columns of a select by a hash in which two columns of one name cancel each other, so that planning
     * thousands of such values takes minutes; the branch that is never taken makes them differ.
     */
    @Override
    public String either(String condition, String then, String otherwise) {
        return "case when " + condition + " then " + then + " when false then " + then + " else " + otherwise + " end";
    }

    /** Two anti joins one above the other are estimated too small, and then the large side is built. */
    @Override
    public String lacks(String scratch, String alias) {
        return alias + ".zk_row not in (select zk_row from " + scratch + ")";
    }

    @Override
    public String nextMoment(String moment, SqlType type) {
        return type.equals(SqlType.DATE) ? "(" + moment + " + 1)" : "(" + moment + " + interval 1 microsecond)";
    }

    @Override
    public String dayBefore(String date) {
        return "(" + date + " - 1)";
    }

    @Override
    public String rowPlace() {
        return "rowid";
    }

    @Override
    public String keep(String scratch, String query) {
        return "create or replace temp table " + quote(scratch) + " as\n" + query;
    }

    @Override
    public String name(String scratch, String query) {
        return "create or replace temp view " + quote(scratch) + " as\n" + query;
    }

    @Override
    public String drop(String scratch) {
        return "drop table if exists temp." + quote(scratch);
    }

    @Override
    public String dropName(String scratch) {
        return "drop view if exists temp." + quote(scratch);
    }

    @Override
    public String days(LocalDate first, LocalDate last) {
        return "select cast(d as date) as day from generate_series(%s, %s, interval 1 day) as s(d)"
                .formatted(date(first), date(last));
    }

    @Override
    public String minutes() {
        return "select cast(m as time) as minute from generate_series(timestamp '1970-01-01 00:00:00',"
                + " timestamp '1970-01-01 23:59:00', interval 1 minute) as s(m)";
    }
}
