package dev.zeitkammer.definition.reading;

import dev.zeitkammer.definition.Attribute;
import dev.zeitkammer.definition.Attribute.Missing;
import dev.zeitkammer.definition.ChangeType;
import dev.zeitkammer.definition.Deletions;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Dimension.Kind;
import dev.zeitkammer.definition.History;
import dev.zeitkammer.definition.History.Facts;
import dev.zeitkammer.definition.History.Late;
import dev.zeitkammer.definition.History.Overwrite;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Place;
import dev.zeitkammer.definition.Problems;
import dev.zeitkammer.definition.SurrogateKey;
import dev.zeitkammer.definition.Taken;
import dev.zeitkammer.definition.Terms;
import dev.zeitkammer.definition.Views;
import dev.zeitkammer.definition.Word;
import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Stream;

/** Reads one dimension; its lookups are added when every dimension is known. */
final class DimensionReader {

    static final Pattern DUPLICATES = Pattern.compile("set-aside|last by .+");
    private static final Pattern LAST_BY = Pattern.compile("last by (.+)");

    enum Kinds {
        MEMBERS,
        CALENDAR,
        COMBINATION
    }

    private final Problems problems;
    private final InputNames inputs;
    private final TermsReader terms;

    DimensionReader(Problems problems, InputNames inputs, TermsReader terms) {
        this.problems = problems;
        this.inputs = inputs;
        this.terms = terms;
    }

    Optional<Dimension> read(Node.Mapping mapping) {
        return switch (Section.ofNames(mapping, problems).choice("kind", Kinds.class)) {
            case MEMBERS ->
                Section.ofNames(mapping, problems).has("others-load")
                        ? new OthersReader(problems, terms).read(mapping)
                        : members(mapping);
            case CALENDAR -> new CalendarReader(problems, inputs, terms).read(mapping);
            case COMBINATION -> combination(mapping);
        };
    }

    private Optional<Dimension> members(Node.Mapping mapping) {
        Section section = Section.of(mapping, DimensionForms.MEMBERS, problems);
        Optional<Word> name = section.required("dimension", "the dimension's name");
        Optional<Input> from = name.flatMap(owner -> inputs.from(section, owner));
        TakenReader.Columns key = key(section);
        Terms said =
                terms.read(section, name.map(known -> tableName(section, known)).orElse(""));
        List<Attribute> attributes = section.mapping("attributes")
                .map(each -> attributes(each, missing(section, Missing.STOP)))
                .orElse(List.of());
        Optional<ChangeType> allOthers = section.word("all-others").flatMap(this::allOthers);
        History history = section.mapping("history").map(this::history).orElse(History.BY_LOAD_DATE);
        Deletions deletions =
                section.mapping("deletions").map(ends -> deletions(ends, from)).orElse(Deletions.NONE);
        if (attributes.isEmpty() && allOthers.isEmpty() && !section.has("attributes") && !section.has("lookups")) {
            problems.malformed(section.place(), "a dimension needs \"attributes\" or \"all-others\"");
        }
        boolean versioned = allOthers.filter(ChangeType.TYPE_2::equals).isPresent()
                || attributes.stream().anyMatch(attribute -> attribute.change() == ChangeType.TYPE_2)
                || hasVersionedLookup(section);
        return name.map(known -> new Dimension(
                known,
                tableName(section, known),
                Kind.MEMBERS,
                from,
                key.columns(),
                key.taken(),
                attributes,
                allOthers,
                history,
                deletions,
                section.word("duplicates").flatMap(this::lastBy),
                surrogate(section, known, versioned),
                section.flag("member-key"),
                List.of(),
                versioned,
                Optional.empty(),
                new ReservedReader(problems, said.conventions()).read(section),
                views(section),
                Optional.empty(),
                said.describing(key.described())));
    }

    private static boolean hasVersionedLookup(Section section) {
        return section.node("lookups").stream()
                .flatMap(node -> node instanceof Node.Mapping all ? all.entries().values().stream() : Stream.empty())
                .anyMatch(entry -> entry.value() instanceof Node.Mapping lookup
                        && lookup.entries().get("type") != null
                        && lookup.entries().get("type").value() instanceof Node.Scalar type
                        && type.text().matches("(type +)?2"));
    }

    private Optional<Dimension> combination(Node.Mapping mapping) {
        Section section = Section.of(mapping, DimensionForms.COMBINATION, problems);
        Optional<Word> name = section.required("dimension", "the dimension's name");
        Optional<Input> from =
                section.has("from") ? name.flatMap(owner -> inputs.from(section, owner)) : Optional.empty();
        List<Attribute> attributes = combined(section);
        Terms said =
                terms.read(section, name.map(known -> tableName(section, known)).orElse(""));
        if (attributes.isEmpty()) {
            problems.malformed(
                    section.place(), "a combination needs \"attributes\": the columns whose values it combines");
        }
        return name.map(known -> new Dimension(
                known,
                tableName(section, known),
                Kind.COMBINATION,
                from,
                attributes.stream().map(Attribute::name).toList(),
                Taken.AS_NAMED,
                attributes,
                Optional.empty(),
                History.BY_LOAD_DATE,
                Deletions.NONE,
                Optional.empty(),
                surrogate(section, known, true),
                false,
                List.of(),
                false,
                Optional.empty(),
                new ReservedReader(problems, said.conventions()).read(section),
                views(section),
                Optional.empty(),
                said));
    }

    /** The attributes of a combination: names in a list, or with the details of each. */
    private List<Attribute> combined(Section section) {
        if (!(section.node("attributes").orElse(null) instanceof Node.Mapping details)) {
            return section.words("attributes").stream()
                    .map(word -> Attribute.plain(word, ChangeType.TYPE_0))
                    .toList();
        }
        List<Attribute> attributes = new ArrayList<>();
        for (Node.Entry entry : details.entries().values()) {
            if (entry.value() instanceof Node.Mapping given) {
                Section each = Section.of(given, DimensionForms.COMBINED_ATTRIBUTE, problems);
                attributes.add(new Attribute(
                        entry.keyword(),
                        ChangeType.TYPE_0,
                        each.type("as"),
                        each.sql("take"),
                        Optional.empty(),
                        Optional.empty(),
                        each.word("about"),
                        Missing.STOP));
            } else {
                attributes.add(Attribute.plain(entry.keyword(), ChangeType.TYPE_0));
            }
        }
        return attributes;
    }

    static String tableName(Section section, Word name) {
        return section.word("table").map(Word::text).orElse("dim_" + name.text());
    }

    static Views views(Section section) {
        Map<String, Word> roles = new LinkedHashMap<>();
        section.mapping("role-views").ifPresent(mapping -> {
            for (Node.Entry entry : mapping.entries().values()) {
                section.wordOf(entry.value(), "the view of the role \"" + entry.keyword() + "\"")
                        .ifPresent(view -> roles.put(entry.keyword().text(), view));
            }
        });
        return new Views(section.word("current-view"), roles);
    }

    private TakenReader.Columns key(Section section) {
        return key(section, problems);
    }

    static TakenReader.Columns key(Section section, Problems problems) {
        if (!section.has("key")) {
            problems.malformed(
                    section.place(), "\"key\" is missing; expected the column or columns of the business key");
        }
        return TakenReader.read(section, "key");
    }

    enum Counted {
        SEQUENCE,
        HASH
    }

    /** The surrogate key: how it is made, or a mapping that names its column too. */
    private SurrogateKey surrogate(Section section, Word name, boolean needsSequence) {
        SurrogateKey counted = SurrogateKey.counted(name);
        if (!(section.node("surrogate").orElse(null) instanceof Node.Mapping details)) {
            return new SurrogateKey(counted.column(), by(section, "surrogate"), Optional.empty());
        }
        Section each = Section.of(details, DimensionForms.SURROGATE, problems);
        String column = each.word("column").map(Word::text).orElse(counted.column());
        Optional<Word> take = each.sql("take");
        if (take.isEmpty()) {
            return new SurrogateKey(column, by(each, "by"), take);
        }
        if (each.has("by")) {
            problems.add(
                    each.placeOf("by"), "the keys are taken from the delivery already; leave out \"by\" or \"take\"");
        }
        if (needsSequence) {
            problems.add(
                    each.placeOf("take"),
                    "keys can be taken from the delivery only where a member has one row: this dimension has versions, or"
                            + " makes members of its own; say by: sequence, or by: hash");
        }
        return new SurrogateKey(column, SurrogateKey.By.TAKE, take);
    }

    private static SurrogateKey.By by(Section section, String keyword) {
        return section.choice(keyword, Counted.class) == Counted.HASH ? SurrogateKey.By.HASH : SurrogateKey.By.SEQUENCE;
    }

    /** @param missing what becomes of attributes that are not delivered and say nothing of it */
    private List<Attribute> attributes(Node.Mapping mapping, Missing missing) {
        List<Attribute> attributes = new ArrayList<>();
        for (Node.Entry entry : mapping.entries().values()) {
            attribute(entry, missing).ifPresent(attributes::add);
        }
        return attributes;
    }

    private Optional<Attribute> attribute(Node.Entry entry, Missing missing) {
        if (entry.value() instanceof Node.Mapping details) {
            return detailed(entry.keyword(), details, missing);
        }
        Section section = Section.ofNames(
                new Node.Mapping(new LinkedHashMap<>(), entry.value().place()), problems);
        Optional<ChangeType> change = section.wordOf(entry.value(), "the attribute \"" + entry.keyword() + "\"")
                .flatMap(word -> ChangeTypes.of(word, "the attribute \"" + entry.keyword() + "\"", problems));
        if (change.filter(ChangeType.TYPE_3::equals).isPresent()) {
            needsPrevious(entry.keyword(), entry.value().place());
        }
        return change.map(type -> Attribute.plain(entry.keyword(), type).missing(missing));
    }

    private Optional<Attribute> detailed(Word name, Node.Mapping details, Missing missing) {
        Section section = Section.of(details, DimensionForms.ATTRIBUTE, problems);
        Optional<ChangeType> type = section.required("type", "0, 1, 2 or 3")
                .flatMap(word -> ChangeTypes.of(word, "the type of \"" + name + "\"", problems));
        boolean keepsPrevious = type.filter(ChangeType.TYPE_3::equals).isPresent();
        if (keepsPrevious && !section.has("previous")) {
            needsPrevious(name, section.placeOf("type"));
        }
        if (type.isPresent() && !keepsPrevious && section.has("previous")) {
            problems.add(
                    section.placeOf("previous"),
                    "\"previous\" belongs to type 3, and \"" + name + "\" is of "
                            + type.get().word());
        }
        return type.map(known -> new Attribute(
                name,
                known,
                section.type("as"),
                section.sql("take"),
                section.word("previous"),
                section.word("was"),
                section.word("about"),
                missing(section, missing)));
    }

    private static Missing missing(Section section, Missing otherwise) {
        return section.has("missing") ? section.choice("missing", Missing.class) : otherwise;
    }

    private void needsPrevious(Word name, Place place) {
        problems.add(
                place,
                "type 3 keeps the previous value in a column of its own; name it: " + name
                        + ": {type: 3, previous: former_" + name + "}");
    }

    private Optional<ChangeType> allOthers(Word word) {
        Optional<ChangeType> type = ChangeTypes.of(word, "\"all-others\"", problems);
        if (type.filter(ChangeType.TYPE_3::equals).isPresent()) {
            problems.add(word.place(), "\"all-others\" cannot be type 3, which needs a column for each previous value");
        }
        return type;
    }

    private History history(Node.Mapping mapping) {
        Section section = Section.of(mapping, DimensionForms.HISTORY, problems);
        return new History(
                section.word("effective"),
                section.choice("late", Late.class),
                section.choice("overwrite", Overwrite.class),
                section.word("facts").flatMap(word -> section.choiceOf(word, Facts.class, "facts")));
    }

    private Optional<Word> lastBy(Word word) {
        Matcher lastBy = LAST_BY.matcher(word.text());
        if (lastBy.matches()) {
            return Optional.of(new Word(lastBy.group(1).strip(), word.place()));
        }
        if (!word.text().equals("set-aside")) {
            problems.malformed(
                    word.place(), "\"duplicates\" is \"" + word + "\"; expected set-aside, or last by and a column");
        }
        return Optional.empty();
    }

    enum Absent {
        CLOSE
    }

    private Deletions deletions(Node.Mapping mapping, Optional<Input> from) {
        Section section = Section.of(mapping, DimensionForms.DELETIONS, problems);
        boolean absent = section.has("absent");
        section.choice("absent", Absent.class);
        if (absent && from.isPresent() && from.get().extract() != Input.Extract.FULL) {
            problems.add(
                    section.placeOf("absent"),
                    "\"absent: close\" needs an input that delivers every member; say extract: full in the input \""
                            + from.get().name() + "\"");
        }
        BigDecimal limit = section.word("limit").map(this::percent).orElse(Deletions.USUAL_LIMIT);
        if (absent) {
            from.flatMap(Input::newer)
                    .ifPresent(newer -> problems.add(
                            section.placeOf("absent"),
                            "\"absent: close\" ends members that are not staged, and by \"newer-than: " + newer.column()
                                    + "\" only rows beyond the mark are staged: every other member would end; leave out one of"
                                    + " them"));
        }
        Deletions.Unknown unknown = section.choice("unknown", Deletions.Unknown.class);
        if (unknown == Deletions.Unknown.ADD && !section.has("when")) {
            problems.add(
                    section.placeOf("unknown"),
                    "\"unknown: add\" is of rows that end their member, and nothing says which do; say when: with a condition");
        }
        return new Deletions(section.sql("when"), absent, unknown, limit);
    }

    private BigDecimal percent(Word word) {
        if (SharedForms.SHARE.matcher(word.text()).matches()) {
            return DemandsReader.percent(word);
        }
        problems.malformed(word.place(), "\"limit\" is \"" + word + "\"; expected a share such as 20%");
        return Deletions.USUAL_LIMIT;
    }
}
