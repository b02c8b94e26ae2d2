package dev.zeitkammer.definition.reading;

import dev.zeitkammer.definition.ChangeType;
import dev.zeitkammer.definition.Problems;
import dev.zeitkammer.definition.Word;
import java.util.Arrays;
import java.util.Optional;
import java.util.regex.Pattern;
import java.util.stream.Collectors;

/** Reads the words for {@link ChangeType}: {@code type 2}, or {@code 2} where the keyword says type. */
final class ChangeTypes {

    static final Pattern FORM = Pattern.compile("(type +)?[0-3]");

    private ChangeTypes() {}

    static Optional<ChangeType> of(Word word, String what, Problems problems) {
        String digit = word.text().replaceFirst("^type +", "");
        Optional<ChangeType> found = Arrays.stream(ChangeType.values())
                .filter(type -> digit.equals(String.valueOf(type.ordinal())))
                .findFirst();
        if (found.isEmpty()) {
            String valid =
                    Arrays.stream(ChangeType.values()).map(ChangeType::word).collect(Collectors.joining(", "));
            problems.malformed(word.place(), what + " is \"" + word + "\"; expected one of: " + valid);
        }
        return found;
    }
}
