package dev.zeitkammer.staging;

import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.SqlType;
import java.math.BigDecimal;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.temporal.ChronoUnit;
import java.util.Optional;

/** High-water marks as values that another database can be asked with. */
final class MarkValue {

    private MarkValue() {}

    /** The mark, less what is read again; empty where the column is neither number nor moment. */
    static Optional<Object> of(String mark, SqlType type, Optional<Word> overlap) {
        String[] again = overlap.map(Word::text).orElse("0").split(" ");
        long amount = Long.parseLong(again[0]);
        return switch (type.kind()) {
            case SMALLINT, INTEGER, BIGINT, DECIMAL ->
                Optional.of(new BigDecimal(mark).subtract(BigDecimal.valueOf(amount)));
            case DATE ->
                Optional.of(LocalDate.parse(mark)
                        .minusDays(again.length > 1 && !unit(again).equals(ChronoUnit.DAYS) ? 1 : amount));
            case TIMESTAMP ->
                Optional.of(LocalDateTime.parse(mark.replace(' ', 'T')).minus(amount, unit(again)));
            case REAL, DOUBLE, BOOLEAN, TIME, VARCHAR -> Optional.empty();
        };
    }

    private static ChronoUnit unit(String[] again) {
        return again.length == 1
                ? ChronoUnit.DAYS
                : ChronoUnit.valueOf(again[1].replaceFirst("s$", "").toUpperCase(java.util.Locale.ROOT) + "S");
    }
}
