package dev.zeitkammer.engine.spark;

import static org.mockito.ArgumentMatchers.any;
import static org.mockito.ArgumentMatchers.anyString;
import static org.mockito.Mockito.doAnswer;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import dev.zeitkammer.engine.Row;
import dev.zeitkammer.engine.RowReader;
import java.time.LocalDateTime;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Consumer;
import java.util.function.Predicate;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;

/** A warehouse on a cluster that is staged: queries are answered by what a test laid out, statements are only noted. */
final class StagedCluster {

    final List<String> executed = new ArrayList<>();
    final Set<String> standing = new LinkedHashSet<>();
    private final Map<String, Supplier<List<List<@Nullable Object>>>> answers = new LinkedHashMap<>();
    private final Map<String, RuntimeException> refused = new LinkedHashMap<>();
    private Consumer<Object[]> updated = values -> {};

    /** Rows for every query that holds a text. */
    void answer(String part, List<List<@Nullable Object>> rows) {
        answers.put(part, () -> rows);
    }

    /** Rows for every query that holds a text, as they are when it is asked. */
    void answer(String part, Supplier<List<List<@Nullable Object>>> rows) {
        answers.put(part, rows);
    }

    /** What happens with the values of every statement that has some. */
    void onUpdate(Consumer<Object[]> happens) {
        updated = happens;
    }

    /** A failure for every statement or query that holds a text. */
    void refuse(String part, RuntimeException failure) {
        refused.put(part, failure);
    }

    /** The statements that hold a text, in order. */
    List<String> executed(String part) {
        return executed.stream().filter(sql -> sql.contains(part)).toList();
    }

    SparkWarehouse warehouse() {
        SparkWarehouse warehouse = mock(SparkWarehouse.class);
        SparkDialect dialect = new SparkDialect();
        when(warehouse.dialect()).thenReturn(dialect);
        when(warehouse.catalogName()).thenReturn("`dw`");
        when(warehouse.book(anyString())).thenAnswer(call -> "`dw`.`books`.`" + call.getArgument(0) + "`");
        when(warehouse.bookTable(anyString())).thenAnswer(call -> "`dw`.`books`.`" + call.getArgument(0) + "`");
        when(warehouse.standsAsBook(anyString()))
                .thenAnswer(call -> standing.contains("`books`.`" + call.getArgument(0) + "`"));
        when(warehouse.standing()).thenReturn(standing);
        when(warehouse.takesBranches(anyString())).thenReturn(true);
        doAnswer(call -> note(call.getArgument(0))).when(warehouse).beside(anyString());
        when(warehouse.isBook(anyString()))
                .thenAnswer(call -> call.<String>getArgument(0).startsWith("`books`"));
        doAnswer(call -> note(call.getArgument(0))).when(warehouse).execute(anyString());
        doAnswer(call -> {
                    note(call.getArgument(0));
                    updated.accept(Arrays.copyOfRange(call.getArguments(), 1, call.getArguments().length));
                    return null;
                })
                .when(warehouse)
                .update(anyString(), any(Object[].class));
        when(warehouse.query(anyString(), any())).thenAnswer(call -> rows(call.getArgument(0), call.getArgument(1)));
        return warehouse;
    }

    private @Nullable Object note(String sql) {
        executed.add(sql);
        first(refused, sql::contains).ifPresent(failure -> {
            throw failure;
        });
        return null;
    }

    private List<Object> rows(String sql, RowReader<Object> reader) {
        if (sql.startsWith("call ")) {
            note(sql);
        }
        List<Object> read = new ArrayList<>();
        first(answers, sql::contains)
                .ifPresent(rows -> rows.get().forEach(row -> read.add(reader.read(new Values(row)))));
        return read;
    }

    private static <T> Optional<T> first(Map<String, T> of, Predicate<String> that) {
        return of.entrySet().stream()
                .filter(entry -> that.test(entry.getKey()))
                .map(Map.Entry::getValue)
                .findFirst();
    }

    private record Values(List<@Nullable Object> values) implements Row {

        @Override
        public int width() {
            return values.size();
        }

        @Override
        public @Nullable String text(int column) {
            Object value = values.get(column - 1);
            return value == null ? null : value.toString();
        }

        @Override
        public long number(int column) {
            return values.get(column - 1) instanceof Number number ? number.longValue() : 0;
        }

        @Override
        public @Nullable LocalDateTime timestamp(int column) {
            return (LocalDateTime) values.get(column - 1);
        }

        @Override
        public boolean flag(int column) {
            return Boolean.TRUE.equals(values.get(column - 1));
        }

        @Override
        public @Nullable Object value(int column) {
            return values.get(column - 1);
        }
    }
}
