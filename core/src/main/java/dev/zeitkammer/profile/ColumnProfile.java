package dev.zeitkammer.profile;

import dev.zeitkammer.engine.SqlType;
import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * What a staged column holds.
 *
 * @param nulls the rows without a value
 * @param distinct the number of different values
 * @param shortest the fewest characters of a value, and {@code longest} the most; 0 without values
 * @param least the least value, and {@code greatest} the greatest; null without values
 * @param few its values, when they are few
 */
public record ColumnProfile(
        String name,
        SqlType type,
        long nulls,
        long distinct,
        long shortest,
        long longest,
        @Nullable String least,
        @Nullable String greatest,
        List<String> few) {

    public ColumnProfile {
        few = List.copyOf(few);
    }
}
