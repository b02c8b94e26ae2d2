package dev.zeitkammer.definition.reading;

import static dev.zeitkammer.definition.form.Keyword.of;
import static dev.zeitkammer.definition.form.Keyword.required;
import static dev.zeitkammer.definition.form.Shape.NOTHING;
import static dev.zeitkammer.definition.form.Shape.SOME_TEXTS;
import static dev.zeitkammer.definition.form.Shape.TEXT;
import static dev.zeitkammer.definition.form.Shape.TEXTS;
import static dev.zeitkammer.definition.form.Shape.either;
import static dev.zeitkammer.definition.form.Shape.group;
import static dev.zeitkammer.definition.form.Shape.matching;
import static dev.zeitkammer.definition.form.Shape.names;
import static dev.zeitkammer.definition.form.Shape.numberOr;
import static dev.zeitkammer.definition.form.Shape.several;

import dev.zeitkammer.definition.Assertion;
import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Lookup;
import dev.zeitkammer.definition.Publish;
import dev.zeitkammer.definition.ReservedMember;
import dev.zeitkammer.definition.form.Form;
import dev.zeitkammer.definition.form.Keyword;
import dev.zeitkammer.definition.form.Shape;
import dev.zeitkammer.definition.form.Shape.Range;
import dev.zeitkammer.engine.SqlType;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import java.util.regex.Pattern;
import java.util.stream.Stream;

/** Forms and shapes that several kinds of definitions have in common. */
final class SharedForms {

    /** A type of a column. */
    static final Shape.Matching TYPE = new Shape.Matching(SqlType.form(), Optional.empty(), SqlType.names());

    /** A share of rows. */
    static final Pattern SHARE = Pattern.compile("([0-9]{1,2}(\\.[0-9]{1,3})?|100) ?%");

    /** A time that something may last, or is kept. */
    static final Pattern KEPT_FOR = Pattern.compile("[0-9]{1,6} (minute|hour|day)s?");

    /** The key of a reserved member. */
    static final Shape RESERVED_KEY =
            numberOr(Range.whole(-999_999_999_999_999_999L, 0), Pattern.compile("0|-[1-9][0-9]{0,17}"), "-3");

    static final Pattern OPEN_END = Pattern.compile("none|[0-9]{4}-[0-9]{2}-[0-9]{2}");

    static final Keyword OPEN_END_KEYWORD = of(
            "open-end",
            matching(OPEN_END, "9999-12-31", "none"),
            "The end of the current version: a date, or none for null. Default: 9999-12-31.");

    static final Keyword VALID_TO_KEYWORD = of(
            "valid-to",
            Section.choice(ConventionsReader.ValidTo.class),
            "exclusive: the instant the next version begins (default); inclusive: the day before, with dates only.");

    static final Keyword SET_ASIDE_LIMIT = of(
            "set-aside-limit",
            matching(SHARE, "5%", "20%"),
            "A table's load stops where more of its staged rows would be set aside.");

    static final Keyword IMAGES = of(
            "images",
            matching(ImagesReader.FORM, "all", "none", "30 loads"),
            "For how many loads rows are kept as they were before, for undo and --known-at. Default: all.");

    static final Keyword WAS =
            of("was", TEXT, "The name that the column had before; align renames the column that is there.");

    static final Keyword ABOUT = of("about", TEXT, "What it means; becomes the comment on the column.");

    static final Form TAKEN_COLUMN = Form.of(
            "taken-column",
            "a column",
            of("take", TEXT, "The staged column of that name where there is one, else an SQL expression."),
            WAS,
            ABOUT);

    /** Columns with what each is taken from: a list, or names with a staged column, an expression or details behind each. */
    static final Shape TAKEN = either(TEXTS, names(either(NOTHING, TEXT, group(TAKEN_COLUMN))));

    static final Keyword UNMATCHED = of(
            "unmatched",
            outcome(Lookup.Unmatched.class, "stand-in"),
            "What a value that no member has becomes; default: unknown.");

    static final Keyword BLANK =
            of("blank", outcome(Lookup.Blank.class, "stand-in"), "What no value becomes; default: not-applicable.");

    static final Keyword BEFORE_FIRST = of(
            "before-first",
            Section.choice(Lookup.BeforeFirst.class),
            "What a date before the member's first version finds: first (default) or unmatched.");

    /** Stored columns: a list, or pairs of stored columns and the staged columns or expressions that they must equal. */
    static final Shape MATCH = either(SOME_TEXTS, names(TEXT));

    static final Form AUDIT_COLUMNS = columns();

    /** The audit columns and what they are called. */
    static final Keyword COLUMNS =
            of("columns", group(AUDIT_COLUMNS), "Other names for audit columns, and values of flags.");

    static final Form ASSERTED_TOTAL = Form.of(
            "asserted-total",
            "equals",
            required("input", TEXT, "The input whose delivery has one row that says the total."),
            required("take", TEXT, "SQL over its staged columns."));

    private static final List<Keyword> ASSERTIONS_OF_ROWS = List.of(
            of("name", TEXT, "What outputs and the journal call it."),
            of("rows", TEXT, "A condition over single rows, in SQL; one that is not known is no failure."),
            of("unique", TEXTS, "Columns that tell all rows apart."),
            of("values", TEXTS, "The only values that the column may have."),
            of("of", TEXT, "With values: the column."),
            of("total", TEXT, "A sum over the rows, in SQL."),
            of("equals", group(ASSERTED_TOTAL), "With total: where it is said what the sum must be."),
            of(
                    "within",
                    numberOr(new Range(0, Long.MAX_VALUE, false), Pattern.compile("[0-9]+(\\.[0-9]+)?"), "0.01"),
                    "With equals: by how much they may differ."),
            of(
                    "otherwise",
                    Section.choice(Assertion.Otherwise.class),
                    "What follows where it is not met: set-aside (rows and values of inputs), stop, or note."));

    /** What is asserted of staged rows. */
    static final Form ASSERTIONS_OF_INPUTS = Form.of("assertion-of-input", "an assertion")
            .and(ASSERTIONS_OF_ROWS)
            .and(List.of(
                    of(
                            "staged",
                            matching(
                                    Pattern.compile(
                                            "[0-9]+(\\.[0-9]+)?\\.\\.([0-9]+(\\.[0-9]+)?)?|\\.\\.[0-9]+(\\.[0-9]+)?"),
                                    "1..",
                                    "1000..5000"),
                            "How many rows a delivery has."),
                    of(
                            "against-last",
                            matching(
                                    Pattern.compile(
                                            "[0-9.]+%?\\.\\.([0-9.]+%)?|[0-9.]*%\\.\\.[0-9.]*%?|\\.\\.[0-9.]+%"),
                                    "50%..200%"),
                            "How many rows a delivery has, against the last load that was done.")))
            .exactlyOne(AssertionReader.OF_INPUTS);

    /** What is asserted of a table. */
    static final Form ASSERTIONS_OF_TABLES = Form.of("assertion-of-table", "an assertion")
            .and(ASSERTIONS_OF_ROWS)
            .exactlyOne(AssertionReader.OF_ROWS);

    static final Form PUBLISH = Form.of(
            "publish",
            "publish",
            of("to", TEXT, "The folder; default: published/{table}. {warehouse} is the name of the warehouse."),
            of("as", Section.choice(Publish.Form.class), "The form of the files; default: parquet."),
            of(
                    "formulas",
                    Section.choice(PublishReader.Formulas.class),
                    "With as: csv, texts that begin like a formula are kept (default), or quoted by an apostrophe."),
            of("partition", TEXTS, "Columns by whose values folders are made."),
            of(
                    "versions",
                    Section.choice(PublishReader.Versions.class),
                    "All versions (default), or the current ones."),
            of("keep-for", matching(KEPT_FOR, "1 day"), "How long replaced files stay; default: 1 day."));

    static final Form LAYOUT = Form.of(
            "layout",
            "layout",
            of(
                    "partition",
                    TEXTS,
                    "A column, or year, month, day or hour of one, or bucket(16, column), or a list of these."),
            of("sort", TEXTS, "The columns by which rows are sorted in files."));

    static final Keyword LAYOUT_KEYWORD = of("layout", group(LAYOUT), "How rows lie in files on a cluster.");

    /** What dimensions and facts have in common. */
    static final List<Keyword> OF_TABLES = List.of(
            COLUMNS,
            of(
                    "constraints",
                    Section.choice(TermsReader.Constraints.class),
                    "enforced: a database that keeps keys holds them."),
            of(Section.ASSERT, several(group(ASSERTIONS_OF_TABLES)), "What the table must be once it is loaded."),
            SET_ASIDE_LIMIT,
            of("publish", group(PUBLISH), "Writes the table out as open files after each load that changed it."),
            of("after", TEXTS, "Tables that must be loaded before, where nobody can see it."),
            IMAGES,
            of("known-view", TEXT, "The name of a view of everything that the table has ever said, load by load."),
            of("about", TEXT, "What it is; becomes the comment on the table."));

    private SharedForms() {}

    private static Form columns() {
        Form columns = Form.of("audit-columns", "columns");
        for (AuditColumn column : AuditColumn.values()) {
            String name = column.columnName();
            columns = columns.and(List.of(of(
                    name, either(TEXT, group(auditColumn(column))), "What the column " + name + " is called here.")));
        }
        return columns;
    }

    /** The form of an audit column with details. */
    static Form auditColumn(AuditColumn column) {
        String name = column.columnName();
        Form form = Form.of(
                "audit-column-" + name.replace('_', '-'), "the column " + name, of("column", TEXT, "Its name."));
        return ConventionsReader.FLAGS.contains(column)
                ? form.and(List.of(
                                of("true", TEXT, "The value that stands for yes, such as \"Y\" or 1."),
                                of("false", TEXT, "The value that stands for no, such as \"N\" or 0.")))
                        .allOrNone(List.of("true", "false"))
                : form;
    }

    /** Words that lookups know for what becomes of a row, beside the names of reserved members. */
    static <E extends Enum<E>> Shape outcome(Class<E> type, String standIn) {
        return new Shape.Suggested(Stream.concat(
                        Stream.of(ReservedMember.UNKNOWN, ReservedMember.NOT_APPLICABLE),
                        Arrays.stream(type.getEnumConstants())
                                .map(Section::kebab)
                                .filter(word -> !word.equals(standIn)))
                .toList());
    }
}
