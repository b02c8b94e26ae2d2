package dev.zeitkammer.reference;

import java.util.Arrays;
import java.util.List;
import java.util.Random;
import org.jspecify.annotations.Nullable;

/** A staged row of the random fact's feed: a guest who calls says who comes, and what was paid. */
record StagedCall(
        @Nullable Integer no,
        @Nullable Integer guest,
        @Nullable String paid) {

    static final String HEADER = "no,guest_no,paid";

    /** @param unusable whether some rows cannot be used */
    static StagedCall random(Random random, boolean unusable) {
        return new StagedCall(
                random.nextInt(30) == 0 && unusable ? null : random.nextInt(30),
                random.nextInt(8) == 0 ? null : random.nextInt(7),
                random.nextInt(25) == 0 && unusable
                        ? "much"
                        : random.nextInt(5) == 0 ? null : String.valueOf(random.nextInt(3)));
    }

    /** What is compared between rows of one fact. */
    List<@Nullable Object> values() {
        return Arrays.asList(guest, paid);
    }

    /** @param apart what is added to the number of the fact */
    String csv(int apart) {
        return (no == null ? "" : no + apart) + "," + (guest == null ? "" : guest) + "," + (paid == null ? "" : paid);
    }
}
