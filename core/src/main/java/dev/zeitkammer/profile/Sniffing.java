package dev.zeitkammer.profile;

import dev.zeitkammer.definition.CsvForm;
import dev.zeitkammer.definition.Place;
import dev.zeitkammer.definition.UsageException;
import dev.zeitkammer.definition.Word;
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

/** Looks at the beginning of a delimited file for the form it has; a draft writes it down, a load never guesses it. */
final class Sniffing {

    private static final int BEGINNING = 64 * 1024;

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
            return with(delimiter.equals(",") ? Optional.empty() : Optional.of(delimiter), encoding, Optional.empty());
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

    static CsvForm withDates(CsvForm form, String format) {
        return with(form.delimiter(), form.encoding(), Optional.of(new Word(format, new Place("--from", 1, 1))));
    }

    private static CsvForm with(Optional<String> delimiter, String encoding, Optional<Word> dates) {
        CsvForm standard = CsvForm.STANDARD;
        return new CsvForm(
                delimiter,
                true,
                standard.nullWords(),
                dates,
                Optional.empty(),
                Optional.empty(),
                standard.decimal(),
                Optional.empty(),
                encoding);
    }

    /** The line that states a form; empty for the standard one. */
    static Optional<String> written(CsvForm form) {
        List<String> parts = new ArrayList<>();
        form.delimiter()
                .ifPresent(mark -> parts.add("delimiter: "
                        + DraftText.quoted(mark.equals("\t") ? "\\t" : mark).replace("\\\\t", "\\t")));
        form.dateFormat().ifPresent(format -> parts.add("date-format: " + DraftText.quoted(format.text())));
        if (!form.encoding().equals(CsvForm.STANDARD.encoding())) {
            parts.add("encoding: " + form.encoding());
        }
        return parts.isEmpty() ? Optional.empty() : Optional.of("csv: {" + String.join(", ", parts) + "}");
    }
}
