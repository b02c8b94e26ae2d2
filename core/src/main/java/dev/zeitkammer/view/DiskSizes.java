package dev.zeitkammer.view;

import java.time.LocalDate;
import java.time.LocalDateTime;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/**
 * How much room a warehouse took on disk when it was looked at.
 *
 * @param of the folder of the project and the name of the warehouse in it
 * @param sizes one a day at most, the oldest first
 */
public record DiskSizes(String of, List<Size> sizes) {

    /** So many days are remembered. */
    private static final int DAYS = 90;

    /** What is told of growth goes back so far at most, in days. */
    private static final int LATELY = 30;

    public DiskSizes {
        sizes = List.copyOf(sizes);
    }

    /** @param at when it was looked at, in UTC */
    public record Size(LocalDateTime at, long bytes) {}

    /**
     * How it grew.
     *
     * @param since the day with which the newest size is compared
     * @param bytes how much more it takes now; negative where it takes less
     */
    public record Growth(LocalDate since, long bytes) {}

    /** These and what it takes now, instead of what it took earlier on the same day. */
    public DiskSizes and(LocalDateTime at, long bytes) {
        List<Size> all = new ArrayList<>(sizes);
        all.removeIf(size -> !size.at().toLocalDate().isBefore(at.toLocalDate()));
        all.add(new Size(at, bytes));
        return new DiskSizes(of, all.subList(Math.max(0, all.size() - DAYS), all.size()));
    }

    public Optional<Size> newest() {
        return sizes.isEmpty() ? Optional.empty() : Optional.of(sizes.get(sizes.size() - 1));
    }

    /** What the newest size is more than that of thirty days before, or than the oldest since; empty without two days. */
    public Optional<Growth> growth() {
        return newest().flatMap(newest -> sizes.stream()
                .filter(size -> !size.at()
                        .toLocalDate()
                        .plusDays(LATELY)
                        .isBefore(newest.at().toLocalDate()))
                .filter(size -> size.at().toLocalDate().isBefore(newest.at().toLocalDate()))
                .findFirst()
                .map(size -> new Growth(size.at().toLocalDate(), newest.bytes() - size.bytes())));
    }
}
