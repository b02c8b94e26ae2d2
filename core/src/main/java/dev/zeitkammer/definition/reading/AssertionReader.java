package dev.zeitkammer.definition.reading;

import dev.zeitkammer.definition.Assertion;
import dev.zeitkammer.definition.Assertion.Bounds;
import dev.zeitkammer.definition.Assertion.Control;
import dev.zeitkammer.definition.Assertion.Kind;
import dev.zeitkammer.definition.Assertion.Otherwise;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Problems;
import dev.zeitkammer.definition.Word;
import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.function.Function;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** Reads what is asserted of an input, or of a table. */
final class AssertionReader {

    private static final Pattern RANGE = Pattern.compile("(\\d+(?:\\.\\d+)?)?%?\\.\\.(?:(\\d+(?:\\.\\d+)?)%?)?");
    static final List<String> OF_ROWS = List.of("rows", "unique", "values", "total");
    static final List<String> OF_INPUTS = List.of("rows", "unique", "values", "total", "staged", "against-last");

    private final Problems problems;
    private final Function<Word, Optional<Input>> inputs;

    /** @param inputs finds inputs by name */
    AssertionReader(Problems problems, Function<Word, Optional<Input>> inputs) {
        this.problems = problems;
        this.inputs = inputs;
    }

    /** Assertions of what is staged. */
    List<Assertion> ofInput(Section owner) {
        return read(owner, OF_INPUTS, true);
    }

    /** Assertions of a table. */
    List<Assertion> ofTable(Section owner) {
        return read(owner, OF_ROWS, false);
    }

    private List<Assertion> read(Section owner, List<String> kinds, boolean staged) {
        Optional<Node> node = owner.node(Section.ASSERT);
        if (node.isEmpty()) {
            return List.of();
        }
        if (!(node.get() instanceof Node.Sequence list)) {
            problems.malformed(
                    node.get().place(), "\"assert\" is " + node.get().form() + "; expected a list of assertions");
            return List.of();
        }
        List<Assertion> all = new ArrayList<>();
        for (Node item : list.items()) {
            owner.mappingOf(item, "an assertion")
                    .flatMap(mapping -> assertion(mapping, kinds, staged, all.size() + 1))
                    .ifPresent(found -> add(all, found));
        }
        return all;
    }

    private void add(List<Assertion> all, Assertion found) {
        if (all.stream()
                .anyMatch(other -> other.name().text().equals(found.name().text()))) {
            problems.add(
                    found.name().place(),
                    "there is another assertion \"" + found.name() + "\" here; name them differently");
            return;
        }
        all.add(found);
    }

    private Optional<Assertion> assertion(Node.Mapping mapping, List<String> kinds, boolean staged, int number) {
        Section section = Section.of(
                mapping, staged ? SharedForms.ASSERTIONS_OF_INPUTS : SharedForms.ASSERTIONS_OF_TABLES, problems);
        List<String> given = kinds.stream().filter(section::has).toList();
        if (given.size() != 1) {
            problems.malformed(
                    section.place(),
                    "an assertion has one of " + String.join(", ", kinds) + "; found "
                            + (given.isEmpty() ? "none" : String.join(" and ", given)));
            return Optional.empty();
        }
        String kind = given.get(0);
        Word name = section.word("name").orElseGet(() -> new Word(kind + " " + number, section.place()));
        Optional<Otherwise> otherwise = otherwise(section, kind, staged);
        Optional<Assertion> read = switch (kind) {
            case "rows" -> section.sql("rows").map(sql -> of(name, Kind.ROWS, Optional.of(sql), List.of(), otherwise));
            case "unique" -> Optional.of(of(name, Kind.UNIQUE, Optional.empty(), section.words("unique"), otherwise));
            case "values" -> values(section, name, otherwise);
            case "total" -> total(section, name, otherwise);
            case "staged" -> bounded(section, name, "staged", Kind.STAGED, otherwise);
            default -> bounded(section, name, "against-last", Kind.AGAINST_LAST, otherwise);
        };
        return otherwise.isPresent() ? read : Optional.empty();
    }

    /** Rows can be set aside while they are staged, and only where single rows fail. */
    private Optional<Otherwise> otherwise(Section section, String kind, boolean staged) {
        boolean canSetAside = staged && (kind.equals("rows") || kind.equals("values"));
        if (!section.has("otherwise")) {
            return Optional.of(canSetAside ? Otherwise.SET_ASIDE : Otherwise.STOP);
        }
        Optional<Otherwise> otherwise =
                section.word("otherwise").flatMap(word -> section.choiceOf(word, Otherwise.class, "otherwise"));
        if (otherwise.filter(Otherwise.SET_ASIDE::equals).isPresent() && !canSetAside) {
            problems.add(
                    section.placeOf("otherwise"),
                    staged
                            ? "\"otherwise: set-aside\" is for rows and values, where single rows fail; say stop or note"
                            : "rows of a table cannot be set aside; assert it of the input, or say stop or note");
            return Optional.empty();
        }
        return otherwise;
    }

    private static Assertion of(
            Word name, Kind kind, Optional<Word> sql, List<Word> columns, Optional<Otherwise> otherwise) {
        return new Assertion(
                name, kind, sql, columns, List.of(), Optional.empty(), Bounds.NONE, otherwise.orElse(Otherwise.STOP));
    }

    private Optional<Assertion> values(Section section, Word name, Optional<Otherwise> otherwise) {
        Optional<Word> of = section.required("of", "the column whose values are listed");
        List<String> values = section.texts("values").orElse(List.of());
        return of.map(column -> new Assertion(
                name,
                Kind.VALUES,
                Optional.empty(),
                List.of(column),
                values,
                Optional.empty(),
                Bounds.NONE,
                otherwise.orElse(Otherwise.STOP)));
    }

    private Optional<Assertion> total(Section section, Word name, Optional<Otherwise> otherwise) {
        Optional<Word> sql = section.sql("total");
        if (!section.has("equals")) {
            problems.malformed(
                    section.place(), "\"equals\" is missing; expected {input: …, take: …}, which say the total");
            return Optional.empty();
        }
        Optional<Control> control = section.mapping("equals").flatMap(mapping -> {
            Section equals = Section.of(mapping, SharedForms.ASSERTED_TOTAL, problems);
            Optional<Input> input =
                    equals.required("input", "the input that says the total").flatMap(inputs);
            Optional<Word> take =
                    equals.has("take") ? equals.sql("take") : equals.required("take", "SQL over its staged columns");
            return input.flatMap(found -> take.map(sum -> new Control(found, sum, within(section))));
        });
        return sql.flatMap(sum -> control.map(found -> new Assertion(
                name,
                Kind.TOTAL,
                Optional.of(sum),
                List.of(),
                List.of(),
                Optional.of(found),
                Bounds.NONE,
                otherwise.orElse(Otherwise.STOP))));
    }

    private BigDecimal within(Section section) {
        Optional<Word> within = section.word("within");
        if (within.isPresent() && !within.get().text().matches("\\d+(\\.\\d+)?")) {
            problems.malformed(
                    within.get().place(), "\"within\" is \"" + within.get() + "\"; expected a number such as 0.01");
            return BigDecimal.ZERO;
        }
        return within.map(word -> new BigDecimal(word.text())).orElse(BigDecimal.ZERO);
    }

    private Optional<Assertion> bounded(
            Section section, Word name, String keyword, Kind kind, Optional<Otherwise> otherwise) {
        return section.word(keyword).flatMap(word -> {
            Matcher range = RANGE.matcher(word.text());
            boolean isPercent = word.text().contains("%");
            boolean isRange = range.matches() && (range.group(1) != null || range.group(2) != null);
            if (!isRange || isPercent != (kind == Kind.AGAINST_LAST)) {
                problems.malformed(
                        word.place(),
                        "\"" + keyword + "\" is \"" + word + "\"; expected bounds such as "
                                + (kind == Kind.STAGED ? "1000..5000, 1.. or ..5000" : "50%..200% or 80%.."));
                return Optional.empty();
            }
            Bounds bounds = new Bounds(
                    Optional.ofNullable(range.group(1)).map(BigDecimal::new),
                    Optional.ofNullable(range.group(2)).map(BigDecimal::new));
            return Optional.of(new Assertion(
                    name,
                    kind,
                    Optional.empty(),
                    List.of(),
                    List.of(),
                    Optional.empty(),
                    bounds,
                    otherwise.orElse(Otherwise.STOP)));
        });
    }
}
