package dev.zeitkammer.engine.postgres;

import dev.zeitkammer.engine.SqlType;

/**
 * Functions of a connection that give null where a text cannot be cast. They round as the embedded engine does, so that a
 * computed value is the same on both.
 */
final class TryCasts {

    private static final String FUNCTION = """
            create or replace function pg_temp.%s(value text%s) returns %s language plpgsql immutable as $$
            begin
              return %s;
            exception when others then
              return null;
            end $$;
            """;

    /** Statements that make them. */
    static final String CREATION = function("smallint", "", "smallint", "round(value::numeric)::smallint")
            + function("integer", "", "integer", "round(value::numeric)::integer")
            + function("bigint", "", "bigint", "round(value::numeric)::bigint")
            + function(
                    "decimal",
                    ", digits integer, scale integer",
                    "numeric",
                    "case when abs(round(value::numeric, scale)) < 10::numeric ^ (digits - scale)"
                            + " then round(value::numeric, scale) end")
            + function("real", "", "real", "value::real")
            + function("double", "", "double precision", "value::double precision")
            + function("date", "", "date", "case when value ~ '^ *[0-9]{4,}-[0-9]{2}-[0-9]{2}' then value::date end")
            + function(
                    "timestamp",
                    "",
                    "timestamp",
                    "case when value ~ '^ *[0-9]{4,}-[0-9]{2}-[0-9]{2}' then value::timestamp end")
            + function("time", "", "time", "value::time")
            + function("boolean", "", "boolean", "value::boolean");

    private TryCasts() {}

    private static String function(String type, String more, String returned, String sql) {
        return FUNCTION.formatted(name(type), more, returned, sql);
    }

    private static String name(String type) {
        return "zk_try_" + type;
    }

    /** The call for a type. */
    static String call(SqlType type, String text) {
        String sizes = type.kind() == SqlType.Kind.DECIMAL ? ", " + type.length() + ", " + type.scale() : "";
        return "pg_temp." + name(type.kind().name().toLowerCase(java.util.Locale.ROOT)) + "(" + text + sizes + ")";
    }
}
