package dev.zeitkammer.staging;

import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.format.DateTimeFormatter;
import java.util.Locale;

/** The date of a load, or its moment where a day has several loads. The text of a later one is greater. */
public record LoadDate(LocalDateTime moment) {

    /** What stands for the day in a path. */
    static final String DATE = "{date}";

    /** What stands for hours and minutes in a path. */
    static final String TIME = "{time}";

    private static final DateTimeFormatter CLOCK = DateTimeFormatter.ofPattern("HHmm", Locale.ROOT);

    public static LoadDate of(LocalDate day) {
        return new LoadDate(day.atStartOfDay());
    }

    /**
     * Reads a date, or a timestamp with T between date and time, to the microsecond.
     *
     * @throws java.time.DateTimeException when it is neither
     */
    public static LoadDate parse(String text) {
        return text.contains("T") || text.contains(" ")
                ? new LoadDate(LocalDateTime.parse(text.replace(' ', 'T')))
                : of(LocalDate.parse(text));
    }

    public LocalDate day() {
        return moment.toLocalDate();
    }

    /** Whether it is a day, without a time. */
    public boolean isDay() {
        return moment.toLocalTime().equals(LocalTime.MIDNIGHT);
    }

    /** A path with {@code {date}} and {@code {time}} (hours and minutes) replaced. */
    public String in(String path) {
        return path.replace(DATE, day().toString()).replace(TIME, CLOCK.format(moment));
    }

    @Override
    public String toString() {
        return isDay() ? day().toString() : moment.toString();
    }
}
