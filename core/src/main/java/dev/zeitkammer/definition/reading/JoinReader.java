package dev.zeitkammer.definition.reading;

import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Input.Join;
import dev.zeitkammer.definition.Input.Joined;
import dev.zeitkammer.definition.Input.Match;
import dev.zeitkammer.definition.Input.WithoutPartner;
import dev.zeitkammer.definition.Problems;
import dev.zeitkammer.definition.Word;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** Reads joins of inputs: {@code from}, and {@code with} a list of inputs, each with the columns that must be equal. */
final class JoinReader {

    private static final String NAME = "([\\p{L}_][\\p{L}\\p{N}_]*|\"[^\"]+\")";
    private static final Pattern EQUATION =
            Pattern.compile("\\s*" + NAME + "\\." + NAME + "\\s*=\\s*" + NAME + "\\." + NAME + "\\s*");
    private static final Pattern COLUMN = Pattern.compile(NAME);

    private final Problems problems;
    private final InputNames inputs;

    JoinReader(Problems problems, InputNames inputs) {
        this.problems = problems;
        this.inputs = inputs;
    }

    Optional<Join> read(Node.Mapping mapping) {
        Section section = Section.of(mapping, InputForms.JOIN, problems);
        Optional<Input> from = section.required("from", "the name of the input whose rows are loaded")
                .flatMap(inputs::named);
        Optional<Node> with = section.node("with");
        if (with.isEmpty()
                || !(with.get() instanceof Node.Sequence list)
                || list.items().isEmpty()) {
            problems.malformed(section.placeOf("with"), "\"with\" is no list; expected - {input: NAME, by: COLUMN}");
            return Optional.empty();
        }
        if (from.isEmpty()) {
            return Optional.empty();
        }
        List<Input> known = new ArrayList<>(List.of(from.get()));
        List<Joined> joined = new ArrayList<>();
        for (Node item : ((Node.Sequence) with.get()).items()) {
            section.mappingOf(item, "an entry of \"with\"")
                    .flatMap(details -> joined(details, known))
                    .ifPresent(found -> {
                        known.add(found.input());
                        joined.add(found);
                    });
        }
        return Optional.of(new Join(from.get(), joined));
    }

    private Optional<Joined> joined(Node.Mapping mapping, List<Input> known) {
        Section section = Section.of(mapping, InputForms.JOINED, problems);
        Optional<Word> name = section.required("input", "the name of an input");
        Optional<Input> input = name.flatMap(inputs::named);
        boolean optional = section.flag("optional");
        WithoutPartner withoutPartner = section.choice("without-partner", WithoutPartner.class);
        if (optional && section.has("without-partner")) {
            problems.add(
                    section.placeOf("without-partner"),
                    "with \"optional: true\" rows without a partner stay; leave out \"without-partner\", or \"optional\"");
        }
        Optional<Node.Mapping> pairs =
                section.node("by").filter(Node.Mapping.class::isInstance).map(Node.Mapping.class::cast);
        List<Word> by = pairs.isPresent() ? List.of() : section.words("by");
        if (by.isEmpty() && pairs.isEmpty()) {
            problems.malformed(
                    section.placeOf("by"),
                    "\"by\" is missing; expected a column that both have, \"nights.tariff = tariffs.code\","
                            + " or {code: \"upper(tariff)\"}");
        }
        if (input.isEmpty()) {
            return Optional.empty();
        }
        if (known.stream()
                .anyMatch(
                        before -> before.name().text().equals(input.get().name().text()))) {
            problems.add(name.get().place(), "\"" + name.get() + "\" is joined twice; give it a second input file");
            return Optional.empty();
        }
        input.get()
                .newer()
                .ifPresent(newer -> problems.add(
                        name.get().place(),
                        "\"" + name.get() + "\" is staged by newer-than; in a join only the from input may be"));
        List<Match> matches = new ArrayList<>();
        by.forEach(word -> matches(word, input.get(), known, matches));
        pairs.ifPresent(columns -> columns.entries()
                .values()
                .forEach(entry -> section.wordOf(entry.value(), "\"" + entry.keyword() + "\"")
                        .ifPresent(value -> matches.add(new Match(known.get(0), value, entry.keyword())))));
        return Optional.of(new Joined(input.get(), matches, optional, withoutPartner));
    }

    private void matches(Word by, Input input, List<Input> known, List<Match> matches) {
        if (COLUMN.matcher(by.text()).matches()) {
            Word column = bare(by.text(), by);
            matches.add(new Match(known.get(0), column, column));
            return;
        }
        for (String part : by.text().split("(?i)\\band\\b")) {
            Matcher equation = EQUATION.matcher(part);
            Optional<Match> match = equation.matches() ? match(equation, by, input, known) : Optional.empty();
            match.ifPresentOrElse(
                    matches::add,
                    () -> problems.add(
                            by.place(),
                            "\"by\" is \"" + by + "\"; expected a column that both have, or an equation of a column of "
                                    + String.join(
                                            " or ",
                                            known.stream()
                                                    .map(before -> before.name().text())
                                                    .toList())
                                    + " and one of " + input.name() + ", such as \""
                                    + known.get(0).name() + ".code = "
                                    + input.name() + ".code\""));
        }
    }

    private static Optional<Match> match(Matcher equation, Word by, Input input, List<Input> known) {
        boolean swapped = equation.group(1).equals(input.name().text());
        String earlier = bare(equation.group(swapped ? 3 : 1), by).text();
        String later = bare(equation.group(swapped ? 1 : 3), by).text();
        Word earlierColumn = bare(equation.group(swapped ? 4 : 2), by);
        Word laterColumn = bare(equation.group(swapped ? 2 : 4), by);
        return later.equals(input.name().text())
                ? known.stream()
                        .filter(before -> before.name().text().equals(earlier))
                        .findFirst()
                        .map(before -> new Match(before, earlierColumn, laterColumn))
                : Optional.empty();
    }

    private static Word bare(String name, Word by) {
        return new Word(name.startsWith("\"") ? name.substring(1, name.length() - 1) : name, by.place());
    }
}
