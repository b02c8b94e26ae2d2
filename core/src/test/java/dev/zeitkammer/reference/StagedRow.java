package dev.zeitkammer.reference;

import java.time.LocalDate;
import java.util.Arrays;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** A staged row of the random dimension: a key of two columns, an attribute of type 0 and 1, two of type 2. */
record StagedRow(
        @Nullable String code,
        @Nullable String part,
        LocalDate effective,
        @Nullable String first,
        @Nullable String over,
        @Nullable String text,
        @Nullable String number,
        boolean deletes) {

    List<@Nullable String> versioned() {
        return Arrays.asList(text, number);
    }

    /** Everything that the definition loads, but for key and effective. */
    List<@Nullable String> loaded() {
        return deletes ? List.of() : Arrays.asList(first, over, text, number);
    }

    boolean hasBadNumber() {
        return "many".equals(number);
    }

    boolean hasBlankKey() {
        return code == null || part == null;
    }

    String csv() {
        return String.join(
                ",",
                Arrays.asList(code, part, effective.toString(), first, over, text, number, deletes ? "D" : "A").stream()
                        .map(value -> value == null ? "" : value.isEmpty() ? "\"\"" : value)
                        .toList());
    }
}
