package dev.zeitkammer.definition;

import java.util.Collection;
import java.util.Comparator;
import java.util.Locale;
import java.util.Optional;
import org.apache.commons.text.similarity.LevenshteinDistance;

/** Finds the valid word that somebody probably meant. */
public final class Nearest {

    private Nearest() {}

    /** The nearest of the valid words, when at most a third of its letters differ. */
    public static Optional<String> to(String found, Collection<String> valid) {
        String wanted = found.toLowerCase(Locale.ROOT);
        LevenshteinDistance distance = LevenshteinDistance.getDefaultInstance();
        return valid.stream()
                .filter(word -> distance.apply(wanted, word.toLowerCase(Locale.ROOT)) <= Math.max(1, word.length() / 3))
                .min(Comparator.comparing(word -> distance.apply(wanted, word.toLowerCase(Locale.ROOT))));
    }

    /** A clause for a message: the nearest word, or else what is valid. */
    public static String hint(String found, Collection<String> valid) {
        return to(found, valid)
                .map(word -> "did you mean \"" + word + "\"?")
                .orElseGet(() -> valid.isEmpty() ? "there is none yet" : "valid are: " + String.join(", ", valid));
    }
}
