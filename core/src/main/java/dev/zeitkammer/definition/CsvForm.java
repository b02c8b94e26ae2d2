package dev.zeitkammer.definition;

import java.util.List;
import java.util.Optional;

/**
 * The form of delimited files.
 *
 * @param delimiter the character between fields; empty: a comma, or a tab for files whose name ends in tsv
 * @param header whether the first record of a file names its columns; if not, the input's columns do, in their order
 * @param nullWords unquoted texts that mean null
 * @param dateFormats how dates are written, in letters of the Java pattern ({@code dd.MM.yyyy}), the first that a text fits
 *     counting; none: ISO 8601
 * @param timestampFormats how timestamps are written; none: ISO 8601
 * @param timeFormats how times are written; none: ISO 8601
 * @param decimal the mark before the fraction of a number
 * @param thousands the mark between groups of three digits; empty: none
 * @param encoding utf-8, latin-1 or utf-16
 * @param zone in which time timestamps are stored; empty: as they are written, and none has an offset
 */
public record CsvForm(
        Optional<String> delimiter,
        boolean header,
        List<String> nullWords,
        List<Word> dateFormats,
        List<Word> timestampFormats,
        List<Word> timeFormats,
        String decimal,
        Optional<String> thousands,
        String encoding,
        Optional<Zone> zone) {

    /**
     * The time zone of timestamps.
     *
     * @param name as the time zone database names it, such as Europe/Zurich
     * @param inUtc whether timestamps without an offset are of that zone, and all are stored in UTC; else all are stored in its local
     *     time
     */
    public record Zone(String name, boolean inUtc) {}

    public static final CsvForm STANDARD = new CsvForm(
            Optional.empty(),
            true,
            List.of(""),
            List.of(),
            List.of(),
            List.of(),
            ".",
            Optional.empty(),
            "utf-8",
            Optional.empty());

    /** The same, with timestamps of a time zone. */
    public CsvForm of(Zone other) {
        return new CsvForm(
                delimiter,
                header,
                nullWords,
                dateFormats,
                timestampFormats,
                timeFormats,
                decimal,
                thousands,
                encoding,
                Optional.of(other));
    }

    public CsvForm {
        nullWords = List.copyOf(nullWords);
        dateFormats = List.copyOf(dateFormats);
        timestampFormats = List.copyOf(timestampFormats);
        timeFormats = List.copyOf(timeFormats);
    }
}
