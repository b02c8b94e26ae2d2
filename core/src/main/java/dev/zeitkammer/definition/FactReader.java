package dev.zeitkammer.definition;

import dev.zeitkammer.definition.Fact.OnRepeat;
import dev.zeitkammer.engine.SqlType;
import java.util.ArrayList;
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

    Optional<Fact> read(Node.Mapping document) {
        Section section = Section.of(
                document,
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
        List<Lookup> lookups = section.mapping("lookups")
                .map(mapping -> new LookupReader(problems, dimensions).ofFact(mapping))
                .orElse(List.of());
        List<Word> degenerate = section.words("degenerate");
        List<Measure> measures = section.mapping("measures").map(this::measures).orElse(List.of());
        OnRepeat onRepeat = section.choice("on-repeat", OnRepeat.class);
        if (name.isEmpty() || from.isEmpty()) {
            return Optional.empty();
        }
        String table = section.word("table").map(Word::text).orElse("fact_" + name.get());
        return Optional.of(new Fact(name.get(), table, from.get(), grain, lookups, degenerate, measures, onRepeat));
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
