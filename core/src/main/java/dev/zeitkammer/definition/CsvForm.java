package dev.zeitkammer.definition;

import java.util.List;
import java.util.Optional;

/**
 * The form of delimited files.
 *
 * @param delimiter the character between fields; empty: a comma, or a tab for files whose name ends in tsv
 * @param header whether the first record of a file names its columns; if not, the input's columns do, in their order
 * @param nullWords unquoted texts that mean null
 * @param dateFormat how dates are written, in letters of the Java pattern ({@code dd.MM.yyyy}); empty: ISO 8601
 * @param timestampFormat how timestamps are written; empty: ISO 8601
 * @param timeFormat how times are written; empty: ISO 8601
 * @param decimal the mark before the fraction of a number
 * @param thousands the mark between groups of three digits; empty: none
 * @param encoding utf-8, latin-1 or utf-16
 */
public record CsvForm(
        Optional<String> delimiter,
        boolean header,
        List<String> nullWords,
        Optional<Word> dateFormat,
        Optional<Word> timestampFormat,
        Optional<Word> timeFormat,
        String decimal,
        Optional<String> thousands,
        String encoding) {

    public static final CsvForm STANDARD = new CsvForm(
            Optional.empty(),
            true,
            List.of(""),
            Optional.empty(),
            Optional.empty(),
            Optional.empty(),
            ".",
            Optional.empty(),
            "utf-8");

    public CsvForm {
        nullWords = List.copyOf(nullWords);
    }
}
