package dev.zeitkammer.definition.reading;

import dev.zeitkammer.definition.CsvForm;
import dev.zeitkammer.definition.CsvForm.Zone;
import dev.zeitkammer.definition.Nearest;
import dev.zeitkammer.definition.Problems;
import dev.zeitkammer.definition.Word;
import java.time.ZoneId;
import java.time.format.DateTimeFormatter;
import java.util.List;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** Reads the form of delimited files. */
final class CsvReader {

    static final List<String> ENCODINGS = List.of("utf-8", "latin-1", "utf-16");

    static final Pattern ZONE = Pattern.compile("([A-Za-z][A-Za-z0-9_+/-]*)( in UTC)?");

    private final Problems problems;

    CsvReader(Problems problems) {
        this.problems = problems;
    }

    CsvForm read(Node.Mapping mapping) {
        Section section = Section.of(mapping, InputForms.CSV, problems);
        Optional<String> delimiter = section.word("delimiter").map(this::delimiter);
        boolean header = !section.has("header") || section.flag("header");
        List<String> nullWords = section.texts("null-words").orElse(CsvForm.STANDARD.nullWords());
        String encoding = section.word("encoding").map(this::encoding).orElse(CsvForm.STANDARD.encoding());
        List<Word> dates = formats(section, "date-format");
        List<Word> timestamps = formats(section, "timestamp-format");
        List<Word> times = formats(section, "time-format");
        String decimal =
                section.word("decimal").map(word -> mark(word, "decimal", ".,")).orElse(".");
        Optional<String> thousands = section.texts("thousands")
                .flatMap(texts -> texts.stream().findFirst())
                .map(text -> mark(new Word(text, section.placeOf("thousands")), "thousands", ".,' _\u00a0\u2019"));
        if (thousands.filter(decimal::equals).isPresent()) {
            problems.add(section.placeOf("thousands"), "\"thousands\" and \"decimal\" are the same mark; expected two");
        }
        return new CsvForm(
                delimiter, header, nullWords, dates, timestamps, times, decimal, thousands, encoding, Optional.empty());
    }

    /** The form of texts in JSON: how dates and times are written. */
    CsvForm json(Node.Mapping mapping) {
        Section section = Section.of(mapping, InputForms.JSON, problems);
        CsvForm standard = CsvForm.STANDARD;
        return new CsvForm(
                standard.delimiter(),
                standard.header(),
                standard.nullWords(),
                formats(section, "date-format"),
                formats(section, "timestamp-format"),
                formats(section, "time-format"),
                standard.decimal(),
                standard.thousands(),
                standard.encoding(),
                standard.zone());
    }

    /** A time zone, and whether timestamps are stored in UTC: {@code Europe/Zurich}, or {@code Europe/Zurich in UTC}. */
    Optional<Zone> zone(Word word) {
        Matcher form = ZONE.matcher(word.text());
        String name = form.matches() ? form.group(1) : "";
        if (!ZoneId.getAvailableZoneIds().contains(name)) {
            problems.add(
                    word.place(),
                    "\"time-zone\" is \"" + word
                            + "\"; expected the name of a time zone, such as Europe/Zurich (timestamps are stored"
                            + " in its local time) or \"Europe/Zurich in UTC\" (they are stored in UTC)");
            return Optional.empty();
        }
        return Optional.of(new Zone(name, form.group(2) != null));
    }

    private List<Word> formats(Section section, String keyword) {
        return section.words(keyword).stream().filter(this::isPattern).toList();
    }

    private String delimiter(Word word) {
        String text = word.text().equals("\\t") ? "\t" : word.text();
        if (text.length() != 1 || "\"\r\n".contains(text)) {
            problems.add(word.place(), "the delimiter is \"" + word + "\"; expected one character, such as \";\"");
        }
        return text;
    }

    private String mark(Word word, String keyword, String valid) {
        if (word.text().length() != 1 || !valid.contains(word.text())) {
            problems.add(
                    word.place(),
                    "\"" + keyword + "\" is \"" + word + "\"; expected one of: "
                            + String.join(" ", valid.replace("\u00a0", "").split("")));
        }
        return word.text();
    }

    private String encoding(Word word) {
        if (!ENCODINGS.contains(word.text())) {
            problems.malformed(
                    word.place(), "\"encoding\" cannot be \"" + word + "\"; " + Nearest.hint(word.text(), ENCODINGS));
        }
        return word.text();
    }

    private boolean isPattern(Word word) {
        try {
            DateTimeFormatter.ofPattern(word.text());
            if (word.text().matches("[^A-Za-z]*((yyyy|yy|MM|M|dd|d|HH|H|mm|ss|SSSSSS|SSS)[^A-Za-z]*)+")) {
                return true;
            }
        } catch (IllegalArgumentException notOne) {
            // reported below, like a pattern with letters that are not supported
        }
        problems.add(
                word.place(),
                "\"" + word
                        + "\" is not a format; expected the letters yyyy, yy, MM, M, dd, d, HH, H, mm, ss, SSS or SSSSSS,"
                        + " such as \"dd.MM.yyyy\"");
        return false;
    }
}
