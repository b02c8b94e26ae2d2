package dev.zeitkammer.step;

import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.staging.StagedRows;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;

/**
 * Builds the query that turns staged rows into the rows that a definition loads: columns under the names of the table,
 * computed values, the input's condition, and for each row the first value that does not fit.
 */
public final class DeliveryQuery {

    private final Warehouse warehouse;
    private final Dialect dialect;
    private final List<String> computed = new ArrayList<>();
    private final List<String> selected = new ArrayList<>();
    private final List<String> conditions = new ArrayList<>();
    private final List<String> badColumns = new ArrayList<>();
    private final List<String> badTexts = new ArrayList<>();
    private final boolean hasWaited;
    private boolean isPlain = true;

    public DeliveryQuery(Warehouse warehouse, StagedRows staged) {
        this.warehouse = warehouse;
        this.hasWaited = staged.hasWaited();
        this.dialect = warehouse.dialect();
    }

    /** A staged column under a name of the table. */
    public void staged(String column, String as) {
        selected.add(dialect.column("s", column) + " as " + dialect.quote(as));
    }

    /** A staged text that identifies something: an empty one is none. */
    public void stagedText(String column, String as) {
        selected.add("nullif(" + dialect.column("s", column) + ", '') as " + dialect.quote(as));
    }

    /** A staged column under a name of the table, null in rows for which a condition holds. */
    public void stagedUnless(String condition, String column, String as) {
        isPlain = false;
        selected.add(
                "case when not " + condition + " then " + dialect.column("s", column) + " end as " + dialect.quote(as));
    }

    /** An expression as a value of a type, which is given when it must be converted. */
    public void computed(Word expression, String as, Optional<SqlType> type, Optional<String> unless) {
        if (unless.isPresent()) {
            Word guarded = new Word(
                    "case when not " + unless.get() + " then " + Expressions.sql(expression) + " end",
                    expression.place());
            computed(guarded, as, type, Optional.empty());
            return;
        }
        isPlain = false;
        String value = attempted(Expressions.sql(expression), as);
        if (type.isEmpty()) {
            selected.add(value + " as " + dialect.quote(as));
            return;
        }
        String converted = dialect.tryCast(value, type.get());
        selected.add(converted + " as " + dialect.quote(as));
        bad(value + " is not null and " + converted + " is null", as, "cast(" + value + " as varchar)");
    }

    /** Computes an expression beside the staged rows; a row for which that fails has a bad value. */
    private String attempted(String sql, String column) {
        String name = "zk_x" + computed.size();
        Optional<String> attempted = Expressions.attempt(warehouse, sql);
        computed.add(attempted.orElse(sql) + " as " + name);
        if (attempted.isEmpty()) {
            return "s." + name;
        }
        bad("s." + name + " is null and s.zk_bad_column is null", column, "'cannot be computed'");
        return "s." + name + ".zk_v";
    }

    /** Any SQL over the staged rows, alias {@code s}. */
    public void raw(String sql, String as) {
        selected.add(sql + " as " + dialect.quote(as));
    }

    /** A column that was selected before, once more under another name. */
    public void again(String selectedAs, String as) {
        String suffix = " as " + dialect.quote(selectedAs);
        selected.stream()
                .filter(column -> column.endsWith(suffix))
                .findFirst()
                .map(column -> column.substring(0, column.length() - suffix.length()) + " as " + dialect.quote(as))
                .ifPresent(selected::add);
    }

    /** A condition under which a row cannot be used, the column to name and SQL for the value to show. */
    public void bad(String condition, String column, String text) {
        badColumns.add("when " + condition + " then " + dialect.text(column));
        badTexts.add("when " + condition + " then " + text);
    }

    /** A condition that every row must meet. */
    public void only(String condition) {
        conditions.add(condition);
    }

    /** The query; rows with a value that could not be read stay, unless the condition is known not to hold for them. */
    public DeliveryRows rows(Optional<Word> where) {
        return new DeliveryRows(sql(where), isPlain && where.isEmpty(), hasWaited);
    }

    private String sql(Optional<Word> where) {
        List<String> all = new ArrayList<>(conditions);
        where.ifPresent(word -> all.add(where(word)));
        String source = StagedRows.TABLE;
        if (!computed.isEmpty()) {
            source =
                    "(select s.*,\n    " + String.join(",\n    ", computed) + "\n  from " + StagedRows.TABLE + " as s)";
        }
        String condition = all.stream()
                .map(sql -> "((" + sql + ") or (s.zk_bad_column is not null and (" + sql + ") is null))")
                .collect(Collectors.joining(" and "));
        condition = condition.isEmpty() ? "" : "\nwhere " + condition;
        return """
                select s.zk_row,
                  %s,
                  coalesce(s.zk_bad_column, %s) as zk_bad_column,
                  coalesce(s.zk_bad_text, %s) as zk_bad_text
                from %s as s%s""".formatted(String.join(",\n  ", selected), firstOf(badColumns), firstOf(badTexts), source, condition);
    }

    /** The input's condition; a row for which it cannot be computed stays, and has a bad value. */
    private String where(Word word) {
        String value = attempted(Expressions.sql(word), "where");
        return value.endsWith(".zk_v") ? value + " or " + value.replace(".zk_v", "") + " is null" : value;
    }

    private static String firstOf(List<String> branches) {
        return branches.isEmpty() ? "null" : "case " + String.join(" ", branches) + " end";
    }
}
