package dev.zeitkammer.reference;

import dev.zeitkammer.staging.LoadDate;
import java.sql.Timestamp;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.temporal.ChronoUnit;

/**
 * How the days that the reference reckons with are told and stored.
 *
 * @param timed whether each stands for a microsecond of its own, else for itself
 */
record Days(boolean timed) {

    /** Around midnight of a day whose clocks are put forward in many places. */
    private static final LocalDateTime FIRST = LocalDateTime.of(2026, 3, 29, 0, 0);

    private static final LocalDate FIRST_DAY = LocalDate.of(2026, 3, 3);

    String type() {
        return timed ? "timestamp" : "date";
    }

    /** As deliveries tell it. */
    String told(LocalDate day) {
        return timed ? moment(day).toString() : day.toString();
    }

    /** As a load is given it. */
    LoadDate loadDate(LocalDate day) {
        return timed ? new LoadDate(moment(day)) : LoadDate.of(day);
    }

    /** As it is read off a table. */
    String stored(LocalDate day) {
        return timed ? Timestamp.valueOf(moment(day)).toString() : day.toString();
    }

    /** The end of what has none. */
    String openEnd() {
        return timed ? "9999-12-31 00:00:00.0" : "9999-12-31";
    }

    /** The day that a text of the warehouse stands for; of a moment far away, that one's own. */
    LocalDate of(String text) {
        if (!timed) {
            return LocalDate.parse(text);
        }
        LocalDateTime stored = LocalDateTime.parse(text.replace(' ', 'T'));
        boolean isFar = Math.abs(ChronoUnit.YEARS.between(FIRST, stored)) > 0;
        return isFar ? stored.toLocalDate() : FIRST_DAY.plusDays(ChronoUnit.MICROS.between(FIRST, stored));
    }

    private static LocalDateTime moment(LocalDate day) {
        return FIRST.plus(ChronoUnit.DAYS.between(FIRST_DAY, day), ChronoUnit.MICROS);
    }
}
