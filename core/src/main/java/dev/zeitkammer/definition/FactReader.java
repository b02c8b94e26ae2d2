package dev.zeitkammer.definition;

import dev.zeitkammer.definition.Fact.OnRepeat;
import dev.zeitkammer.definition.Lookup.BeforeFirst;
import dev.zeitkammer.definition.Lookup.Blank;
import dev.zeitkammer.definition.Lookup.Unmatched;
import dev.zeitkammer.engine.SqlType;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** Reads one fact table. */
final class FactReader {

    private final Problems problems;
    private final InputNames inputs;
    private final Map<String, Dimension> dimensions;

    FactReader(Problems problems, InputNames inputs, Map<String, Dimension> dimensions) {
        this.problems = problems;
        this.inputs = inputs;
        this.dimensions = dimensions;
    }

    Optional<Fact> read(Node.Mapping mapping) {
        Section section = Section.of(
                mapping,
                "a fact",
                problems,
                "fact",
                "table",
                "from",
                "grain",
                "lookups",
                "degenerate",
                "measures",
                "on-repeat");
        Optional<Word> name = section.required("fact", "the fact's name");
        Optional<Input> from = name.flatMap(owner -> inputs.from(section, owner));
        if (!section.has("grain")) {
            problems.add(section.place(), "\"grain\" is missing; expected the staged columns that identify a row");
        }
        List<Word> grain = section.words("grain");
        List<Lookup> lookups = section.mapping("lookups").map(this::lookups).orElse(List.of());
        List<Word> degenerate = section.words("degenerate");
        List<Measure> measures = section.mapping("measures").map(this::measures).orElse(List.of());
        OnRepeat onRepeat = section.choice("on-repeat", OnRepeat.class);
        if (name.isEmpty() || from.isEmpty()) {
            return Optional.empty();
        }
        String table = section.word("table").map(Word::text).orElse("fact_" + name.get());
        return Optional.of(new Fact(name.get(), table, from.get(), grain, lookups, degenerate, measures, onRepeat));
    }

    private List<Lookup> lookups(Node.Mapping mapping) {
        List<Lookup> lookups = new ArrayList<>();
        Section all = Section.ofNames(mapping, problems);
        for (Node.Entry entry : all.entries()) {
            details(all, entry)
                    .flatMap(details -> lookup(entry.keyword(), details))
                    .ifPresent(lookups::add);
        }
        return lookups;
    }

    /** The details of a lookup; nothing behind the role means that every default holds. */
    private Optional<Node.Mapping> details(Section all, Node.Entry entry) {
        if (entry.value() instanceof Node.Scalar scalar && scalar.isAbsent()) {
            return Optional.of(new Node.Mapping(new LinkedHashMap<>(), scalar.place()));
        }
        return all.mappingOf(entry.value(), "the lookup \"" + entry.keyword() + "\"");
    }

    private Optional<Lookup> lookup(Word role, Node.Mapping mapping) {
        Section section = Section.of(
                mapping, "a lookup", problems, "dimension", "match", "as-of", "unmatched", "blank", "before-first");
        Word named = section.word("dimension").orElse(role);
        Dimension dimension = dimensions.get(named.text());
        if (dimension == null) {
            problems.add(
                    named.place(),
                    "there is no dimension \"" + named + "\"; " + Nearest.hint(named.text(), dimensions.keySet()));
            return Optional.empty();
        }
        Optional<Word> asOf = section.word("as-of");
        if (asOf.isPresent() && !dimension.hasHistory()) {
            problems.add(
                    asOf.get().place(),
                    "\"as-of\" needs versions, and the dimension \"" + named
                            + "\" has no attribute of type 2; leave it out");
        }
        return match(section, role, dimension)
                .map(match -> new Lookup(
                        role,
                        dimension,
                        match,
                        asOf,
                        section.choice("unmatched", Unmatched.class),
                        section.choice("blank", Blank.class),
                        section.choice("before-first", BeforeFirst.class)));
    }

    private Optional<List<Word>> match(Section section, Word role, Dimension dimension) {
        Optional<Node> given = section.node("match");
        if (given.isEmpty()) {
            return Optional.of(dimension.key().stream()
                    .map(column -> new Word(column.text(), role.place()))
                    .toList());
        }
        if (given.get() instanceof Node.Mapping pairs) {
            return pairs(section, pairs, dimension);
        }
        List<Word> columns = section.words("match");
        if (columns.size() != dimension.key().size()) {
            problems.add(
                    section.placeOf("match"),
                    "\"match\" names " + columns.size() + " columns; the key of \"" + dimension.name() + "\" has "
                            + dimension.key().size() + ": " + keyOf(dimension));
            return Optional.empty();
        }
        return Optional.of(columns);
    }

    private Optional<List<Word>> pairs(Section section, Node.Mapping pairs, Dimension dimension) {
        List<String> keys = dimension.key().stream().map(Word::text).toList();
        for (Node.Entry entry : pairs.entries().values()) {
            if (!keys.contains(entry.keyword().text())) {
                problems.add(
                        entry.keyword().place(),
                        "\"" + entry.keyword() + "\" is not in the key of \"" + dimension.name() + "\"; "
                                + Nearest.hint(entry.keyword().text(), keys));
            }
        }
        List<Word> columns = new ArrayList<>();
        for (String key : keys) {
            Optional<Node.Entry> entry = Optional.ofNullable(pairs.entries().get(key));
            if (entry.isEmpty()) {
                problems.add(
                        pairs.place(), "\"match\" lacks \"" + key + "\" of the key of \"" + dimension.name() + "\"");
                return Optional.empty();
            }
            section.wordOf(entry.get().value(), "\"" + key + "\"").ifPresent(columns::add);
        }
        return columns.size() == keys.size() ? Optional.of(columns) : Optional.empty();
    }

    private static String keyOf(Dimension dimension) {
        return String.join(", ", dimension.key().stream().map(Word::text).toList());
    }

    private List<Measure> measures(Node.Mapping mapping) {
        List<Measure> measures = new ArrayList<>();
        Section all = Section.ofNames(mapping, problems);
        for (Node.Entry entry : all.entries()) {
            measure(all, entry).ifPresent(measures::add);
        }
        return measures;
    }

    private Optional<Measure> measure(Section all, Node.Entry entry) {
        if (entry.value() instanceof Node.Mapping details) {
            Section section = Section.of(details, "a measure", problems, "as", "take");
            Optional<SqlType> type =
                    section.required("as", "the measure's type").flatMap(section::typeOf);
            return type.map(known -> new Measure(entry.keyword(), known, section.word("take")));
        }
        return all.wordOf(entry.value(), "the measure \"" + entry.keyword() + "\"")
                .flatMap(all::typeOf)
                .map(type -> new Measure(entry.keyword(), type, Optional.empty()));
    }
}
