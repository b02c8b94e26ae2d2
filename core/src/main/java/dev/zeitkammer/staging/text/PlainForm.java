package dev.zeitkammer.staging.text;

import dev.zeitkammer.definition.CsvForm;
import dev.zeitkammer.definition.CsvForm.Zone;
import dev.zeitkammer.engine.SqlType;
import java.util.Optional;

/**
 * The plain way to write the values of a type, which cannot be taken for another value: {@code -12}, {@code 12.70},
 * {@code 2026-03-01}, {@code 2026-03-01 10:00:00}.
 *
 * @param kind how the value is written
 * @param scale of a number: the most digits behind its point
 */
public record PlainForm(Kind kind, int scale) {

    /** Fields that are skipped, and how values are written that are looked at. */
    public enum Kind {
        ANY,
        NUMBER,
        DAY,
        MOMENT
    }

    /** A field that may hold anything. */
    public static final PlainForm ANY = new PlainForm(Kind.ANY, 0);

    /** The form of a type's values; empty where there is none, as of texts, or where the input has a form of its own. */
    public static Optional<PlainForm> of(SqlType type, CsvForm csv) {
        boolean plainNumbers = csv.decimal().equals(".") && csv.thousands().isEmpty();
        return switch (type.kind()) {
            case SMALLINT, INTEGER, BIGINT -> plain(plainNumbers, Kind.NUMBER, 0);
            case DECIMAL -> plain(plainNumbers, Kind.NUMBER, type.scale());
            case DATE -> plain(csv.dateFormats().isEmpty(), Kind.DAY, 0);
            case TIMESTAMP ->
                plain(
                        csv.timestampFormats().isEmpty()
                                && csv.zone().filter(Zone::inUtc).isEmpty(),
                        Kind.MOMENT,
                        0);
            default -> Optional.empty();
        };
    }

    private static Optional<PlainForm> plain(boolean isPlain, Kind kind, int scale) {
        return isPlain ? Optional.of(new PlainForm(kind, scale)) : Optional.empty();
    }
}
