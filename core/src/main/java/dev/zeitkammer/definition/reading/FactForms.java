package dev.zeitkammer.definition.reading;

import static dev.zeitkammer.definition.form.Keyword.of;
import static dev.zeitkammer.definition.form.Keyword.required;
import static dev.zeitkammer.definition.form.Shape.FLAG;
import static dev.zeitkammer.definition.form.Shape.NOTHING;
import static dev.zeitkammer.definition.form.Shape.SOME_TEXTS;
import static dev.zeitkammer.definition.form.Shape.TEXT;
import static dev.zeitkammer.definition.form.Shape.either;
import static dev.zeitkammer.definition.form.Shape.group;
import static dev.zeitkammer.definition.form.Shape.names;
import static dev.zeitkammer.definition.form.Shape.several;

import dev.zeitkammer.definition.Fact;
import dev.zeitkammer.definition.Feed;
import dev.zeitkammer.definition.Lookup;
import dev.zeitkammer.definition.form.Form;
import java.util.List;

/** The forms of facts. */
final class FactForms {

    static final Form LOOKUP = Form.of(
            "lookup-of-fact",
            "a lookup",
            of("dimension", TEXT, "The dimension; default: the role's name."),
            of("column", TEXT, "The column of the key; default: <role>_key."),
            of("member-key", FLAG, "true stores the key that all versions of the member share beside it."),
            of(
                    "match",
                    SharedForms.MATCH,
                    "The staged columns, or expressions over them; default: those named like the dimension's key."),
            of(
                    "as-of",
                    TEXT,
                    "The staged date or timestamp at which the version must be valid; absent: the current version."),
            SharedForms.UNMATCHED,
            SharedForms.BLANK,
            SharedForms.BEFORE_FIRST,
            of(
                    "ended",
                    SharedForms.outcome(Lookup.Ended.class, "stand-in"),
                    "What a member that was deleted becomes; default: match, it is found as ever."),
            SharedForms.WAS,
            SharedForms.ABOUT);

    static final Form MEASURE = Form.of(
            "measure",
            "a measure",
            required("as", SharedForms.TYPE, "The type of its column."),
            of("take", TEXT, "SQL over the staged columns that makes the value."),
            SharedForms.WAS,
            SharedForms.ABOUT);

    static final Form DELETIONS = Form.of(
            "fact-deletions",
            "deletions",
            required("when", TEXT, "SQL over a staged row that says its fact was cancelled."),
            of(
                    "rows",
                    Section.choice(FactReader.Rows.class),
                    "Cancelled facts are removed (default), or stay, marked as deleted."));

    static final Form FEED = Form.of(
            "feed",
            "a feed",
            required("from", InputForms.FROM, "The input."),
            required(
                    "match",
                    SharedForms.MATCH,
                    "Stored columns, or pairs of stored and staged ones, by which facts are found."),
            required("updates", SOME_TEXTS, "The roles, degenerates and measures that the feed writes."),
            of(
                    "without-fact",
                    Section.choice(Feed.WithoutFact.class),
                    "What becomes of a row that finds no fact: set aside (default), or it waits."));

    static final Form FACT = Form.of("fact", "a fact")
            .and(List.of(
                    required("fact", TEXT, "The fact's name."),
                    of("table", TEXT, "The name of the table; default: fact_<name>."),
                    of("standing", FLAG, "Others made the table: what it lacks is added, what stands stays as it is."),
                    required("from", InputForms.FROM, "The input."),
                    of("grain", SharedForms.TAKEN, "The columns that identify a row."),
                    of("append", FLAG, "true, in place of a grain: rows are added and never looked at again."),
                    of("lookups", names(either(NOTHING, group(LOOKUP))), "Roles: how each finds its member."),
                    of("degenerate", SharedForms.TAKEN, "Columns that stand in the fact without a dimension."),
                    of("measures", names(either(SharedForms.TYPE, group(MEASURE))), "What is measured, with its type."),
                    of(
                            "on-repeat",
                            Section.choice(Fact.OnRepeat.class),
                            "What a grain that is there already means: update (default), ignore, or refuse."),
                    of(
                            "feeds",
                            several(group(FEED)),
                            "Further inputs for rows that are there already; they never insert."),
                    of(
                            "replaces",
                            TEXT,
                            "The column of a periodic snapshot: of the delivered periods, rows that are no longer delivered are removed."),
                    of("deletions", group(DELETIONS), "How facts are cancelled."),
                    SharedForms.LAYOUT_KEYWORD))
            .and(SharedForms.OF_TABLES)
            .atLeastOne(List.of("grain", "append"));

    private FactForms() {}
}
