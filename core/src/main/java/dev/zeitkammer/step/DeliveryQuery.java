package dev.zeitkammer.step;

import dev.zeitkammer.definition.Assertion;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Dialect.Attempt;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Stager.Attempted;
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

    /** How the column of a row that fails an assertion begins; its name follows. */
    static final String ASSERTED = "zk_asserted:";

    private final Expressions expressions;
    private final Dialect dialect;
    private final List<Computed> computed = new ArrayList<>();
    private final List<String> selected = new ArrayList<>();
    private final List<String> conditions = new ArrayList<>();
    private final List<String> badColumns = new ArrayList<>();
    private final List<String> badTexts = new ArrayList<>();
    private final StagedRows rows;
    private boolean isPlain = true;

    public DeliveryQuery(Warehouse warehouse, StagedRows staged, Expressions expressions) {
        this.expressions = expressions;
        this.rows = staged;
        this.dialect = warehouse.dialect();
    }

    /** The type of what a column is taken from: a staged column, or an expression over them. */
    public SqlType type(Word value) {
        return isStaged(value)
                ? rows.type(value.text()).orElse(SqlType.VARCHAR)
                : expressions.type(value, "\"" + value + "\"");
    }

    private boolean isStaged(Word value) {
        return rows.delivery().column(value.text()).isPresent();
    }

    /** SQL for what a column is taken from; a row that cannot compute it has a bad value. */
    public String taken(Word value, String what) {
        Optional<String> column = rows.delivery().column(value.text());
        if (column.isPresent()) {
            return dialect.column("s", column.get());
        }
        isPlain = false;
        return attempted(Expressions.sql(value), what);
    }

    /**
     * What a column is taken from, under a name of the table and in a type of its own; an empty text is none where it identifies
     * something.
     *
     * @param unless a condition for which there is no value
     */
    public void taken(Word value, Column as, boolean identifies, Optional<String> unless) {
        SqlType type = type(value);
        String sql = taken(value, as.name());
        if (!isStaged(value) && !type.equals(as.type())) {
            String converted = dialect.tryCast(sql, as.type());
            bad(sql + " is not null and " + converted + " is null", as.name(), dialect.asText(sql));
            sql = converted;
        }
        if (identifies && type.isText()) {
            sql = "nullif(" + sql + ", '')";
        }
        if (unless.isPresent()) {
            isPlain = false;
            sql = "case when not " + unless.get() + " then " + sql + " end";
        }
        selected.add(sql + " as " + dialect.quote(as.name()));
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
    public void computed(Word expression, String as, Optional<SqlType> type, Optional<Word> unless) {
        isPlain = false;
        String sql = unless.map(condition -> "case when coalesce(" + Expressions.sql(condition)
                        + ", false) then null else " + Expressions.sql(expression) + " end")
                .orElseGet(() -> Expressions.sql(expression));
        String value = attempted(sql, as);
        if (type.isEmpty()) {
            selected.add(value + " as " + dialect.quote(as));
            return;
        }
        String converted = dialect.tryCast(value, type.get());
        selected.add(converted + " as " + dialect.quote(as));
        bad(value + " is not null and " + converted + " is null", as, dialect.asText(value));
    }

    /** An expression beside the staged rows; its value is {@code zk_x}, and what is wrong with it {@code zk_f}, with its number. */
    private record Computed(int number, String sql, Optional<Attempt> attempt) {

        private Optional<String> tried(boolean attempts) {
            return attempt.filter(known -> attempts).map(known -> known.tried() + " as zk_t" + number);
        }

        private String value(boolean attempts, String none) {
            Optional<Attempt> used = attempt.filter(known -> attempts);
            return used.map(Attempt::value).orElse(sql) + " as zk_x" + number + ", "
                    + used.map(Attempt::fault).orElse(none) + " as zk_f" + number;
        }
    }

    /** Computes an expression beside the staged rows; a row for which that fails has a bad value. */
    private String attempted(String sql, String column) {
        int number = computed.size();
        computed.add(new Computed(number, sql, expressions.attempt("zk_t" + number, sql)));
        bad("s.zk_f" + number + " is not null and s.zk_bad_column is null", column, "s.zk_f" + number);
        return "s.zk_x" + number;
    }

    /** A condition over the staged rows, of which one that is not known does not hold; SQL for what is selected. */
    public String condition(Word expression, String what) {
        return "coalesce(" + attempted(Expressions.sql(expression), what) + ", false)";
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

    /** Rows that fail what is asserted of each of them are set aside, where that is what follows. */
    public void assertRows(List<Assertion> assertions) {
        for (Assertion assertion : assertions) {
            if (assertion.otherwise() == Assertion.Otherwise.SET_ASIDE) {
                String name = assertion.name().text();
                String fails =
                        "not coalesce(" + attempted(AssertedRows.condition(assertion, dialect), name) + ", true)";
                bad(fails, ASSERTED + name, dialect.text("asserted: " + assertion.claim()));
            }
        }
    }

    /** A condition that every row must meet. */
    public void only(String condition) {
        conditions.add(condition);
    }

    /** The query; rows with a value that could not be read stay, unless the condition is known not to hold for them. */
    public DeliveryRows rows(Optional<Word> where) {
        List<String> all = new ArrayList<>(conditions);
        where.ifPresent(word -> all.add(where(word)));
        boolean isLate = dialect.attemptsWhenFailed();
        List<String> before = computed.stream()
                .flatMap(each -> each.attempt().flatMap(Attempt::before).stream())
                .toList();
        return new DeliveryRows(
                sql(all, !isLate),
                isLate && !computed.isEmpty() ? Optional.of(new Attempted(before, sql(all, true))) : Optional.empty(),
                isPlain && where.isEmpty() && !(isLate && !computed.isEmpty()),
                rows.hasWaited());
    }

    private String sql(List<String> all, boolean attempts) {
        String condition = all.stream()
                .map(sql -> "((" + sql + ") or (s.zk_bad_column is not null and (" + sql + ") is null))")
                .collect(Collectors.joining(" and "));
        condition = condition.isEmpty() ? "" : "\nwhere " + condition;
        return Sql.of("""
                select s.zk_row,
                  ${columns},
                  coalesce(s.zk_bad_column, ${bad_column}) as zk_bad_column,
                  coalesce(s.zk_bad_text, ${bad_text}) as zk_bad_text
                from ${source} as s${condition}""")
                .with("columns", String.join(",\n", selected))
                .with("bad_column", firstOf(badColumns))
                .with("bad_text", firstOf(badTexts))
                .with("source", source(attempts))
                .with("condition", condition)
                .text();
    }

    /** The staged rows with what is computed of them. */
    private String source(boolean attempts) {
        List<String> tried =
                computed.stream().flatMap(each -> each.tried(attempts).stream()).toList();
        List<String> values = computed.stream()
                .map(each -> each.value(attempts, dialect.noText()))
                .toList();
        return beside(beside(StagedRows.TABLE, tried), values);
    }

    private static String beside(String rows, List<String> columns) {
        return columns.isEmpty()
                ? rows
                : "(select s.*,\n    " + String.join(",\n    ", columns) + "\n  from " + rows + " as s)";
    }

    /** The input's condition; a row for which it cannot be computed stays, and has a bad value. */
    private String where(Word word) {
        int number = computed.size();
        return attempted(Expressions.sql(word), "where") + " or s.zk_f" + number + " is not null";
    }

    private static String firstOf(List<String> branches) {
        return branches.isEmpty() ? "null" : "case " + String.join(" ", branches) + " end";
    }
}
