package dev.zeitkammer.lineage;

import dev.zeitkammer.lineage.ExpressionColumns.Mention;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import net.sf.jsqlparser.JSQLParserException;
import net.sf.jsqlparser.expression.Alias;
import net.sf.jsqlparser.expression.Expression;
import net.sf.jsqlparser.parser.CCJSqlParserUtil;
import net.sf.jsqlparser.schema.Column;
import net.sf.jsqlparser.schema.Table;
import net.sf.jsqlparser.statement.Statement;
import net.sf.jsqlparser.statement.select.AllColumns;
import net.sf.jsqlparser.statement.select.AllTableColumns;
import net.sf.jsqlparser.statement.select.FromItem;
import net.sf.jsqlparser.statement.select.Join;
import net.sf.jsqlparser.statement.select.ParenthesedFromItem;
import net.sf.jsqlparser.statement.select.ParenthesedSelect;
import net.sf.jsqlparser.statement.select.PlainSelect;
import net.sf.jsqlparser.statement.select.Select;
import net.sf.jsqlparser.statement.select.SelectItem;
import net.sf.jsqlparser.statement.select.SetOperationList;
import net.sf.jsqlparser.statement.select.WithItem;

/**
 * The columns of the tables behind each column of a query. What only chooses rows, as conditions and joins do, is no part of a
 * value.
 */
final class QueryColumns {

    /** Rows with columns: of a table, or made by a query. */
    interface Relation {

        /** Its columns in order; empty where they are not known. */
        Optional<List<String>> columns();

        /** The columns of tables that a column is made of; none where it has no such column. */
        List<Field> behind(String column);
    }

    /** A table, or what stands for one. */
    record Known(Dataset dataset, Optional<List<String>> columns) implements Relation {

        @Override
        public List<Field> behind(String column) {
            if (columns.isEmpty()) {
                return List.of(new Field(dataset, column));
            }
            return columns.get().stream()
                    .filter(column::equalsIgnoreCase)
                    .map(name -> new Field(dataset, name))
                    .toList();
        }
    }

    private final Function<String, Relation> tables;

    private QueryColumns(Function<String, Relation> tables) {
        this.tables = tables;
    }

    /**
     * What is behind the columns of a query.
     *
     * @param tables the relation that a name of a table stands for
     * @return empty where the parser does not understand the query
     */
    static Optional<Relation> of(String sql, Function<String, Relation> tables) {
        try {
            Statement statement =
                    CCJSqlParserUtil.parse(sql, parser -> parser.withTimeOut(ExpressionColumns.PATIENCE_MILLIS));
            return statement instanceof Select select
                    ? new QueryColumns(tables).relation(select, Map.of())
                    : Optional.empty();
        } catch (JSQLParserException | StackOverflowError notUnderstood) {
            return Optional.empty();
        }
    }

    /** All columns that a query names in what it selects and in its condition. */
    static List<Mention> mentions(Select select) {
        Set<Mention> mentions = new LinkedHashSet<>();
        if (select instanceof PlainSelect plain) {
            plain.getSelectItems().stream()
                    .map(SelectItem::getExpression)
                    .filter(expression -> !(expression instanceof AllColumns))
                    .forEach(expression -> mentions.addAll(ExpressionColumns.in(expression)));
            Optional.ofNullable(plain.getWhere()).ifPresent(where -> mentions.addAll(ExpressionColumns.in(where)));
        } else if (select instanceof ParenthesedSelect inner) {
            mentions.addAll(mentions(inner.getSelect()));
        } else if (select instanceof SetOperationList several) {
            several.getSelects().forEach(each -> mentions.addAll(mentions(each)));
        }
        return new ArrayList<>(mentions);
    }

    private Optional<Relation> relation(Select select, Map<String, Relation> outer) {
        Map<String, Relation> named = new HashMap<>(outer);
        if (select.getWithItemsList() != null) {
            for (WithItem<?> item : select.getWithItemsList()) {
                if (!(item.getParenthesedStatement() instanceof ParenthesedSelect inner)) {
                    return Optional.empty();
                }
                Optional<Relation> made = relation(inner.getSelect(), named);
                if (made.isEmpty()) {
                    return Optional.empty();
                }
                named.put(lower(item.getUnquotedAliasName()), made.get());
            }
        }
        if (select instanceof ParenthesedSelect inner) {
            return relation(inner.getSelect(), named);
        }
        if (select instanceof SetOperationList several) {
            List<Relation> parts = new ArrayList<>();
            for (Select each : several.getSelects()) {
                Optional<Relation> part = relation(each, named);
                if (part.isEmpty()) {
                    return Optional.empty();
                }
                parts.add(part.get());
            }
            return Optional.of(new Stacked(parts));
        }
        return select instanceof PlainSelect plain ? selected(plain, named) : Optional.empty();
    }

    private Optional<Relation> selected(PlainSelect select, Map<String, Relation> named) {
        Map<String, Relation> sources = new LinkedHashMap<>();
        List<FromItem> items = new ArrayList<>();
        Optional.ofNullable(select.getFromItem()).ifPresent(items::add);
        Optional.ofNullable(select.getJoins()).orElse(List.of()).stream()
                .map(Join::getFromItem)
                .forEach(items::add);
        for (FromItem item : items) {
            if (!add(item, named, sources)) {
                return Optional.empty();
            }
        }
        List<SelectItem<?>> selected = select.getSelectItems();
        return Optional.of(new Selected(selected, sources));
    }

    private boolean add(FromItem item, Map<String, Relation> named, Map<String, Relation> sources) {
        Optional<String> alias = Optional.ofNullable(item.getAlias()).map(Alias::getUnquotedName);
        if (item instanceof Table table) {
            Relation known = named.get(lower(table.getUnquotedName()));
            String called = table.getNameParts().size() > 1
                    ? table.getUnquotedSchemaName() + "." + table.getUnquotedName()
                    : table.getUnquotedName();
            sources.put(
                    lower(alias.orElse(table.getUnquotedName())),
                    known != null && table.getNameParts().size() == 1 ? known : tables.apply(called));
            return true;
        }
        if (item instanceof ParenthesedSelect inner) {
            Optional<Relation> made = relation(inner.getSelect(), named);
            made.ifPresent(relation -> sources.put(lower(alias.orElse("#" + sources.size())), relation));
            return made.isPresent();
        }
        if (item instanceof ParenthesedFromItem several) {
            return add(several.getFromItem(), named, sources)
                    && Optional.ofNullable(several.getJoins()).orElse(List.of()).stream()
                            .allMatch(join -> add(join.getFromItem(), named, sources));
        }
        return false;
    }

    private static String lower(String name) {
        return name.toLowerCase(Locale.ROOT);
    }

    /** The rows of several queries, one below the other: columns by their places. */
    private record Stacked(List<Relation> parts) implements Relation {

        @Override
        public Optional<List<String>> columns() {
            return parts.get(0).columns();
        }

        @Override
        public List<Field> behind(String column) {
            Optional<List<String>> first = parts.get(0).columns();
            int place = first.map(names ->
                            names.stream().map(QueryColumns::lower).toList().indexOf(lower(column)))
                    .orElse(-1);
            Set<Field> fields = new LinkedHashSet<>();
            for (Relation part : parts) {
                String name = part.columns()
                        .filter(names -> place >= 0 && place < names.size())
                        .map(names -> names.get(place))
                        .orElse(column);
                fields.addAll(part.behind(name));
            }
            return List.copyOf(fields);
        }
    }

    /** What a query selects of its sources, by their aliases in lower case. */
    private record Selected(List<SelectItem<?>> items, Map<String, Relation> sources) implements Relation {

        @Override
        public Optional<List<String>> columns() {
            List<String> names = new ArrayList<>();
            for (SelectItem<?> item : items) {
                if (item.getExpression() instanceof AllColumns all) {
                    for (Relation source : of(all)) {
                        Optional<List<String>> columns = source.columns();
                        if (columns.isEmpty()) {
                            return Optional.empty();
                        }
                        names.addAll(columns.get());
                    }
                } else {
                    names.add(name(item));
                }
            }
            return Optional.of(names);
        }

        @Override
        public List<Field> behind(String column) {
            for (SelectItem<?> item : items) {
                if (!(item.getExpression() instanceof AllColumns) && name(item).equalsIgnoreCase(column)) {
                    return behind(item.getExpression());
                }
            }
            return items.stream()
                    .map(SelectItem::getExpression)
                    .filter(AllColumns.class::isInstance)
                    .map(AllColumns.class::cast)
                    .flatMap(all -> of(all).stream())
                    .flatMap(source -> source.behind(column).stream())
                    .distinct()
                    .toList();
        }

        private List<Field> behind(Expression expression) {
            return ExpressionColumns.in(expression).stream()
                    .flatMap(mention -> mention.table()
                            .map(table -> Optional.ofNullable(sources.get(lower(table))).stream())
                            .orElseGet(() -> sources.values().stream())
                            .flatMap(source -> source.behind(mention.column()).stream()))
                    .distinct()
                    .toList();
        }

        private List<Relation> of(AllColumns all) {
            if (all instanceof AllTableColumns one) {
                Relation source = sources.get(lower(one.getTable().getUnquotedName()));
                return source == null ? List.of() : List.of(source);
            }
            return List.copyOf(sources.values());
        }

        private static String name(SelectItem<?> item) {
            if (item.getAlias() != null) {
                return item.getUnquotedAliasName();
            }
            return item.getExpression() instanceof Column column
                    ? column.getUnquotedColumnName()
                    : item.getExpression().toString();
        }
    }
}
