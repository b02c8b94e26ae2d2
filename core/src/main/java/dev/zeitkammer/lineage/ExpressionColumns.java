package dev.zeitkammer.lineage;

import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import net.sf.jsqlparser.JSQLParserException;
import net.sf.jsqlparser.expression.Expression;
import net.sf.jsqlparser.expression.ExpressionVisitorAdapter;
import net.sf.jsqlparser.parser.CCJSqlParserUtil;
import net.sf.jsqlparser.schema.Column;
import net.sf.jsqlparser.statement.select.ParenthesedSelect;
import net.sf.jsqlparser.statement.select.Select;
import org.jspecify.annotations.Nullable;

/** The columns that an SQL expression mentions. */
final class ExpressionColumns {

    /** What a parser may take for columns although they are words of SQL. */
    private static final Set<String> WORDS =
            Set.of("true", "false", "null", "current_date", "current_time", "current_timestamp", "localtimestamp");

    /** So long the parser may take; what it does not understand until then it will not. */
    static final long PATIENCE_MILLIS = 2000;

    private ExpressionColumns() {}

    /**
     * A column as an expression names it.
     *
     * @param table what stands before the dot; empty where nothing does
     */
    record Mention(Optional<String> table, String column) {}

    /** The columns of an expression's text; empty where the parser does not understand it. */
    static Optional<List<Mention>> of(String expression) {
        try {
            return Optional.of(in(CCJSqlParserUtil.parseExpression(
                    expression, false, parser -> parser.withTimeOut(PATIENCE_MILLIS))));
        } catch (JSQLParserException | StackOverflowError notUnderstood) {
            return Optional.empty();
        }
    }

    /** The columns of an expression, and of queries inside it. */
    static List<Mention> in(Expression expression) {
        Set<Mention> mentions = new LinkedHashSet<>();
        ExpressionVisitorAdapter<@Nullable Void> visitor = new ExpressionVisitorAdapter<>() {
            @Override
            public <S> @Nullable Void visit(Column column, S context) {
                mention(column).ifPresent(mentions::add);
                return null;
            }

            @Override
            public <S> @Nullable Void visit(ParenthesedSelect select, S context) {
                mentions.addAll(inside(select.getSelect()));
                return null;
            }

            @Override
            public <S> @Nullable Void visit(Select select, S context) {
                mentions.addAll(inside(select));
                return null;
            }
        };
        expression.accept(visitor, null);
        return new ArrayList<>(mentions);
    }

    /** Everything that a nested query says by name: what belongs to its own tables is sorted out by who knows the columns. */
    private static List<Mention> inside(Select select) {
        return QueryColumns.mentions(select);
    }

    private static Optional<Mention> mention(Column column) {
        String name = column.getUnquotedColumnName();
        boolean isQuoted = !name.equals(column.getColumnName());
        if (column.getTable() == null && !isQuoted && WORDS.contains(name.toLowerCase(Locale.ROOT))) {
            return Optional.empty();
        }
        return Optional.of(
                new Mention(Optional.ofNullable(column.getTable()).map(table -> table.getUnquotedName()), name));
    }
}
