package dev.zeitkammer.profile;

import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.staging.StagedRows;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.stream.Stream;

/** Looks for columns that tell all staged rows apart: single ones, or else two or three together. */
final class KeySearch {

    private static final int MOST_COLUMNS = 10;
    private static final int MOST_CANDIDATES = 4;

    private final Warehouse warehouse;
    private final long rows;
    private final List<ColumnProfile> columns;

    KeySearch(Warehouse warehouse, long rows, List<ColumnProfile> columns) {
        this.warehouse = warehouse;
        this.rows = rows;
        this.columns = columns.stream()
                .filter(column -> column.nulls() == 0)
                .sorted(Comparator.comparing(KeySearch::unlikely))
                .toList();
    }

    /** Names that say so make likely keys; amounts and moments of change make unlikely ones. */
    private static int unlikely(ColumnProfile column) {
        int unlikely = Guess.isKeyName(column.name()) ? 0 : 4;
        return unlikely
                + switch (column.type().kind()) {
                    case VARCHAR, BIGINT, INTEGER, SMALLINT -> 0;
                    case DATE -> 2;
                    case TIMESTAMP, TIME, BOOLEAN -> 5;
                    case DECIMAL, REAL, DOUBLE -> 9;
                };
    }

    /** The likeliest first; empty when there are no rows, or no combination tells them apart. */
    List<List<String>> candidates() {
        if (rows == 0) {
            return List.of();
        }
        List<List<String>> single = columns.stream()
                .filter(column -> column.distinct() == rows)
                .map(column -> List.of(column.name()))
                .limit(MOST_CANDIDATES)
                .toList();
        if (single.stream().anyMatch(this::isLikely)) {
            return single;
        }
        List<ColumnProfile> some = columns.stream()
                .filter(column -> column.distinct() > 1)
                .limit(MOST_COLUMNS)
                .toList();
        List<List<String>> pairs = combinations(some, 2);
        if (single.isEmpty()) {
            return pairs.isEmpty() ? combinations(some, 3) : pairs;
        }
        // amounts and dates that differ by chance are no keys where a column is called one
        return Stream.concat(pairs.stream().filter(pair -> pair.stream().anyMatch(Guess::isKeyName)), single.stream())
                .limit(MOST_CANDIDATES)
                .toList();
    }

    private boolean isLikely(List<String> single) {
        return columns.stream()
                .filter(column -> column.name().equals(single.get(0)))
                .anyMatch(column -> column.type().isText() || Guess.isKeyName(column.name()));
    }

    private List<List<String>> combinations(List<ColumnProfile> some, int size) {
        List<List<String>> found = new ArrayList<>();
        extend(some, 0, size, new ArrayList<>(), found);
        return found;
    }

    private void extend(
            List<ColumnProfile> some, int from, int size, List<ColumnProfile> chosen, List<List<String>> found) {
        if (chosen.size() == size) {
            if (canTellApart(chosen) && tellsApart(chosen)) {
                found.add(chosen.stream().map(ColumnProfile::name).toList());
            }
            return;
        }
        for (int next = from; next < some.size() && found.size() < MOST_CANDIDATES; next++) {
            chosen.add(some.get(next));
            extend(some, next + 1, size, chosen, found);
            chosen.remove(chosen.size() - 1);
        }
    }

    /** Fewer combinations of values than rows can never tell them apart. */
    private boolean canTellApart(List<ColumnProfile> chosen) {
        double combinations = 1;
        for (ColumnProfile column : chosen) {
            combinations *= column.distinct();
        }
        return combinations >= rows;
    }

    private boolean tellsApart(List<ColumnProfile> chosen) {
        String names = warehouse
                .dialect()
                .columns(chosen.stream().map(ColumnProfile::name).toList());
        return warehouse.number("select count(*) from (select " + names + " from " + StagedRows.TABLE + " group by "
                        + names + ") as groups")
                == rows;
    }
}
