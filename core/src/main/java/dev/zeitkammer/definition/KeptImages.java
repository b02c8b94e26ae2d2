package dev.zeitkammer.definition;

import java.util.List;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * For how many loads the rows of tables are kept as they were before a load wrote over them.
 *
 * @param loads 0: not at all
 */
public record KeptImages(int loads) {

    static final Pattern FORM = Pattern.compile("all|none|[1-9]\\d{0,5} loads?");
    private static final Pattern LOADS = Pattern.compile("([1-9]\\d{0,5}) loads?");

    public static final KeptImages ALL = new KeptImages(Integer.MAX_VALUE);

    public static final KeptImages NONE = new KeptImages(0);

    public boolean any() {
        return loads > 0;
    }

    /** Reads them, where they are given. */
    static Optional<KeptImages> of(Section section) {
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
            return word.text().equals("none") ? NONE : ALL;
        });
    }
}
