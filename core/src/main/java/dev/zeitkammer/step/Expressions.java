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
import java.util.List;
import java.util.Optional;

/** Expressions of definitions over staged rows, tried one by one so that an error names the place where it stands. */
public final class Expressions {

    private final Warehouse warehouse;
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
            return warehouse
                    .describe("select " + sql(expression) + " as x from " + StagedRows.TABLE + " as s")
                    .get(0)
                    .type();
        } catch (WarehouseException refused) {
            problems.add(new Problem(
                    expression.place(),
                    what + " cannot be evaluated over the staged rows: "
                            + refused.getMessage().lines().findFirst().orElse("")));
            return SqlType.VARCHAR;
        }
    }

    /** How a row that cannot compute an expression is told from the others; empty where the engine has no way for it. */
    static Optional<Attempt> attempt(Warehouse warehouse, String tried, String sql) {
        return warehouse.dialect().attempt(tried, sql).filter(attempt -> {
            if (warehouse.dialect().attemptsWhenFailed()) {
                return true;
            }
            try {
                warehouse.describe("select " + attempt.tried() + " as x from " + StagedRows.TABLE + " as s");
                return true;
            } catch (WarehouseException subquery) {
                return false;
            }
        });
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
