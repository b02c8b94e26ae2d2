package dev.zeitkammer.definition.reading;

import static dev.zeitkammer.definition.form.Keyword.of;
import static dev.zeitkammer.definition.form.Keyword.required;
import static dev.zeitkammer.definition.form.Shape.FLAG;
import static dev.zeitkammer.definition.form.Shape.SOME_TEXTS;
import static dev.zeitkammer.definition.form.Shape.TEXT;
import static dev.zeitkammer.definition.form.Shape.TEXTS;
import static dev.zeitkammer.definition.form.Shape.either;
import static dev.zeitkammer.definition.form.Shape.group;
import static dev.zeitkammer.definition.form.Shape.matching;
import static dev.zeitkammer.definition.form.Shape.names;
import static dev.zeitkammer.definition.form.Shape.numberOr;
import static dev.zeitkammer.definition.form.Shape.several;
import static dev.zeitkammer.definition.form.Shape.some;

import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.form.Form;
import dev.zeitkammer.definition.form.Keyword;
import dev.zeitkammer.definition.form.Shape;
import dev.zeitkammer.definition.form.Shape.Range;
import java.util.List;

/** The forms of inputs. */
final class InputForms {

    private static final Keyword DATE_FORMAT = of(
            "date-format",
            TEXTS,
            "How dates are written, such as \"dd.MM.yyyy\"; of several the first that a text fits.");

    private static final Keyword TIMESTAMP_FORMAT =
            of("timestamp-format", TEXTS, "How timestamps are written, such as \"dd.MM.yyyy HH:mm\".");

    private static final Keyword TIME_FORMAT = of("time-format", TEXTS, "How times are written, such as \"HH.mm\".");

    static final Form JSON = Form.of("json", "json", DATE_FORMAT, TIMESTAMP_FORMAT, TIME_FORMAT);

    static final Form CSV = Form.of(
            "csv",
            "csv",
            of("delimiter", TEXT, "One character between values, such as \";\" or \\t; else it is found out."),
            of("header", FLAG, "false: the first line is a row already, and columns lists every column in order."),
            of("null-words", TEXTS, "Unquoted texts that mean null; default: nothing."),
            DATE_FORMAT,
            TIMESTAMP_FORMAT,
            TIME_FORMAT,
            of("decimal", TEXT, "The mark before decimals; default: a point."),
            of("thousands", TEXT, "The mark between groups of three digits; default: none."),
            of("encoding", new Shape.Choice(CsvReader.ENCODINGS), "The encoding of the files; default: utf-8."));

    static final Form JOINED = Form.of(
            "joined-input",
            "an entry of \"with\"",
            required("input", TEXT, "The name of the input that is joined."),
            required(
                    "by",
                    either(SOME_TEXTS, names(TEXT)),
                    "A column that both have, or equations, or pairs of its columns and columns or expressions of the from input."),
            of("optional", FLAG, "true: rows without a partner stay, with nothing in its columns."),
            of(
                    "without-partner",
                    Section.choice(Input.WithoutPartner.class),
                    "What becomes of rows that find nobody: set aside (default), they wait, or are left out."));

    static final Form JOIN = Form.of(
            "join",
            "join",
            required("from", TEXT, "The name of the input whose rows are loaded."),
            required("with", some(group(JOINED)), "The inputs that are joined to it."));

    static final Form KEEP = Form.of(
            "keep",
            "keep",
            required("by", SOME_TEXTS, "The columns that identify a row."),
            of(
                    "order",
                    TEXT,
                    "The column by whose greatest value the latest row is known; default: the one delivered last."),
            of(
                    "compare",
                    SOME_TEXTS,
                    "The columns in which a row must differ from the kept one to be written over it; default: any."),
            of("when", TEXT, "SQL; a row for which it holds takes the kept one away."));

    private static final List<Keyword> BODY = List.of(
            of(
                    "files",
                    TEXT,
                    "A path or glob, in which {date} is the load date and {time} its hours and minutes; all files that match are one delivery."),
            of("csv", group(CSV), "The form of delimited files."),
            of("json", group(JSON), "How texts in JSON write dates and times."),
            of(
                    "time-zone",
                    matching(CsvReader.ZONE, "Europe/Zurich", "Europe/Zurich in UTC"),
                    "Of timestamps in texts: they are stored in the local time of this zone, or in UTC; default: as they are written, and none has an offset."),
            of("table", TEXT, "Instead of files: a table or view of the warehouse, or with database of another one."),
            of("query", TEXT, "Instead of files: a query in the warehouse, which sees the other inputs as tables."),
            of("join", group(JOIN), "Instead of files: a join of other inputs."),
            of(
                    "database",
                    TEXT,
                    "The operational database, of those in zeitkammer.yaml, that the table or query is read from."),
            of("columns", names(SharedForms.TYPE), "Types of columns that inference should not decide."),
            of("where", TEXT, "SQL over the staged columns; other rows are not staged."),
            of("trim", FLAG, "Takes spaces around texts off; empty is null."),
            of(
                    "extract",
                    Section.choice(Input.Extract.class),
                    "full: a delivery holds every member, so that a missing one means something."),
            of("required", FLAG, "A missing file is an error."),
            of("newer-than", TEXT, "A running column: only rows beyond the greatest value that was loaded are staged."),
            of(
                    "overlap",
                    numberOr(Range.whole(0, 999_999_999), InputReader.OVERLAP, "2 days"),
                    "With newer-than: how far before that value to read again."),
            of("retain", FLAG, "Keeps the staged rows of the last load as a table."),
            of("keep", group(KEEP), "The input remembers the latest row of each key over all its deliveries."),
            of(Section.ASSERT, several(group(SharedForms.ASSERTIONS_OF_INPUTS)), "What its staged rows must be."));

    /** An input inside another definition. */
    static final Form INLINE =
            Form.of("inline-input", "an inline input").and(BODY).exactlyOne(InputReader.ORIGINS);

    /** An input in a file of its own. */
    static final Form INPUT = Form.of("input", "an input", required("input", TEXT, "The input's name."))
            .and(BODY)
            .exactlyOne(InputReader.ORIGINS);

    /** The name of an input, or one written here. */
    static final Shape FROM = either(TEXT, group(INLINE));

    private InputForms() {}
}
