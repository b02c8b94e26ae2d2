package dev.zeitkammer.definition;

import dev.zeitkammer.definition.Dimension.Surrogate;
import dev.zeitkammer.definition.History.Late;
import java.math.BigDecimal;
import java.time.DateTimeException;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;

/** Reads one dimension. */
final class DimensionReader {

    private static final Pattern SPAN = Pattern.compile("(\\d{4}-\\d\\d-\\d\\d)\\.\\.(\\d{4}-\\d\\d-\\d\\d)");
    private static final Pattern PERCENT = Pattern.compile("(\\d{1,3}(?:\\.\\d{1,3})?) ?%");
    private static final String LANGUAGES = "such as en, de, fr or it";

    private enum Kind {
        MEMBERS,
        CALENDAR
    }

    private final Problems problems;
    private final InputNames inputs;

    DimensionReader(Problems problems, InputNames inputs) {
        this.problems = problems;
        this.inputs = inputs;
    }

    Optional<Dimension> read(Node.Mapping mapping) {
        return kind(mapping) == Kind.CALENDAR ? calendar(mapping) : members(mapping);
    }

    private Kind kind(Node.Mapping mapping) {
        return Section.ofNames(mapping, problems).choice("kind", Kind.class);
    }

    private Optional<Dimension> members(Node.Mapping mapping) {
        Section section = Section.of(
                mapping,
                "a dimension",
                problems,
                "dimension",
                "kind",
                "table",
                "from",
                "key",
                "attributes",
                "all-others",
                "history",
                "deletions",
                "surrogate");
        Optional<Word> name = section.required("dimension", "the dimension's name");
        Optional<Input> from = name.flatMap(owner -> inputs.from(section, owner));
        List<Word> key = key(section);
        List<Attribute> attributes =
                section.mapping("attributes").map(this::attributes).orElse(List.of());
        Optional<ChangeType> allOthers = section.word("all-others").flatMap(word -> changeType(word, "\"all-others\""));
        History history = section.mapping("history").map(this::history).orElse(History.BY_LOAD_DATE);
        Deletions deletions =
                section.mapping("deletions").map(ends -> deletions(ends, from)).orElse(Deletions.NONE);
        Surrogate surrogate = section.choice("surrogate", Surrogate.class);
        if (attributes.isEmpty() && allOthers.isEmpty() && !section.has("attributes")) {
            problems.add(section.place(), "a dimension needs \"attributes\" or \"all-others\"");
        }
        return name.map(known -> new Dimension(
                known,
                tableName(section, known),
                from,
                key,
                attributes,
                allOthers,
                history,
                deletions,
                surrogate,
                Optional.empty()));
    }

    static String tableName(Section section, Word name) {
        return section.word("table").map(Word::text).orElse("dim_" + name.text());
    }

    private List<Word> key(Section section) {
        if (!section.has("key")) {
            problems.add(section.place(), "\"key\" is missing; expected the column or columns of the business key");
        }
        return section.words("key");
    }

    private List<Attribute> attributes(Node.Mapping mapping) {
        List<Attribute> attributes = new ArrayList<>();
        for (Node.Entry entry : mapping.entries().values()) {
            attribute(entry).ifPresent(attributes::add);
        }
        return attributes;
    }

    private Optional<Attribute> attribute(Node.Entry entry) {
        if (entry.value() instanceof Node.Mapping details) {
            Section section = Section.of(details, "an attribute", problems, "type", "as", "take");
            Optional<ChangeType> type = section.required("type", "0, 1 or 2")
                    .flatMap(word -> changeType(word, "the type of \"" + entry.keyword() + "\""));
            return type.map(known -> new Attribute(entry.keyword(), known, section.type("as"), section.word("take")));
        }
        Section section = Section.ofNames(
                new Node.Mapping(new LinkedHashMap<>(), entry.value().place()), problems);
        return section.wordOf(entry.value(), "the attribute \"" + entry.keyword() + "\"")
                .flatMap(word -> changeType(word, "the attribute \"" + entry.keyword() + "\""))
                .map(type -> new Attribute(entry.keyword(), type, Optional.empty(), Optional.empty()));
    }

    private Optional<ChangeType> changeType(Word word, String what) {
        String digit = word.text().replaceFirst("^type +", "");
        Optional<ChangeType> found = Arrays.stream(ChangeType.values())
                .filter(type -> digit.equals(String.valueOf(type.ordinal())))
                .findFirst();
        if (found.isEmpty()) {
            String valid =
                    Arrays.stream(ChangeType.values()).map(ChangeType::word).collect(Collectors.joining(", "));
            problems.add(word.place(), what + " is \"" + word + "\"; expected one of: " + valid);
        }
        return found;
    }

    private History history(Node.Mapping mapping) {
        Section section = Section.of(mapping, "history", problems, "effective", "late");
        return new History(section.word("effective"), section.choice("late", Late.class));
    }

    private enum Absent {
        CLOSE
    }

    private Deletions deletions(Node.Mapping mapping, Optional<Input> from) {
        Section section = Section.of(mapping, "deletions", problems, "when", "absent", "limit");
        boolean absent = section.has("absent");
        section.choice("absent", Absent.class);
        if (absent && from.isPresent() && from.get().extract() != Input.Extract.FULL) {
            problems.add(
                    section.placeOf("absent"),
                    "\"absent: close\" needs an input that delivers every member; say extract: full in the input \""
                            + from.get().name() + "\"");
        }
        BigDecimal limit = section.word("limit").map(this::percent).orElse(Deletions.USUAL_LIMIT);
        return new Deletions(section.word("when"), absent, limit);
    }

    private BigDecimal percent(Word word) {
        Matcher share = PERCENT.matcher(word.text());
        if (share.matches() && new BigDecimal(share.group(1)).compareTo(BigDecimal.valueOf(100)) <= 0) {
            return new BigDecimal(share.group(1));
        }
        problems.add(word.place(), "\"limit\" is \"" + word + "\"; expected a share such as 20%");
        return Deletions.USUAL_LIMIT;
    }

    private Optional<Dimension> calendar(Node.Mapping mapping) {
        Section section = Section.of(
                mapping,
                "a calendar",
                problems,
                "dimension",
                "kind",
                "table",
                "days",
                "language",
                "fiscal-year-starts");
        Optional<Word> name = section.required("dimension", "the dimension's name");
        Locale language = section.word("language").map(this::language).orElse(Locale.ENGLISH);
        int fiscal = section.word("fiscal-year-starts").map(this::month).orElse(1);
        Optional<CalendarDays> days = section.required("days", "a span such as 2020-01-01..2030-12-31")
                .flatMap(word -> days(word, language, fiscal));
        return name.map(known -> new Dimension(
                known,
                tableName(section, known),
                Optional.empty(),
                List.of(new Word("day", known.place())),
                List.of(),
                Optional.empty(),
                History.BY_LOAD_DATE,
                Deletions.NONE,
                Surrogate.SEQUENCE,
                Optional.of(days.orElse(new CalendarDays(LocalDate.EPOCH, LocalDate.EPOCH, language, fiscal)))));
    }

    private int month(Word word) {
        if (!word.text().matches("[1-9]|1[0-2]")) {
            problems.add(
                    word.place(),
                    "\"fiscal-year-starts\" is \"" + word + "\"; expected the number of a month, from 1 to 12");
            return 1;
        }
        return Integer.parseInt(word.text());
    }

    private Locale language(Word word) {
        Locale locale = Locale.forLanguageTag(word.text());
        boolean known = Arrays.stream(Locale.getISOLanguages()).anyMatch(locale.getLanguage()::equals);
        if (!known) {
            problems.add(word.place(), "\"" + word + "\" is not a language; expected a language tag " + LANGUAGES);
        }
        return locale;
    }

    private Optional<CalendarDays> days(Word word, Locale language, int fiscal) {
        Matcher span = SPAN.matcher(word.text());
        if (span.matches()) {
            try {
                LocalDate first = LocalDate.parse(span.group(1));
                LocalDate last = LocalDate.parse(span.group(2));
                if (!last.isBefore(first)) {
                    return Optional.of(new CalendarDays(first, last, language, fiscal));
                }
            } catch (DateTimeException notADay) {
                // reported below, like every other span that cannot be read
            }
        }
        problems.add(
                word.place(),
                "\"" + word + "\" is not a span of days; expected FIRST..LAST, as in 2020-01-01..2030-12-31");
        return Optional.empty();
    }
}
