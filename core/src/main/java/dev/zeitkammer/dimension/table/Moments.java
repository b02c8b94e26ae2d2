package dev.zeitkammer.dimension.table;

import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.staging.LoadDate;
import java.time.LocalDate;

/** How the validity of versions is written, under the project's conventions. */
public final class Moments {

    /** No version begins on or after this day, even where versions that are open have no end. */
    public static final LocalDate LAST = LocalDate.of(9999, 12, 31);

    private static final LocalDate ALWAYS = LocalDate.of(1, 1, 1);

    private final DimensionTable table;
    private final Dialect dialect;

    public Moments(DimensionTable table, Dialect dialect) {
        this.table = table;
        this.dialect = dialect;
    }

    /** A date as a literal of the type of valid_from. */
    public String literal(LocalDate date) {
        return literal(LoadDate.of(date));
    }

    /** A load date, or its moment, as a literal of the type of valid_from. */
    public String literal(LoadDate date) {
        return table.momentType().equals(SqlType.DATE) ? dialect.date(date.day()) : dialect.timestamp(date.moment());
    }

    /** The end of a version that is open. */
    public String openEnd() {
        return table.conventions()
                .openEnd()
                .map(this::literal)
                .orElseGet(() -> dialect.cast("null", table.momentType()));
    }

    /** The end of a version whose successor begins at a moment. */
    public String endBefore(String nextBegins) {
        return table.conventions().inclusive() ? dialect.dayBefore(nextBegins) : nextBegins;
    }

    /** The instant at which a version with a valid_to ends. */
    public String ended(String validTo) {
        return table.conventions().inclusive() ? dialect.nextMoment(validTo, table.momentType()) : validTo;
    }

    /** The smallest step later than a moment. */
    public String next(String moment) {
        return dialect.nextMoment(moment, table.momentType());
    }

    /** The beginning of members that are always valid. */
    public String always() {
        return literal(ALWAYS);
    }
}
