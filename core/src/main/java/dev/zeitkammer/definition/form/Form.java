package dev.zeitkammer.definition.form;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.stream.Stream;

/**
 * What a group of keywords may hold. Readers refuse every other keyword, and editors are told of these as JSON Schema, so that both
 * know the same.
 *
 * @param name a name that no other form has
 * @param what what messages call the group
 * @param keywords in the order in which they are told
 * @param alternatives of the keywords of each list exactly one must stand there
 * @param least of the keywords of each list one at least must stand there
 * @param together keywords of which all stand there, or none
 */
public record Form(
        String name,
        String what,
        List<Keyword> keywords,
        List<List<String>> alternatives,
        List<List<String>> least,
        List<String> together) {

    public Form {
        keywords = List.copyOf(keywords);
        alternatives = List.copyOf(alternatives);
        least = List.copyOf(least);
        together = List.copyOf(together);
    }

    /** A form in which every keyword may stand beside every other. */
    public static Form of(String name, String what, Keyword... keywords) {
        return new Form(name, what, Arrays.asList(keywords), List.of(), List.of(), List.of());
    }

    /** With further keywords. */
    public Form and(List<Keyword> more) {
        return new Form(
                name, what, Stream.concat(keywords.stream(), more.stream()).toList(), alternatives, least, together);
    }

    /** With keywords of which exactly one must stand there. */
    public Form exactlyOne(List<String> of) {
        List<List<String>> all = new ArrayList<>(alternatives);
        all.add(List.copyOf(of));
        return new Form(name, what, keywords, all, least, together);
    }

    /** With keywords of which one at least must stand there. */
    public Form atLeastOne(List<String> of) {
        List<List<String>> all = new ArrayList<>(least);
        all.add(List.copyOf(of));
        return new Form(name, what, keywords, alternatives, all, together);
    }

    /** With keywords of which all stand there, or none. */
    public Form allOrNone(List<String> of) {
        return new Form(name, what, keywords, alternatives, least, of);
    }

    /** The keywords that may stand there. */
    public List<String> names() {
        return keywords.stream().map(Keyword::name).toList();
    }
}
