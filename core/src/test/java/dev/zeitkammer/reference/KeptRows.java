package dev.zeitkammer.reference;

import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.function.BinaryOperator;
import java.util.function.Function;
import java.util.function.Predicate;
import org.jspecify.annotations.Nullable;

/**
 * What an input remembers, as the rules say: the latest row of each key, also where that one takes the key away, so that no older one
 * brings it back.
 *
 * @param <R> a row that can be kept
 */
final class KeptRows<R> {

    private record Kept<R>(R row, long inserted, long updated) {}

    private final Function<R, List<String>> key;
    private final Function<R, @Nullable Integer> order;
    private final Predicate<R> takesAway;
    private final Function<R, Object> compared;
    private final BinaryOperator<R> restated;
    private final Map<List<String>, Kept<R>> kept = new TreeMap<>(Comparator.comparing(Object::toString));

    /**
     * @param order by whose greatest value the latest row is known, null being the least; of equal ones it is the one delivered last
     * @param compared in what a row must differ from the kept one to be written over it
     * @param restated the kept row, with the order of one that does not differ
     */
    KeptRows(
            Function<R, List<String>> key,
            Function<R, @Nullable Integer> order,
            Predicate<R> takesAway,
            Function<R, Object> compared,
            BinaryOperator<R> restated) {
        this.compared = compared;
        this.restated = restated;
        this.key = key;
        this.order = order;
        this.takesAway = takesAway;
    }

    private int place(R row) {
        Integer place = order.apply(row);
        return place == null ? Integer.MIN_VALUE : place;
    }

    void deliver(List<R> rows, long load) {
        Map<List<String>, R> latest = new LinkedHashMap<>();
        rows.forEach(row -> latest.merge(key.apply(row), row, this::later));
        latest.forEach((of, row) -> {
            Kept<R> stands = kept.get(of);
            if (stands == null) {
                kept.put(of, new Kept<>(row, load, load));
            } else if (place(row) < place(stands.row())) {
                return;
            } else if (!takesAway.test(stands.row())
                    && !takesAway.test(row)
                    && compared.apply(row).equals(compared.apply(stands.row()))) {
                kept.put(of, new Kept<>(restated.apply(stands.row(), row), stands.inserted(), stands.updated()));
            } else if (!row.equals(stands.row())) {
                boolean comesBack = takesAway.test(stands.row()) && !takesAway.test(row);
                kept.put(of, new Kept<>(row, comesBack ? load : stands.inserted(), load));
            }
        });
    }

    private R later(R earlier, R row) {
        return place(row) >= place(earlier) ? row : earlier;
    }

    Collection<R> rows() {
        return kept.values().stream()
                .map(Kept::row)
                .filter(row -> !takesAway.test(row))
                .toList();
    }

    /** The kept rows with the loads that inserted and last changed them. */
    List<String> stamped(Function<R, String> shown) {
        List<String> stamped = new ArrayList<>();
        kept.values().stream()
                .filter(each -> !takesAway.test(each.row()))
                .forEach(each -> stamped.add(shown.apply(each.row()) + "|" + each.inserted() + "|" + each.updated()));
        stamped.sort(null);
        return stamped;
    }
}
