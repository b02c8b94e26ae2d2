package dev.zeitkammer.definition;

import java.util.Collection;
import java.util.Comparator;
import java.util.Locale;
import java.util.Optional;
import java.util.stream.Collectors;
import org.apache.commons.text.similarity.LevenshteinDistance;

/** Finds the valid word that somebody probably meant. */
public final class Nearest {

    private static final int MOST = 40;

    private Nearest() {}

    /** The nearest of the valid words, when at most a third of its letters differ, or two letters are swapped. */
    public static Optional<String> to(String found, Collection<String> valid) {
        return valid.stream()
                .filter(word -> distance(found, word) <= tolerance(word))
                .min(Comparator.comparing(word -> distance(found, word)));
    }

    private static int distance(String found, String word) {
        return LevenshteinDistance.getDefaultInstance()
                .apply(found.toLowerCase(Locale.ROOT), word.toLowerCase(Locale.ROOT));
    }

    private static int tolerance(String word) {
        return word.length() < 4 ? 1 : Math.max(2, word.length() / 3);
    }

    /** A clause for a message: the nearest word, or else what is valid. */
    public static String hint(String found, Collection<String> valid) {
        return to(found, valid)
                .map(word -> "did you mean \"" + word + "\"?")
                .orElseGet(() -> valid.isEmpty() ? "there is none yet" : "valid are: " + listed(valid));
    }

    private static String listed(Collection<String> valid) {
        String first = valid.stream().limit(MOST).collect(Collectors.joining(", "));
        return valid.size() <= MOST ? first : first + " and " + (valid.size() - MOST) + " more";
    }
}
