package dev.zeitkammer.staging;

import dev.zeitkammer.definition.DefinitionException;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Input.Match;
import dev.zeitkammer.definition.Problem;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Counted;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Stager;
import dev.zeitkammer.engine.WarehouseException;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/**
 * What rows of an input of a join are joined by where that is no column of theirs, but an expression over them. It stands beside the
 * rows in a column of its own; a row that cannot compute it has a bad value.
 */
final class ComputedKeys {

    private final Source of;
    private final Stager stager;
    private final Dialect dialect;
    private final List<Word> expressions;

    /** @param keys what its rows are joined by: columns, and expressions */
    ComputedKeys(Source of, List<Word> keys, Stager stager) {
        this.of = of;
        this.stager = stager;
        this.dialect = stager.dialect();
        this.expressions = keys.stream()
                .filter(key -> of.column(key.text()).isEmpty() && !Wanted.isName(key))
                .distinct()
                .toList();
    }

    /** Those of each part of a join: of the first, and of every one that is joined to it. */
    static List<ComputedKeys> of(Input.Join join, List<Source> parts, Stager stager) {
        List<ComputedKeys> all = new ArrayList<>();
        all.add(new ComputedKeys(
                parts.get(0),
                join.with().stream()
                        .flatMap(joined -> joined.by().stream())
                        .filter(match -> match.earlier().equals(join.from()))
                        .map(Match::column)
                        .toList(),
                stager));
        for (int part = 1; part < parts.size(); part++) {
            List<Word> keys = join.with().get(part - 1).by().stream()
                    .map(Match::joinedColumn)
                    .toList();
            all.add(new ComputedKeys(parts.get(part), keys, stager));
        }
        return all;
    }

    boolean holds(Word key) {
        return expressions.contains(key);
    }

    boolean isAny() {
        return !expressions.isEmpty();
    }

    /** The columns that are needed to compute them. */
    void want(Wanted wanted) {
        expressions.forEach(wanted::expression);
    }

    /** The column in which the value of an expression stands. */
    String column(Word key) {
        return "zk_by_" + expressions.indexOf(key);
    }

    /**
     * The type of an expression's value.
     *
     * @param relation the rows of the input
     * @throws DefinitionException when the engine does not understand the expression
     */
    SqlType type(Word key, String relation) {
        try {
            return stager.describe("select " + sql(key) + " as x from " + relation + " as s")
                    .get(0)
                    .type();
        } catch (WarehouseException refused) {
            throw new DefinitionException(List.of(new Problem(
                    key.place(),
                    "\"by\" cannot be evaluated over the rows of \""
                            + of.input().name() + "\": "
                            + refused.getMessage().lines().findFirst().orElse(""))));
        }
    }

    /** A query of rows of the input, with the values beside them. */
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

    /** A note on rows of a joined input that cannot compute what they are joined by: they are nobody's partner. */
    Optional<String> notComputed(String relation) {
        if (expressions.isEmpty()) {
            return Optional.empty();
        }
        long rows = stager.number(
                "select count(*) from " + beside("(select * from " + relation + " where zk_bad_column is null)")
                        + " as s where zk_by_bad is not null");
        return rows == 0
                ? Optional.empty()
                : Optional.of(Counted.rowsHave(rows) + " no value to be joined by in "
                        + of.input().name() + ", since it cannot be computed, and " + (rows == 1 ? "is" : "are")
                        + " joined to nothing");
    }

    /** The column of the first bad value of a row of the input, under an alias. */
    String bad(String alias) {
        return expressions.isEmpty()
                ? alias + ".zk_bad_column"
                : "coalesce(" + alias + ".zk_bad_column, " + alias + ".zk_by_bad)";
    }

    private static String sql(Word expression) {
        return "(" + expression.text().strip() + "\n)";
    }
}
