package dev.zeitkammer.cli.output;

import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Conventions;
import dev.zeitkammer.engine.Warehouse.Result;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.jspecify.annotations.Nullable;

/** The columns that say when, and by which load, a row was written. */
public final class Stamps {

    private final Set<String> times;
    private final Set<String> all;

    public Stamps(Conventions conventions) {
        this.times = Set.of(conventions.column(AuditColumn.INSERTED_AT), conventions.column(AuditColumn.UPDATED_AT));
        this.all = AuditColumn.STAMPS.stream().map(conventions::column).collect(Collectors.toSet());
    }

    /** Whether the column is a time. */
    boolean isTime(String column) {
        return times.contains(column);
    }

    /** Rows without these columns. */
    public Result without(Result result) {
        List<Integer> kept = IntStream.range(0, result.columns().size())
                .filter(index -> !all.contains(result.columns().get(index).name()))
                .boxed()
                .toList();
        return new Result(
                kept.stream().map(result.columns()::get).toList(),
                result.rows().stream().map(row -> picked(row, kept)).toList());
    }

    private static List<@Nullable Object> picked(List<@Nullable Object> row, List<Integer> kept) {
        List<@Nullable Object> picked = new ArrayList<>();
        kept.forEach(index -> picked.add(row.get(index)));
        return picked;
    }
}
