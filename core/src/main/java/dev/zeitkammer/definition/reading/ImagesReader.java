package dev.zeitkammer.definition.reading;

import dev.zeitkammer.definition.KeptImages;
import java.util.List;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** Reads {@code images}. */
final class ImagesReader {

    static final Pattern FORM = Pattern.compile("all|none|[1-9]\\d{0,5} loads?");
    private static final Pattern LOADS = Pattern.compile("([1-9]\\d{0,5}) loads?");

    private ImagesReader() {}

    /** What is said, where it is given. */
    static Optional<KeptImages> read(Section section) {
        return section.word("images").map(word -> {
            Matcher loads = LOADS.matcher(word.text());
            if (loads.matches()) {
                return new KeptImages(Integer.parseInt(loads.group(1)));
            }
            if (!List.of("all", "none").contains(word.text())) {
                section.problems()
                        .malformed(
                                word.place(),
                                "\"images\" is \"" + word + "\"; expected all, none, or a number such as 30 loads");
            }
            return word.text().equals("none") ? KeptImages.NONE : KeptImages.ALL;
        });
    }
}
