package dev.zeitkammer.reference;

import java.util.List;
import java.util.Optional;
import java.util.function.Consumer;
import java.util.function.Function;

/** A row that waits, and the load since which it does; what is delivered now is as of no load. */
record Waiting<R>(R row, long since) {

    private static final long NOW = Long.MAX_VALUE;

    static <R> Waiting<R> delivered(R row) {
        return new Waiting<>(row, NOW);
    }

    boolean isDelivered() {
        return since == NOW;
    }

    /** The same, which waits from a load on if it did not before. */
    Waiting<R> from(long load) {
        return isDelivered() ? new Waiting<>(row, load) : this;
    }

    /**
     * The row that counts of several of one key.
     *
     * @param values what is compared between rows
     * @param count is told of the others
     * @param overtaken the word for rows that a later one of their key overtakes
     */
    static <R> Optional<Waiting<R>> chosen(
            List<Waiting<R>> all, Function<R, Object> values, Consumer<String> count, String overtaken) {
        long newest = all.stream().mapToLong(Waiting::since).max().orElseThrow();
        List<Waiting<R>> same =
                all.stream().filter(row -> row.since() == newest).toList();
        for (int index = same.size(); index < all.size(); index++) {
            count.accept(overtaken);
        }
        if (same.stream().map(each -> values.apply(each.row())).distinct().count() > 1) {
            same.forEach(each -> count.accept("setAside"));
            return Optional.empty();
        }
        for (int index = 1; index < same.size(); index++) {
            count.accept("repeated");
        }
        return Optional.of(same.get(0));
    }
}
