package dev.zeitkammer.engine.postgres;

import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Dialect.Attempt;
import dev.zeitkammer.engine.SqlType;
import java.time.LocalDate;
import java.util.List;
import java.util.Optional;

/** SQL as PostgreSQL writes it. */
final class PostgresDialect implements Dialect {

    /** A tenth of what the server has for others. */
    private static final int SCRATCH_STATISTICS = 10;

    @Override
    public String type(SqlType type) {
        return switch (type.kind()) {
            case DOUBLE -> "double precision";
            case DECIMAL -> "numeric(" + type.length() + "," + type.scale() + ")";
            default -> type.toString();
        };
    }

    @Override
    public SqlType stored(SqlType type) {
        return type;
    }

    @Override
    public boolean isLoose(SqlType type) {
        return type.equals(PostgresTypes.COMPUTED);
    }

    /** Functions of the connection, since this engine has no cast that gives null. */
    @Override
    public String tryCast(String expression, SqlType type) {
        String text = "cast(" + expression + " as varchar)";
        return switch (type.kind()) {
            case DECIMAL -> cast(TryCasts.call(type, text), type);
            case VARCHAR ->
                type.length() == 0
                        ? text
                        : "case when length(%s) <= %d then %s end".formatted(text, type.length(), text);
            default -> TryCasts.call(type, text);
        };
    }

    @Override
    public String matches(String text, String form) {
        return text + " ~ " + text(form);
    }

    /** A function that computes the expression for one row at a time, each in a transaction of its own inside this one. */
    @Override
    public Optional<Attempt> attempt(String tried, String expression) {
        String quote = "$" + tried + "_" + Integer.toHexString(expression.hashCode()) + "$";
        String function = """
                create or replace function pg_temp.%s(zk_given anyelement) returns text language plpgsql as %s
                #variable_conflict use_column
                begin
                  perform %s from (select (zk_given).*) as s;
                  return null;
                exception when others then
                  return sqlerrm;
                end
                %s""".formatted(tried, quote, expression, quote);
        return Optional.of(new Attempt(
                Optional.of(function),
                "pg_temp." + tried + "(s)",
                "case when " + tried + " is null then " + expression + " end",
                "'cannot be computed: ' || " + tried));
    }

    @Override
    public boolean attemptsWhenFailed() {
        return true;
    }

    /** Longer ones are cut, and two that begin alike are one. */
    @Override
    public int longestName() {
        return 63;
    }

    @Override
    public int mostColumns() {
        return 1600;
    }

    /**
     * As part of an expression the query is run once, and looked up in a hash; as a condition of its own it would be joined, and a
     * planner that does not know yet how much was written runs it for every row.
     */
    @Override
    public String isAmong(String value, String query) {
        return "coalesce(" + value + " in (" + query + "), false)";
    }

    /** Else the expressions are put wherever their names stand. */
    @Override
    public String once(String query) {
        return query + "\noffset 0";
    }

    @Override
    public String hash63(String text) {
        return "cast(cast('x' || substr(md5(" + text + "), 1, 16) as bit(64)) >> 1 as bigint)";
    }

    @Override
    public String rowHash(List<String> columns, int seed) {
        return "hash_record_extended(row(" + String.join(", ", columns) + "), " + seed + ")";
    }

    @Override
    public String upperHalf(String hash) {
        return "(" + hash + " >> 32)";
    }

    @Override
    public String lowerHalf(String hash) {
        return "(" + hash + " & 4294967295)";
    }

    @Override
    public String nextMoment(String moment, SqlType type) {
        return type.equals(SqlType.DATE) ? "(" + moment + " + 1)" : "(" + moment + " + interval '1 microsecond')";
    }

    @Override
    public String dayBefore(String date) {
        return "(" + date + " - 1)";
    }

    @Override
    public String rowPlace() {
        return "ctid";
    }

    @Override
    public String keep(String scratch, String query) {
        return "drop table if exists " + temporary(scratch) + " cascade;\ncreate temporary table " + quote(scratch)
                + " as\n" + query;
    }

    @Override
    public String name(String scratch, String query) {
        return "drop view if exists " + temporary(scratch) + " cascade;\ncreate temporary view " + quote(scratch)
                + " as\n" + query;
    }

    @Override
    public String drop(String scratch) {
        return "drop table if exists " + temporary(scratch) + " cascade";
    }

    /**
     * A statement that tells the planner of a scratch table, from fewer rows than of tables that last: it shall know how many there
     * are, and about how many values a column has.
     */
    String learn(String scratch) {
        return "set default_statistics_target to " + SCRATCH_STATISTICS + ";\nanalyze " + temporary(scratch)
                + ";\nreset default_statistics_target";
    }

    private String temporary(String scratch) {
        return "pg_temp." + quote(scratch);
    }

    @Override
    public String dropName(String scratch) {
        return "drop view if exists " + temporary(scratch) + " cascade";
    }

    @Override
    public String days(LocalDate first, LocalDate last) {
        return "select cast(d as date) as day from generate_series(%s, %s, interval '1 day') as s(d)"
                .formatted(date(first), date(last));
    }

    @Override
    public String minutes() {
        return "select cast(m as time) as minute from generate_series(timestamp '1970-01-01 00:00:00',"
                + " timestamp '1970-01-01 23:59:00', interval '1 minute') as s(m)";
    }

    @Override
    public String createView(String view, String query) {
        return "drop view if exists " + view + ";\ncreate view " + view + " as\n" + query;
    }

    @Override
    public String alterColumn(String table, Column column) {
        return Dialect.super.alterColumn(table, column) + " using " + cast(quote(column.name()), column.type());
    }

    @Override
    public boolean viewsHoldColumns() {
        return true;
    }

    @Override
    public List<String> createIndex(String name, String table, List<String> columns) {
        return List.of("create index " + quote(name) + " on " + table + " (" + columns(columns) + ")");
    }

    @Override
    public boolean keepsConstraints() {
        return true;
    }

    @Override
    public String overriding() {
        return " overriding system value";
    }
}
