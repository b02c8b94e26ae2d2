package dev.zeitkammer.definition.reading;

import dev.zeitkammer.definition.ChangeType;
import dev.zeitkammer.definition.Described;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Lookup;
import dev.zeitkammer.definition.Lookup.BeforeFirst;
import dev.zeitkammer.definition.Lookup.Blank;
import dev.zeitkammer.definition.Lookup.Ended;
import dev.zeitkammer.definition.Lookup.StandIns;
import dev.zeitkammer.definition.Lookup.Unmatched;
import dev.zeitkammer.definition.MemberLookup;
import dev.zeitkammer.definition.Nearest;
import dev.zeitkammer.definition.Problems;
import dev.zeitkammer.definition.ReservedMember;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.definition.form.Form;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Stream;

/** Reads the lookups of facts and of dimensions. */
final class LookupReader {

    private final Problems problems;
    private final Map<String, Dimension> dimensions;
    private Described described = Described.NOTHING;
    private List<String> grain = List.of();

    LookupReader(Problems problems, Map<String, Dimension> dimensions) {
        this.problems = problems;
        this.dimensions = dimensions;
    }

    /** What was said of the lookups' columns beside. */
    Described described() {
        return described;
    }

    /**
     * The lookups of a fact.
     *
     * @param identifying the words of its grain; a role among them sets rows aside where nothing else is said
     */
    List<Lookup> ofFact(Node.Mapping mapping, List<Word> identifying) {
        grain = identifying.stream().map(Word::text).toList();
        List<Lookup> lookups = new ArrayList<>();
        for (Node.Entry entry : mapping.entries().values()) {
            section(entry, FactForms.LOOKUP)
                    .flatMap(section -> lookup(entry.keyword(), section))
                    .ifPresent(lookups::add);
        }
        return lookups;
    }

    /** The lookups of a dimension. */
    List<MemberLookup> ofDimension(Dimension owner, Node.Mapping mapping) {
        List<MemberLookup> lookups = new ArrayList<>();
        for (Node.Entry entry : mapping.entries().values()) {
            section(entry, DimensionForms.LOOKUP)
                    .flatMap(section -> memberLookup(owner, entry.keyword(), section))
                    .ifPresent(lookups::add);
        }
        lookups.stream()
                .filter(MemberLookup::hierarchy)
                .skip(1)
                .forEach(second -> problems.add(
                        second.lookup().role().place(),
                        "a dimension keeps one bridge table; leave \"hierarchy\" out of all lookups but one"));
        return lookups;
    }

    private Optional<MemberLookup> memberLookup(Dimension owner, Word role, Section section) {
        Optional<ChangeType> change = section.required("type", "0, 1 or 2")
                .flatMap(word -> ChangeTypes.of(word, "the type of \"" + role + "\"", problems));
        if (change.filter(ChangeType.TYPE_3::equals).isPresent()) {
            problems.add(section.placeOf("type"), "a lookup keeps no previous key; expected type 0, 1 or 2");
        }
        boolean hierarchy = section.flag("hierarchy");
        if (section.has("before-first")
                && change.filter(ChangeType.TYPE_1::equals).isPresent()) {
            problems.add(
                    section.placeOf("before-first"),
                    "a lookup of type 1 finds the newest version, whatever the date; leave \"before-first\" out");
        }
        if (section.word("unmatched")
                .filter(word -> word.text().equals("placeholder"))
                .isPresent()) {
            problems.add(
                    section.placeOf("unmatched"),
                    "placeholders are made for facts; a lookup of a dimension can be unknown, set-aside, wait or stop");
        }
        return lookup(role, section).flatMap(lookup -> {
            if (hierarchy
                    && !lookup.dimension().name().text().equals(owner.name().text())) {
                problems.add(
                        section.placeOf("hierarchy"),
                        "\"hierarchy\" is for a parent in the same dimension; \"" + role + "\" is in \""
                                + lookup.dimension().name() + "\"");
            }
            return change.map(known -> new MemberLookup(lookup, known, hierarchy));
        });
    }

    /** The details of a lookup; nothing behind the role means that every default holds. */
    private Optional<Section> section(Node.Entry entry, Form form) {
        Node.Mapping details;
        if (entry.value() instanceof Node.Scalar scalar && scalar.isAbsent()) {
            details = new Node.Mapping(new LinkedHashMap<>(), scalar.place());
        } else if (entry.value() instanceof Node.Mapping mapping) {
            details = mapping;
        } else {
            problems.malformed(
                    entry.value().place(),
                    "the lookup \"" + entry.keyword() + "\" is " + entry.value().form()
                            + "; expected keywords below it");
            return Optional.empty();
        }
        return Optional.of(Section.of(details, form, problems));
    }

    private Optional<Lookup> lookup(Word role, Section section) {
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
        if (asOf.isPresent()
                && dimension
                        .othersLoad()
                        .filter(others -> others.from().isEmpty())
                        .isPresent()) {
            problems.add(
                    asOf.get().place(),
                    "\"as-of\" needs dates, and \"" + named
                            + "\" says of no column from when its rows hold; say from: (and until:) in its others-load, or leave it out");
        }
        String column = section.word("column").map(Word::text).orElse(role + "_key");
        described = described.with(column, section.word("was"), section.word("about"));
        Optional<String> memberColumn = memberColumn(role, section, dimension);
        Chosen<Unmatched> unmatched =
                chosen(section, "unmatched", dimension, Unmatched.STAND_IN, ReservedMember.UNKNOWN);
        Chosen<Blank> blank = chosen(section, "blank", dimension, Blank.STAND_IN, ReservedMember.NOT_APPLICABLE);
        boolean isGrain = grain.contains(role.text());
        Unmatched ofNobody = isGrain && !section.has("unmatched") ? Unmatched.SET_ASIDE : unmatched.outcome();
        Blank ofNoValue = isGrain && !section.has("blank") ? Blank.SET_ASIDE : blank.outcome();
        Chosen<Ended> ended = section.has("ended")
                ? chosen(section, "ended", dimension, Ended.STAND_IN, ReservedMember.UNKNOWN)
                : new Chosen<>(Ended.MATCH, 0);
        return match(section, role, dimension)
                .map(match -> new Lookup(
                        role,
                        column,
                        memberColumn,
                        dimension,
                        match,
                        asOf,
                        ofNobody,
                        ofNoValue,
                        section.choice("before-first", BeforeFirst.class),
                        ended.outcome(),
                        new StandIns(unmatched.key(), blank.key(), ended.key())));
    }

    private Optional<String> memberColumn(Word role, Section section, Dimension dimension) {
        if (!section.flag("member-key")) {
            return Optional.empty();
        }
        if (!dimension.hasMemberKey()) {
            problems.add(
                    section.placeOf("member-key"),
                    "the dimension \"" + dimension.name() + "\" has no member keys; write member-key: true there too");
        }
        return Optional.of(role + "_member_key");
    }

    /**
     * What becomes of a value that finds no member to point at.
     *
     * @param key the key of the reserved member that stands in for it, where one does
     */
    private record Chosen<E extends Enum<E>>(E outcome, long key) {}

    /** One of the outcomes of a keyword, or the name of a reserved member of the dimension. */
    private <E extends Enum<E>> Chosen<E> chosen(
            Section section, String keyword, Dimension dimension, E standIn, String usual) {
        long usualKey = dimension.reserved(usual).orElseThrow().key();
        Optional<Word> word = section.word(keyword);
        if (word.isEmpty()) {
            return new Chosen<>(standIn, usualKey);
        }
        String text = word.get().text();
        Optional<ReservedMember> member = dimension.reserved(text);
        if (member.isPresent()) {
            return new Chosen<>(standIn, member.get().key());
        }
        Optional<E> outcome = Stream.of(standIn.getDeclaringClass().getEnumConstants())
                .filter(each -> each != standIn && Section.kebab(each).equals(text))
                .findFirst();
        if (outcome.isEmpty()) {
            List<String> valid = new ArrayList<>(
                    dimension.reserved().stream().map(ReservedMember::name).toList());
            Stream.of(standIn.getDeclaringClass().getEnumConstants())
                    .filter(each -> each != standIn)
                    .map(Section::kebab)
                    .forEach(valid::add);
            problems.add(
                    word.get().place(),
                    "\"" + keyword + "\" cannot be \"" + text + "\" for the dimension \"" + dimension.name() + "\"; "
                            + Nearest.hint(text, valid));
        }
        return new Chosen<>(outcome.orElse(standIn), usualKey);
    }

    /** Whether a word says what becomes of a row, so that no reserved member can have it as its name. */
    static boolean isOutcome(String word) {
        return Stream.of(Unmatched.values(), Blank.values(), Ended.values())
                .flatMap(Stream::of)
                .map(Section::kebab)
                .anyMatch(word::equals);
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
}
