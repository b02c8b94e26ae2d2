package dev.zeitkammer.reference;

import java.time.LocalDate;
import java.util.Arrays;
import java.util.List;
import java.util.Random;
import org.jspecify.annotations.Nullable;

/** A staged row of the random fact, or of its feed: a guest who calls says who comes, where to and when, and what was paid. */
record StagedFact(
        @Nullable Integer no,
        @Nullable String code,
        @Nullable Integer guest,
        LocalDate night,
        @Nullable String paid,
        boolean cancels) {

    /** @param unusable whether some rows cannot be used; large deliveries that are clean have steps that write nothing */
    static StagedFact random(Random random, LocalDate start, boolean unusable) {
        return new StagedFact(
                random.nextInt(30) == 0 && unusable ? null : random.nextInt(30),
                random.nextInt(12) == 0 ? null : "h" + random.nextInt(7),
                random.nextInt(8) == 0 ? null : random.nextInt(7),
                start.plusDays(random.nextInt(20) - 6),
                random.nextInt(25) == 0 && unusable
                        ? "much"
                        : random.nextInt(5) == 0 ? null : String.valueOf(random.nextInt(3)),
                random.nextInt(6) == 0);
    }

    /** What is compared between rows of one grain; of a cancellation, nothing but that it is one. */
    List<@Nullable Object> values(boolean isCancelled) {
        return isCancelled ? List.of("cancelled") : Arrays.asList(code, guest, night, paid);
    }

    /** What is compared between rows of one fact that the feed brings. */
    List<@Nullable Object> called(FactSettings settings) {
        return settings.feedsHuts() ? values(false) : Arrays.asList(guest, paid);
    }

    /** @param apart what is added to the number of the fact */
    String csv(Days days, int apart) {
        return String.join(
                ",",
                no == null ? "" : String.valueOf(no + apart),
                code == null ? "" : code,
                guest == null ? "" : guest.toString(),
                days.told(night),
                paid == null ? "" : paid,
                cancels ? "X" : "A");
    }
}
