package dev.zeitkammer.step;

import org.jspecify.annotations.Nullable;

/**
 * A value that a load would change.
 *
 * @param member the business key, or the grain, as text
 * @param causes {@code new version}, {@code in place}, {@code healed} or {@code followed}
 */
public record ChangedValue(
        String member,
        String causes,
        @Nullable String before,
        @Nullable String after) {}
