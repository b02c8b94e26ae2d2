package dev.zeitkammer.staging;

import dev.zeitkammer.definition.DefinitionException;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Input.Match;
import dev.zeitkammer.definition.Problem;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Stager;
import dev.zeitkammer.engine.WarehouseException;
import java.util.ArrayList;
import java.util.List;

/**
 * What rows of a join are joined by where that is no column of theirs, but an expression over the columns of the first input. It
 * stands beside its rows in a column of its own; a row that cannot compute it has a bad value.
 */
final class ComputedKeys {

    private final Source first;
    private final Stager stager;
    private final Dialect dialect;
    private final List<Word> expressions;

    ComputedKeys(Source first, Input.Join join, Stager stager) {
        this.first = first;
        this.stager = stager;
        this.dialect = stager.dialect();
        this.expressions = join.with().stream()
                .flatMap(joined -> joined.by().stream())
                .filter(match -> match.earlier().equals(join.from()))
                .map(Match::column)
                .filter(column -> first.column(column.text()).isEmpty() && !Wanted.isName(column))
                .distinct()
                .toList();
    }

    boolean holds(Match match) {
        return expressions.contains(match.column());
    }

    /** The columns that are needed to compute them. */
    void want(Wanted wanted) {
        expressions.forEach(wanted::expression);
    }

    /** The column in which the value of a match stands. */
    String column(Match match) {
        return "zk_by_" + expressions.indexOf(match.column());
    }

    /**
     * The type of a match's value.
     *
     * @param relation the rows of the first input
     * @throws DefinitionException when the engine does not understand the expression
     */
    SqlType type(Match match, String relation) {
        try {
            return stager.describe("select " + sql(match.column()) + " as x from " + relation + " as s")
                    .get(0)
                    .type();
        } catch (WarehouseException refused) {
            throw new DefinitionException(List.of(new Problem(
                    match.column().place(),
                    "\"by\" cannot be evaluated over the rows of \""
                            + first.input().name() + "\": "
                            + refused.getMessage().lines().findFirst().orElse(""))));
        }
    }

    /** A query of rows of the first input, with the values beside them. */
    String beside(String rows) {
        if (expressions.isEmpty()) {
            return rows;
        }
        List<String> tried = new ArrayList<>();
        List<String> values = new ArrayList<>();
        List<String> faults = new ArrayList<>();
        for (int index = 0; index < expressions.size(); index++) {
            String name = "zk_tried_" + index;
            Dialect.Attempt attempt =
                    dialect.attempt(name, sql(expressions.get(index))).orElseThrow();
            tried.add(attempt.tried() + " as " + name);
            values.add(attempt.value() + " as zk_by_" + index);
            faults.add("case when " + attempt.fault() + " is not null then "
                    + dialect.text(expressions.get(index).text()) + " end");
        }
        return "(select s.*, " + String.join(", ", values) + ", coalesce(" + String.join(", ", faults)
                + ", null) as zk_by_bad from (select s.*, " + String.join(", ", tried) + " from " + rows
                + " as s) as s)";
    }

    /** The column of the first bad value of a row of the first input, under an alias. */
    String bad(String alias) {
        return expressions.isEmpty()
                ? alias + ".zk_bad_column"
                : "coalesce(" + alias + ".zk_bad_column, " + alias + ".zk_by_bad)";
    }

    private static String sql(Word expression) {
        return "(" + expression.text().strip() + "\n)";
    }
}
