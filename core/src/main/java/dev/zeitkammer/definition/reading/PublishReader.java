package dev.zeitkammer.definition.reading;

import dev.zeitkammer.definition.Publish;
import dev.zeitkammer.definition.Publish.Form;
import dev.zeitkammer.definition.Word;
import java.time.Duration;
import java.util.Optional;

/** Reads how a table is published. */
final class PublishReader {

    private static final Duration USUAL = Duration.ofDays(1);

    enum Versions {
        ALL,
        CURRENT
    }

    /** What becomes of texts that a spreadsheet would take for formulas. */
    enum Formulas {
        KEEP,
        QUOTE
    }

    private PublishReader() {}

    static Optional<Publish> read(Section definition, String table) {
        return definition.mapping("publish").map(mapping -> {
            Section section = Section.of(mapping, SharedForms.PUBLISH, definition.problems());
            Word to = section.word("to").orElseGet(() -> new Word("published/{table}", section.place()));
            return new Publish(
                    new Word(to.text().replace("{table}", table), to.place()),
                    section.choice("as", Form.class),
                    quotesFormulas(section),
                    section.words("partition"),
                    section.choice("versions", Versions.class) == Versions.CURRENT,
                    section.word("keep-for").map(word -> time(word, section)).orElse(USUAL));
        });
    }

    private static boolean quotesFormulas(Section section) {
        boolean quotes = section.choice("formulas", Formulas.class) == Formulas.QUOTE;
        if (quotes && section.choice("as", Form.class) != Form.CSV) {
            section.problems()
                    .add(
                            section.placeOf("formulas"),
                            "\"formulas\" is about texts in files for spreadsheets; expected as: csv beside it");
        }
        return quotes;
    }

    private static Duration time(Word word, Section section) {
        if (!SharedForms.KEPT_FOR.matcher(word.text()).matches()) {
            section.problems()
                    .malformed(
                            word.place(),
                            "\"keep-for\" is \"" + word + "\"; expected a time such as 2 hours or 3 days");
            return USUAL;
        }
        String[] parts = word.text().split(" ");
        long number = Long.parseLong(parts[0]);
        return switch (parts[1].charAt(0)) {
            case 'm' -> Duration.ofMinutes(number);
            case 'h' -> Duration.ofHours(number);
            default -> Duration.ofDays(number);
        };
    }
}
