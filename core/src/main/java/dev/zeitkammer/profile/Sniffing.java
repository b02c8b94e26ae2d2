package dev.zeitkammer.profile;

import dev.zeitkammer.definition.CsvForm;
import dev.zeitkammer.definition.Input.ListedColumn;
import dev.zeitkammer.definition.Place;
import dev.zeitkammer.definition.UsageException;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.SqlType;
import java.io.IOException;
import java.io.InputStream;
import java.nio.ByteBuffer;
import java.nio.charset.CharacterCodingException;
import java.nio.charset.Charset;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import java.util.regex.Pattern;
import java.util.stream.Stream;

/** Looks at the beginning of a delimited file for the form it has; a draft writes it down, a load never guesses it. */
final class Sniffing {

    private static final int BEGINNING = 64 * 1024;
    private static final String CLOCK = " \\d{2}:\\d{2}";
    private static final Pattern OFFSET =
            Pattern.compile("\\d{4}-\\d{2}-\\d{2}[ T]\\d{2}:\\d{2}(?:[:]\\d{2}(?:\\.\\d+)?)?[+-]\\d{2}(?:[:]?\\d{2})?");
    private static final Pattern DATE = Pattern.compile("\\d{1,2}\\.\\d{1,2}\\.\\d{4}");
    private static final Pattern MOMENT = Pattern.compile("\\d{1,2}\\.\\d{1,2}\\.\\d{4} \\d{2}:\\d{2}");
    private static final Pattern TIME = Pattern.compile("([01]\\d|2[0-3]):[0-5]\\d(:[0-5]\\d)?");
    private static final Pattern DECIMAL_COMMA = Pattern.compile("-?\\d+(\\.\\d{3})*(,\\d+)?");
    /** A comma that stands where no thousands end, or behind a point that does. */
    private static final Pattern SURELY_DECIMALS =
            Pattern.compile(".*,(\\d{1,2}|\\d{4,})|\\d{4,},\\d+|0,\\d+|.*\\..*,.*");

    private static final Pattern THOUSANDS_COMMA = Pattern.compile("-?\\d{1,3}(,\\d{3})*(\\.\\d+)?");

    /** Commas that stand twice, or before a point. */
    private static final Pattern SURELY_THOUSANDS = Pattern.compile(".*,.*[,.].*");

    private static final Pattern THOUSANDS_POINT = Pattern.compile("-?\\d{1,3}(\\.\\d{3})*(,\\d+)?");

    private Sniffing() {}

    static CsvForm form(Path file) {
        if (!file.toString().toLowerCase(java.util.Locale.ROOT).matches(".*\\.(csv|txt|dat)")) {
            return CsvForm.STANDARD;
        }
        try (InputStream stream = Files.newInputStream(file)) {
            byte[] beginning = stream.readNBytes(BEGINNING);
            String encoding = encoding(beginning, beginning.length == BEGINNING);
            String header =
                    new String(beginning, charset(encoding)).lines().findFirst().orElse("");
            String delimiter = List.of(",", ";", "\t", "|").stream()
                    .max(Comparator.comparing(mark -> header.split(java.util.regex.Pattern.quote(mark), -1).length))
                    .orElse(",");
            return with(delimiter.equals(",") ? Optional.empty() : Optional.of(delimiter), encoding);
        } catch (IOException unreadable) {
            throw new UsageException("Cannot read " + file + ": " + unreadable.getMessage());
        }
    }

    private static String encoding(byte[] bytes, boolean cut) {
        boolean marked = bytes.length > 1
                && ((bytes[0] & 0xFF) ^ (bytes[1] & 0xFF)) == (0xFE ^ 0xFF)
                && (bytes[0] & 0xFE) == 0xFE;
        if (marked) {
            return "utf-16";
        }
        int length = bytes.length;
        for (int dropped = 0; dropped < (cut ? 4 : 1); dropped++) {
            try {
                StandardCharsets.UTF_8.newDecoder().decode(ByteBuffer.wrap(bytes, 0, length - dropped));
                return "utf-8";
            } catch (CharacterCodingException notThere) {
                // a character may have been cut at the end; otherwise it is not this encoding
            }
        }
        return "latin-1";
    }

    private static Charset charset(String encoding) {
        return switch (encoding) {
            case "latin-1" -> StandardCharsets.ISO_8859_1;
            case "utf-16" -> StandardCharsets.UTF_16;
            default -> StandardCharsets.UTF_8;
        };
    }

    /** The form with the formats of dates, times and numbers that the values of texts suggest. */
    static CsvForm refined(CsvForm form, Profile profile) {
        boolean hasThousands = hasAny(profile, THOUSANDS_COMMA, SURELY_THOUSANDS);
        boolean hasDecimals = !hasThousands && hasAny(profile, DECIMAL_COMMA, SURELY_DECIMALS);
        return new CsvForm(
                form.delimiter(),
                form.header(),
                form.nullWords(),
                found(day(profile, DATE, "").map(Sniffing::word), form.dateFormats()),
                found(day(profile, MOMENT, CLOCK).map(day -> word(day + " HH:mm")), form.timestampFormats()),
                form.timeFormats(),
                hasDecimals ? "," : form.decimal(),
                hasThousands
                        ? Optional.of(",")
                        : hasDecimals && has(profile, THOUSANDS_POINT, ".") ? Optional.of(".") : form.thousands(),
                form.encoding(),
                form.zone());
    }

    /** Lines with what cannot be told of texts, for whoever reads the draft: they stay texts. */
    static List<String> questions(CsvForm form, Profile profile) {
        return Stream.concat(offsets(profile), marks(form, profile).stream()).toList();
    }

    private static Stream<String> offsets(Profile profile) {
        return profile.columns().stream()
                .filter(column -> column.type().isText() && column.distinct() > 0)
                .filter(column -> values(column).stream()
                        .allMatch(each -> OFFSET.matcher(each).matches()))
                .map(column -> "# " + column.name().replaceAll("\\p{Cntrl}", " ")
                        + " stays text: its timestamps have an offset. Say in which time they are stored, time-zone: UTC or such as"
                        + " Europe/Zurich, and its type.");
    }

    private static List<String> marks(CsvForm form, Profile profile) {
        if (!form.decimal().equals(CsvForm.STANDARD.decimal())
                || form.thousands().isPresent()) {
            return List.of();
        }
        return profile.columns().stream()
                .filter(column -> column.type().isText() && column.distinct() > 0)
                .flatMap(column -> values(column).stream()
                        .filter(value -> value.contains(","))
                        .filter(value -> values(column).stream()
                                .allMatch(each -> THOUSANDS_COMMA.matcher(each).matches()))
                        .limit(1)
                        .map(value -> "# " + column.name().replaceAll("\\p{Cntrl}", " ") + " stays text: is " + value
                                + " " + value.replace(",", "")
                                + " or " + value.replace(",", ".")
                                + "? Say csv: {thousands: \",\"} or csv: {decimal: \",\"}, and its type."))
                .toList();
    }

    /** Whether all that is known of a text column has a form, and some of it can be nothing else. */
    private static boolean hasAny(Profile profile, Pattern form, Pattern surely) {
        return profile.columns().stream()
                .filter(column -> column.type().isText() && column.distinct() > 0)
                .map(Sniffing::values)
                .anyMatch(values ->
                        values.stream().allMatch(value -> form.matcher(value).matches())
                                && values.stream()
                                        .anyMatch(value -> surely.matcher(value).matches()));
    }

    private static List<Word> found(Optional<Word> format, List<Word> otherwise) {
        return format.map(List::of).orElse(otherwise);
    }

    /**
     * How days are written, where texts are of such a form: with or without zeros before days and months.
     *
     * @param clock the form of what follows the day
     */
    private static Optional<String> day(Profile profile, Pattern form, String clock) {
        if (!has(profile, form, ".")) {
            return slashed(profile, clock);
        }
        return Optional.of(has(profile, Pattern.compile("\\d{2}\\.\\d{2}\\..*"), ".") ? "dd.MM.yyyy" : "d.M.yyyy");
    }

    /** Between slashes the day or the month comes first; a number that is no month tells which. */
    private static Optional<String> slashed(Profile profile, String clock) {
        Pattern form = Pattern.compile("\\d{1,2}/\\d{1,2}/\\d{4}" + clock);
        boolean dayFirst = hasAny(profile, form, Pattern.compile("(1[3-9]|2\\d|3[01])/.*"));
        boolean monthFirst = hasAny(profile, form, Pattern.compile("\\d+/(1[3-9]|2\\d|3[01])/.*"));
        if (dayFirst == monthFirst) {
            return Optional.empty();
        }
        boolean withZeros = !hasAny(profile, form, Pattern.compile("\\d/.*|\\d+/\\d/.*"));
        String format = dayFirst ? "dd/MM/yyyy" : "MM/dd/yyyy";
        return Optional.of(withZeros ? format : format.replace("dd", "d").replace("MM", "M"));
    }

    /** The columns of texts that are times of day. */
    static List<ListedColumn> times(Profile profile) {
        return profile.columns().stream()
                .filter(column -> column.type().isText()
                        && column.distinct() > 0
                        && values(column).stream()
                                .allMatch(value -> TIME.matcher(value).matches()))
                .map(column -> new ListedColumn(word(column.name()), SqlType.TIME))
                .toList();
    }

    /** Whether all that is known of a text column has a form, and some of it a mark. */
    private static boolean has(Profile profile, Pattern form, String mark) {
        return hasAny(profile, form, Pattern.compile(".*" + Pattern.quote(mark) + ".*"));
    }

    private static List<String> values(ColumnProfile column) {
        return Stream.concat(
                        Stream.of(String.valueOf(column.least()), String.valueOf(column.greatest())),
                        column.few().stream())
                .toList();
    }

    private static Word word(String text) {
        return new Word(text, new Place("--from", 1, 1));
    }

    private static CsvForm with(Optional<String> delimiter, String encoding) {
        CsvForm standard = CsvForm.STANDARD;
        return new CsvForm(
                delimiter,
                true,
                standard.nullWords(),
                standard.dateFormats(),
                standard.timestampFormats(),
                standard.timeFormats(),
                standard.decimal(),
                Optional.empty(),
                encoding,
                standard.zone());
    }

    /** The line that states a form; empty for the standard one. */
    static Optional<String> written(CsvForm form) {
        List<String> parts = new ArrayList<>();
        form.delimiter()
                .ifPresent(mark -> parts.add("delimiter: "
                        + DraftText.quoted(mark.equals("\t") ? "\\t" : mark).replace("\\\\t", "\\t")));
        form.dateFormats().forEach(format -> parts.add("date-format: " + DraftText.quoted(format.text())));
        form.timestampFormats().forEach(format -> parts.add("timestamp-format: " + DraftText.quoted(format.text())));
        if (!form.decimal().equals(CsvForm.STANDARD.decimal())) {
            parts.add("decimal: " + DraftText.quoted(form.decimal()));
        }
        form.thousands().ifPresent(mark -> parts.add("thousands: " + DraftText.quoted(mark)));
        if (!form.encoding().equals(CsvForm.STANDARD.encoding())) {
            parts.add("encoding: " + form.encoding());
        }
        return parts.isEmpty() ? Optional.empty() : Optional.of("csv: {" + String.join(", ", parts) + "}");
    }
}
