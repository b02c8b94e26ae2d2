package dev.zeitkammer.definition.reading;

import dev.zeitkammer.definition.Described;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Fact;
import dev.zeitkammer.definition.Fact.OnRepeat;
import dev.zeitkammer.definition.FactDeletions;
import dev.zeitkammer.definition.Feed;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Lookup;
import dev.zeitkammer.definition.Measure;
import dev.zeitkammer.definition.Problems;
import dev.zeitkammer.definition.Word;
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
    private final TermsReader terms;
    private Described described = Described.NOTHING;

    FactReader(Problems problems, InputNames inputs, Map<String, Dimension> dimensions, TermsReader terms) {
        this.problems = problems;
        this.inputs = inputs;
        this.dimensions = dimensions;
        this.terms = terms;
    }

    Optional<Fact> read(Node.Mapping document) {
        Section section = Section.of(document, FactForms.FACT, problems);
        Optional<Word> name = section.required("fact", "the fact's name");
        Optional<Input> from = name.flatMap(owner -> inputs.from(section, owner));
        boolean appends = section.flag("append");
        if (!section.has("grain") && !appends) {
            problems.malformed(
                    section.place(), "\"grain\" is missing; expected the staged columns that identify a row");
        }
        if (appends) {
            appended(section, from);
        }
        TakenReader.Columns grain = TakenReader.read(section, "grain");
        LookupReader lookupReader = new LookupReader(problems, dimensions);
        List<Lookup> lookups = section.mapping("lookups")
                .map(mapping -> lookupReader.ofFact(mapping, grain.columns()))
                .orElse(List.of());
        TakenReader.Columns degenerate = TakenReader.read(section, "degenerate");
        described = Described.NOTHING;
        List<Measure> measures = section.mapping("measures").map(this::measures).orElse(List.of());
        OnRepeat onRepeat = section.choice("on-repeat", OnRepeat.class);
        if (name.isEmpty() || from.isEmpty()) {
            return Optional.empty();
        }
        String table = section.word("table").map(Word::text).orElse("fact_" + name.get());
        return Optional.of(new Fact(
                name.get(),
                table,
                from.get(),
                grain.columns(),
                lookups,
                degenerate.columns(),
                grain.taken().and(degenerate.taken()),
                measures,
                onRepeat,
                feeds(section, name.get()),
                section.word("replaces"),
                section.mapping("deletions").flatMap(this::deletions),
                terms.read(section, table)
                        .describing(grain.described())
                        .describing(degenerate.described())
                        .describing(lookupReader.described())
                        .describing(described)));
    }

    /** Without a grain nothing tells one row from another: they are added, once, and never looked at again. */
    private void appended(Section section, Optional<Input> from) {
        for (String keyword : List.of("grain", "on-repeat", "feeds", "replaces", "deletions")) {
            if (section.has(keyword)) {
                problems.add(
                        section.placeOf(keyword),
                        "\"append\" adds rows without comparing them; leave out \"" + keyword + "\", or append");
            }
        }
        if (from.isPresent() && from.get().newer().isEmpty()) {
            problems.add(
                    section.placeOf("append"),
                    "\"append\" needs \"newer-than\" in the input \""
                            + from.get().name() + "\", so that no row is added twice");
        }
        from.flatMap(Input::newer)
                .flatMap(newer -> newer.overlap())
                .ifPresent(overlap -> problems.add(
                        overlap.place(), "with \"append\" there is no overlap: its rows would be added twice"));
    }

    enum Rows {
        REMOVE,
        MARK
    }

    private Optional<FactDeletions> deletions(Node.Mapping mapping) {
        Section section = Section.of(mapping, FactForms.DELETIONS, problems);
        boolean marks = section.choice("rows", Rows.class) == Rows.MARK;
        return section.required("when", "a condition over the staged columns")
                .flatMap(when -> section.sql("when"))
                .map(when -> new FactDeletions(when, marks));
    }

    private List<Feed> feeds(Section fact, Word owner) {
        List<Feed> feeds = new ArrayList<>();
        Optional<Node> node = fact.node("feeds");
        if (node.isPresent() && !(node.get() instanceof Node.Sequence)) {
            problems.malformed(node.get().place(), "\"feeds\" is " + node.get().form() + "; expected a list of inputs");
        }
        if (node.orElse(null) instanceof Node.Sequence list) {
            for (int nth = 1; nth <= list.items().size(); nth++) {
                Word name = new Word(owner + "_feed_" + nth, owner.place());
                fact.mappingOf(list.items().get(nth - 1), "a feed")
                        .flatMap(mapping -> feed(mapping, name))
                        .ifPresent(feeds::add);
            }
        }
        return feeds;
    }

    private Optional<Feed> feed(Node.Mapping mapping, Word owner) {
        Section section = Section.of(mapping, FactForms.FEED, problems);
        Optional<Input> from = inputs.from(section, owner);
        List<Word> stored = new ArrayList<>();
        List<Word> match = new ArrayList<>();
        if (section.node("match").orElse(null) instanceof Node.Mapping pairs) {
            for (Node.Entry entry : pairs.entries().values()) {
                section.wordOf(entry.value(), "\"" + entry.keyword() + "\"").ifPresent(column -> {
                    stored.add(entry.keyword());
                    match.add(column);
                });
            }
        } else {
            stored.addAll(section.words("match"));
            match.addAll(stored);
        }
        if (match.isEmpty()) {
            problems.malformed(
                    section.place(), "\"match\" is missing; expected the columns by which rows of the fact are found");
        }
        List<Word> updates = section.words("updates");
        if (updates.isEmpty()) {
            problems.malformed(
                    section.place(), "\"updates\" is missing; expected the roles and measures that the feed writes");
        }
        return from.map(input ->
                new Feed(input, stored, match, updates, section.choice("without-fact", Feed.WithoutFact.class)));
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
            Section section = Section.of(details, FactForms.MEASURE, problems);
            described = described.with(entry.keyword().text(), section.word("was"), section.word("about"));
            Optional<SqlType> type =
                    section.required("as", "the measure's type").flatMap(section::typeOf);
            return type.map(known -> new Measure(entry.keyword(), known, section.sql("take")));
        }
        return all.wordOf(entry.value(), "the measure \"" + entry.keyword() + "\"")
                .flatMap(all::typeOf)
                .map(type -> new Measure(entry.keyword(), type, Optional.empty()));
    }
}
