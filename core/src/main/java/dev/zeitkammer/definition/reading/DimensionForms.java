package dev.zeitkammer.definition.reading;

import static dev.zeitkammer.definition.form.Keyword.of;
import static dev.zeitkammer.definition.form.Keyword.required;
import static dev.zeitkammer.definition.form.Shape.FLAG;
import static dev.zeitkammer.definition.form.Shape.NOTHING;
import static dev.zeitkammer.definition.form.Shape.SOME_TEXTS;
import static dev.zeitkammer.definition.form.Shape.TEXT;
import static dev.zeitkammer.definition.form.Shape.either;
import static dev.zeitkammer.definition.form.Shape.group;
import static dev.zeitkammer.definition.form.Shape.matching;
import static dev.zeitkammer.definition.form.Shape.names;
import static dev.zeitkammer.definition.form.Shape.numberOr;

import dev.zeitkammer.definition.Attribute;
import dev.zeitkammer.definition.Deletions;
import dev.zeitkammer.definition.History;
import dev.zeitkammer.definition.ReservedMember;
import dev.zeitkammer.definition.form.Form;
import dev.zeitkammer.definition.form.Keyword;
import dev.zeitkammer.definition.form.Shape;
import dev.zeitkammer.definition.form.Shape.Range;
import java.time.DayOfWeek;
import java.util.List;
import java.util.regex.Pattern;

/** The forms of dimensions: with members that are delivered, combinations, calendars of days and of minutes. */
final class DimensionForms {

    private static final Shape CHANGE_TYPE =
            numberOr(Range.whole(0, 3), ChangeTypes.FORM, "type 0", "type 1", "type 2", "type 3");

    private static final Keyword AS = of("as", SharedForms.TYPE, "The type of its column.");

    private static final Keyword TAKE = of("take", TEXT, "SQL over the staged columns that makes the value.");

    private static final Keyword MISSING = of(
            "missing",
            Section.choice(Attribute.Missing.class),
            "What becomes of it where a delivery has no such column: the load stops (default), members keep what they have (keep), or it has no value (none).");

    static final Form ATTRIBUTE = Form.of(
            "attribute",
            "an attribute",
            required(
                    "type",
                    CHANGE_TYPE,
                    "0 keeps the first value, 1 overwrites, 2 opens a new version, 3 overwrites and keeps the previous value."),
            AS,
            TAKE,
            of("previous", TEXT, "Of type 3: the column for the previous value."),
            MISSING,
            SharedForms.WAS,
            SharedForms.ABOUT);

    static final Form COMBINED_ATTRIBUTE =
            Form.of("combined-attribute", "an attribute of a combination", AS, TAKE, SharedForms.ABOUT);

    static final Form CALENDAR_ATTRIBUTE = Form.of(
            "calendar-attribute",
            "an attribute of a calendar",
            AS,
            of("take", TEXT, "SQL over the calendar's columns, and those of the file of days."),
            SharedForms.ABOUT);

    static final Form HISTORY = Form.of(
            "history",
            "history",
            of("effective", TEXT, "The staged column that says from when a row holds; default: the load date."),
            of(
                    "late",
                    Section.choice(History.Late.class),
                    "What becomes of rows older than what is known: spliced in (default), set aside, or the load stops."),
            of(
                    "overwrite",
                    Section.choice(History.Overwrite.class),
                    "Whether type 1 overwrites all versions (default) or the current one."),
            of("facts", Section.choice(History.Facts.class), "Whether facts follow a version that came late."),
            SharedForms.OPEN_END_KEYWORD,
            SharedForms.VALID_TO_KEYWORD);

    static final Form DELETIONS = Form.of(
            "deletions",
            "deletions",
            of("when", TEXT, "SQL over a staged row that says its member has ended."),
            of(
                    "absent",
                    Section.choice(DimensionReader.Absent.class),
                    "close: a member that a full extract lacks has ended."),
            of(
                    "unknown",
                    Section.choice(Deletions.Unknown.class),
                    "Of a member whose first row ends it: nothing (ignore, default), or it is kept as one that has ended (add)."),
            of(
                    "limit",
                    matching(SharedForms.SHARE, "20%"),
                    "The most members that may be absent at once; default: 20%."));

    static final Form SURROGATE = Form.of(
            "surrogate",
            "the surrogate key",
            of("column", TEXT, "Its column; default: <name>_key."),
            of("by", Section.choice(DimensionReader.Counted.class), "How it is made: counted (default), or as a hash."),
            of("take", TEXT, "SQL that makes it from the staged row; of dimensions without versions."));

    static final Form LOOKUP = Form.of(
            "lookup-of-dimension",
            "a lookup",
            of("dimension", TEXT, "The dimension that is looked up; default: the role's name."),
            of("column", TEXT, "The column of the key; default: <role>_key."),
            of("match", SharedForms.MATCH, "The staged columns, or expressions over them, that are its business key."),
            required("type", CHANGE_TYPE, "What a changed key does: 0, 1 or 2."),
            SharedForms.UNMATCHED,
            SharedForms.BLANK,
            SharedForms.BEFORE_FIRST,
            of("hierarchy", FLAG, "true: the parent in this dimension, of which a bridge table is kept."),
            SharedForms.WAS,
            SharedForms.ABOUT);

    private static final Keyword OWN_KEY = of(
            "key",
            SharedForms.RESERVED_KEY,
            "Its surrogate key, a negative number or 0; default: that of the project.");

    private static final List<Keyword> OF_DIMENSIONS = List.of(
            required("dimension", TEXT, "The dimension's name."),
            of("kind", Section.choice(DimensionReader.Kinds.class), "members (default), calendar or combination."),
            of("table", TEXT, "The name of the table; default: dim_<name>."),
            of(
                    "reserved",
                    names(
                            names(
                                    TEXT,
                                    required(
                                            "key",
                                            SharedForms.RESERVED_KEY,
                                            "Its surrogate key, a negative number or 0.")),
                            of(ReservedMember.UNKNOWN, names(TEXT, OWN_KEY), "The member of values that match nobody."),
                            of(ReservedMember.NOT_APPLICABLE, names(TEXT, OWN_KEY), "The member of no value.")),
                    "Values and keys of the members that stand in (unknown, not-applicable), and further ones, each with its key."),
            of("current-view", TEXT, "The name of a view of the current versions."),
            of("role-views", names(TEXT), "Roles, and for each the name of a view whose columns begin with it."));

    static final Form MEMBERS = Form.of("dimension", "a dimension")
            .and(OF_DIMENSIONS)
            .and(List.of(
                    of("standing", FLAG, "Others made the table: what it lacks is added, what stands stays as it is."),
                    required("from", InputForms.FROM, "The input."),
                    required("key", SharedForms.TAKEN, "The column or columns of the business key."),
                    of(
                            "attributes",
                            names(either(CHANGE_TYPE, group(ATTRIBUTE))),
                            "The attributes, in the order of the table."),
                    MISSING,
                    of("all-others", CHANGE_TYPE, "The type of every further staged column."),
                    of("history", group(HISTORY), "How versions come about."),
                    of("deletions", group(DELETIONS), "How members end."),
                    of(
                            "duplicates",
                            matching(DimensionReader.DUPLICATES, "set-aside", "last by sent_on"),
                            "What rows of equal key and effective date with different values become: set aside, or the last by a column counts."),
                    of(
                            "surrogate",
                            either(Section.choice(DimensionReader.Counted.class), group(SURROGATE)),
                            "The surrogate key: sequence (default), hash, or details."),
                    of(
                            "member-key",
                            FLAG,
                            "true adds <name>_member_key, which is the same in all versions of a member."),
                    of("lookups", names(either(NOTHING, group(LOOKUP))), "Keys of other dimensions, by role."),
                    SharedForms.LAYOUT_KEYWORD))
            .and(SharedForms.OF_TABLES)
            .atLeastOne(List.of("attributes", "all-others", "lookups"));

    static final Form OTHERS_LOAD = Form.of(
            "others-load",
            "others-load",
            required("key", TEXT, "The column of its surrogate key."),
            of("current", TEXT, "SQL over its columns that holds for the current row of a member."),
            of("from", TEXT, "Its column with the date or moment from which a row holds."),
            of(
                    "until",
                    TEXT,
                    "Its column with the date or moment until which a row holds; default: until the member's next row begins."));

    private static final Form OTHERS_HISTORY = Form.of(
            "history-of-others",
            "history",
            of("facts", Section.choice(History.Facts.class), "Whether facts follow its changes; default: they stay."),
            SharedForms.OPEN_END_KEYWORD,
            SharedForms.VALID_TO_KEYWORD);

    static final Form OTHERS = Form.of("dimension-of-others", "a dimension that others load")
            .and(List.of(
                    required("dimension", TEXT, "The dimension's name."),
                    of("table", TEXT, "Its table, with the schema where it needs one; default: dim_<name>."),
                    required("key", SharedForms.TAKEN, "The column or columns of the business key."),
                    required(
                            "others-load",
                            group(OTHERS_LOAD),
                            "Others load it: how its rows are known. It is only looked up."),
                    of("history", group(OTHERS_HISTORY), "How its rows end, and whether facts follow them."),
                    of(
                            "reserved",
                            names(names(
                                    TEXT,
                                    required(
                                            "key",
                                            SharedForms.RESERVED_KEY,
                                            "Its surrogate key, a negative number or 0."))),
                            "The keys of its rows that stand in (unknown, not-applicable, and others by name)."),
                    of("about", TEXT, "What it is.")));

    static final Form COMBINATION = Form.of("combination", "a combination")
            .and(OF_DIMENSIONS)
            .and(List.of(
                    of("from", InputForms.FROM, "The input."),
                    required(
                            "attributes",
                            either(SOME_TEXTS, names(either(NOTHING, TEXT, group(COMBINED_ATTRIBUTE)))),
                            "The columns whose distinct combinations are its members."),
                    of(
                            "surrogate",
                            either(Section.choice(DimensionReader.Counted.class), group(SURROGATE)),
                            "The surrogate key: sequence (default), hash, or details.")))
            .and(SharedForms.OF_TABLES);

    private static final Keyword GRAIN =
            of("grain", Section.choice(CalendarReader.Grain.class), "What a member is: a day (default) or a minute.");

    static final Form CALENDAR = Form.of("calendar", "a calendar")
            .and(OF_DIMENSIONS)
            .and(List.of(
                    GRAIN,
                    required(
                            "days",
                            matching(CalendarReader.SPAN, "2020-01-01..2030-12-31"),
                            "The first and the last day."),
                    of("language", TEXT, "Of the names of months and days, such as en, de, fr or it."),
                    of(
                            "fiscal-year-starts",
                            numberOr(Range.whole(1, 12), Pattern.compile("[1-9]|1[0-2]"), "7"),
                            "The month with which a fiscal year begins; default: 1."),
                    of("week-starts", Section.choice(DayOfWeek.class), "The first day of the week; default: monday."),
                    of("week-numbers", FLAG, "true adds week_number, counted from the week of 1 January."),
                    of("from", InputForms.FROM, "A file of days, with a column day and others."),
                    of("attributes", names(group(CALENDAR_ATTRIBUTE)), "Further columns: of that file, or computed."),
                    of("holidays", InputForms.FROM, "A file with the columns day and name, or an inline input.")))
            .and(SharedForms.OF_TABLES);

    static final Form MINUTES = Form.of("calendar-of-minutes", "a calendar of minutes")
            .and(OF_DIMENSIONS)
            .and(List.of(GRAIN))
            .and(SharedForms.OF_TABLES);

    private DimensionForms() {}
}
