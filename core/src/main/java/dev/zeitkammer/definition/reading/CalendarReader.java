package dev.zeitkammer.definition.reading;

import dev.zeitkammer.definition.Attribute;
import dev.zeitkammer.definition.Attribute.Missing;
import dev.zeitkammer.definition.CalendarDays;
import dev.zeitkammer.definition.ChangeType;
import dev.zeitkammer.definition.Deletions;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Dimension.Kind;
import dev.zeitkammer.definition.History;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Place;
import dev.zeitkammer.definition.Problems;
import dev.zeitkammer.definition.ReservedMember;
import dev.zeitkammer.definition.SurrogateKey;
import dev.zeitkammer.definition.Taken;
import dev.zeitkammer.definition.Terms;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.SqlType;
import java.time.DateTimeException;
import java.time.DayOfWeek;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** Reads a calendar: the days of a span, or the minutes of a day. */
final class CalendarReader {

    static final Pattern SPAN = Pattern.compile("(\\d{4}-\\d\\d-\\d\\d)\\.\\.(\\d{4}-\\d\\d-\\d\\d)");
    private static final String LANGUAGES = "such as en, de, fr or it";

    private final Problems problems;
    private final InputNames inputs;
    private final TermsReader terms;

    CalendarReader(Problems problems, InputNames inputs, TermsReader terms) {
        this.problems = problems;
        this.inputs = inputs;
        this.terms = terms;
    }

    enum Grain {
        DAY,
        MINUTE
    }

    Optional<Dimension> read(Node.Mapping mapping) {
        Grain grain = Section.ofNames(mapping, problems).choice("grain", Grain.class);
        return grain == Grain.DAY ? days(mapping) : minutes(mapping);
    }

    private Optional<Dimension> days(Node.Mapping mapping) {
        Section section = Section.of(mapping, DimensionForms.CALENDAR, problems);
        Optional<CalendarDays> days = section.required("days", "a span such as 2020-01-01..2030-12-31")
                .flatMap(word -> days(word, section));
        Optional<Input> holidays = section.node("holidays").flatMap(node -> holidays(section, node));
        if (section.has("from") && section.has("holidays")) {
            problems.add(
                    section.placeOf("holidays"),
                    "a calendar takes its days' columns from one place: bring holidays in the file of \"from\" as attributes,"
                            + " or leave one of them out");
        }
        if (section.has("from")
                && attributes(section).stream()
                        .allMatch(attribute -> attribute.take().isPresent())) {
            problems.add(
                    section.placeOf("from"),
                    "nothing is taken from this file of days: name its columns under attributes:, such as season: {as: varchar}");
        }
        Optional<Input> from = section.has("from")
                ? section.word("dimension").flatMap(owner -> inputs.from(section, owner))
                : holidays;
        return made(section, Kind.CALENDAR, "day", from, days);
    }

    private Optional<Dimension> minutes(Node.Mapping mapping) {
        Section section = Section.of(mapping, DimensionForms.MINUTES, problems);
        return made(section, Kind.MINUTES, "minute", Optional.empty(), Optional.empty());
    }

    /** A file with the columns day and name, or an inline input that says more about it. */
    private Optional<Input> holidays(Section section, Node node) {
        Word owner = new Word("holidays", node.place());
        if (node instanceof Node.Mapping inline) {
            return inputs.inline(inline, owner);
        }
        return section.wordOf(node, "\"holidays\"").flatMap(file -> {
            LinkedHashMap<String, Node.Entry> entries = new LinkedHashMap<>();
            entries.put("files", entry("files", file.text(), file.place()));
            entries.put("required", entry("required", "true", file.place()));
            return inputs.inline(new Node.Mapping(entries, file.place()), owner);
        });
    }

    private static Node.Entry entry(String keyword, String value, Place place) {
        return new Node.Entry(new Word(keyword, place), new Node.Scalar(value, true, place));
    }

    private Optional<Dimension> made(
            Section section, Kind kind, String key, Optional<Input> from, Optional<CalendarDays> days) {
        Optional<Word> name = section.required("dimension", "the dimension's name");
        Terms said = terms.read(
                section,
                name.map(known -> DimensionReader.tableName(section, known)).orElse(""));
        return name.map(known -> new Dimension(
                known,
                DimensionReader.tableName(section, known),
                kind,
                from,
                List.of(new Word(key, known.place())),
                Taken.AS_NAMED,
                attributes(section),
                Optional.empty(),
                History.BY_LOAD_DATE,
                Deletions.NONE,
                Optional.empty(),
                SurrogateKey.counted(known),
                false,
                List.of(),
                false,
                days,
                reserved(section, days, said),
                DimensionReader.views(section),
                Optional.empty(),
                said));
    }

    private List<ReservedMember> reserved(Section section, Optional<CalendarDays> days, Terms said) {
        List<ReservedMember> members = new ReservedReader(problems, said.conventions()).read(section);
        if (days.isEmpty()) {
            members.stream()
                    .filter(member -> member.key() == 0)
                    .forEach(member -> problems.add(
                            section.place(),
                            "the reserved member \"" + member.name()
                                    + "\" has the key 0, which is that of midnight; give it another one: reserved: {"
                                    + member.name() + ": {key: -1}}"));
        }
        return members;
    }

    /** Further columns: computed of the calendar's own, or brought by a file of days. */
    private List<Attribute> attributes(Section section) {
        List<Attribute> attributes = new ArrayList<>();
        section.mapping("attributes").ifPresent(mapping -> {
            for (Node.Entry entry : mapping.entries().values()) {
                section.mappingOf(entry.value(), "the attribute \"" + entry.keyword() + "\"")
                        .ifPresent(details -> attributes.add(attribute(entry.keyword(), details, section)));
            }
        });
        return attributes;
    }

    private Attribute attribute(Word name, Node.Mapping details, Section calendar) {
        Section each = Section.of(details, DimensionForms.CALENDAR_ATTRIBUTE, problems);
        Optional<Word> take = each.sql("take");
        if (take.isEmpty() && !each.has("take") && !calendar.has("from")) {
            problems.add(
                    name.place(),
                    "\"" + name
                            + "\" comes from nowhere: say take: with an expression over the calendar's columns, or from:"
                            + " for a file of days that has it");
        }
        return new Attribute(
                name,
                ChangeType.TYPE_1,
                each.type("as").or(() -> Optional.of(SqlType.VARCHAR)),
                take,
                Optional.empty(),
                Optional.empty(),
                each.word("about"),
                Missing.STOP);
    }

    private Optional<CalendarDays> days(Word word, Section section) {
        Locale language = section.word("language").map(this::language).orElse(Locale.ENGLISH);
        int fiscal = section.word("fiscal-year-starts").map(this::month).orElse(1);
        DayOfWeek weekStarts = section.choice("week-starts", DayOfWeek.class);
        Matcher span = SPAN.matcher(word.text());
        if (span.matches()) {
            try {
                LocalDate first = LocalDate.parse(span.group(1));
                LocalDate last = LocalDate.parse(span.group(2));
                if (!last.isBefore(first)) {
                    return Optional.of(
                            new CalendarDays(first, last, language, fiscal, weekStarts, section.flag("week-numbers")));
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

    private int month(Word word) {
        if (!word.text().matches("[1-9]|1[0-2]")) {
            problems.malformed(
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
}
