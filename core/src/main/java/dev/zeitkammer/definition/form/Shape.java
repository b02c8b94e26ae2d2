package dev.zeitkammer.definition.form;

import java.util.List;
import java.util.Optional;
import java.util.regex.Pattern;

/** What may stand behind a keyword. */
public sealed interface Shape {

    /** Any text; what YAML takes for a number or a yes is the text that stands there. */
    record Text() implements Shape {}

    /**
     * A text of a form.
     *
     * @param pattern what the whole text must be; only what Java's expressions share with those of ECMAScript
     * @param number the numbers that can be one, where any can
     * @param examples what editors propose
     */
    record Matching(Pattern pattern, Optional<Range> number, List<String> examples) implements Shape {}

    /**
     * Numbers that can stand behind a keyword.
     *
     * @param isWhole whether they have no decimals
     */
    record Range(long least, long greatest, boolean isWhole) {

        public static Range whole(long least, long greatest) {
            return new Range(least, greatest, true);
        }
    }

    /** One of some words. */
    record Choice(List<String> words) implements Shape {}

    /** One of some words, or a name that the project gives. */
    record Suggested(List<String> words) implements Shape {}

    /** Yes or no. */
    record Flag() implements Shape {}

    /** Nothing behind the colon. */
    record Nothing() implements Shape {}

    /**
     * A list of these.
     *
     * @param mayBeEmpty whether it may hold none
     */
    record Several(Shape each, boolean mayBeEmpty) implements Shape {}

    /** Keywords below it. */
    record Group(Form form) implements Shape {}

    /**
     * Names that the user chooses, and what stands behind each.
     *
     * @param known names that mean something of their own
     */
    record Names(Shape each, List<Keyword> known) implements Shape {}

    /** Any of these. */
    record Either(List<Shape> shapes) implements Shape {}

    /** Any text. */
    Shape TEXT = new Text();

    Shape FLAG = new Flag();

    Shape NOTHING = new Nothing();

    /** A text, or a list of texts. */
    Shape TEXTS = either(TEXT, new Several(TEXT, true));

    /** A text, or a list of texts with one at least. */
    Shape SOME_TEXTS = either(TEXT, new Several(TEXT, false));

    static Shape either(Shape... shapes) {
        return new Either(List.of(shapes));
    }

    static Shape matching(Pattern pattern, String... examples) {
        return new Matching(pattern, Optional.empty(), List.of(examples));
    }

    /** A number, or a text of a form. */
    static Shape numberOr(Range number, Pattern pattern, String... examples) {
        return new Matching(pattern, Optional.of(number), List.of(examples));
    }

    static Shape group(Form form) {
        return new Group(form);
    }

    static Shape several(Shape each) {
        return new Several(each, true);
    }

    static Shape some(Shape each) {
        return new Several(each, false);
    }

    static Shape names(Shape each, Keyword... known) {
        return new Names(each, List.of(known));
    }
}
