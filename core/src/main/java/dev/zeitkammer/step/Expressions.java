package dev.zeitkammer.step;

import dev.zeitkammer.definition.DefinitionException;
import dev.zeitkammer.definition.Problem;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Dialect.Attempt;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.WarehouseException;
import dev.zeitkammer.staging.StagedRows;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** Expressions of definitions over staged rows, tried one by one so that an error names the place where it stands. */
public final class Expressions {

    private final Warehouse warehouse;
    private final Map<String, Described> described = new HashMap<>();
    private final List<Problem> problems = new ArrayList<>();

    public Expressions(Warehouse warehouse) {
        this.warehouse = warehouse;
    }

    /** The expression in parentheses, closed even behind a comment. */
    public static String sql(Word expression) {
        return "(" + expression.text().strip() + "\n)";
    }

    /** The type of an expression; text, with the problem noted, when the warehouse does not understand it. */
    public SqlType type(Word expression, String what) {
        try {
            return described(sql(expression)).type();
        } catch (WarehouseException refused) {
            problems.add(new Problem(
                    expression.place(),
                    what + " cannot be evaluated over the staged rows: "
                            + refused.getMessage().lines().findFirst().orElse("")));
            return SqlType.VARCHAR;
        }
    }

    /**
     * What is known of an expression.
     *
     * @param attempts whether a row that cannot compute it can be told from the others while it is computed
     */
    private record Described(SqlType type, boolean attempts) {}

    /** Asks for the type and for the attempt at once; not every expression can be attempted. */
    private Described described(String sql) {
        Described known = described.get(sql);
        if (known == null) {
            known = describe(sql);
            described.put(sql, known);
        }
        return known;
    }

    private Described describe(String sql) {
        Optional<Attempt> attempt = warehouse.dialect().attempt("zk_t", sql);
        if (attempt.isPresent() && !warehouse.dialect().attemptsWhenFailed()) {
            try {
                return new Described(typeOf(sql + " as x, " + attempt.get().tried() + " as y"), true);
            } catch (WarehouseException subquery) {
                return new Described(typeOf(sql + " as x"), false);
            }
        }
        return new Described(typeOf(sql + " as x"), attempt.isPresent());
    }

    private SqlType typeOf(String selected) {
        return warehouse
                .describe("select " + selected + " from " + StagedRows.TABLE + " as s")
                .get(0)
                .type();
    }

    /** How a row that cannot compute an expression is told from the others; empty where the engine has no way for it. */
    Optional<Attempt> attempt(String tried, String sql) {
        try {
            return warehouse
                    .dialect()
                    .attempt(tried, sql)
                    .filter(attempt -> described(sql).attempts());
        } catch (WarehouseException refused) {
            return Optional.empty();
        }
    }

    /** Checks a condition. */
    public void condition(Word expression, String what) {
        SqlType type = type(expression, what);
        if (problems.isEmpty() && !type.equals(SqlType.BOOLEAN)) {
            problems.add(new Problem(expression.place(), what + " is " + type + "; expected a condition"));
        }
    }

    public void problem(Word word, String message) {
        problems.add(new Problem(word.place(), message));
    }

    /** Throws everything that was found, if anything. */
    public void throwIfAny() {
        if (!problems.isEmpty()) {
            throw new DefinitionException(problems.stream().sorted().toList());
        }
    }
}
