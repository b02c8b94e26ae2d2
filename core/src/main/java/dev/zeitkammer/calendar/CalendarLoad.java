package dev.zeitkammer.calendar;

import dev.zeitkammer.definition.Attribute;
import dev.zeitkammer.definition.CalendarDays;
import dev.zeitkammer.definition.DefinitionException;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Place;
import dev.zeitkammer.definition.Problem;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.dimension.ComputedMembers;
import dev.zeitkammer.dimension.table.DimensionColumn;
import dev.zeitkammer.dimension.table.DimensionColumn.Role;
import dev.zeitkammer.engine.Counted;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.WarehouseException;
import dev.zeitkammer.staging.StagedRows;
import dev.zeitkammer.staging.Wanted;
import dev.zeitkammer.step.Expressions;
import dev.zeitkammer.step.Step;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/**
 * Loads a calendar: a day's key is its date as the number yyyymmdd; ISO weeks are those of ISO 8601. Holidays come from staged
 * rows of day and name.
 */
public final class CalendarLoad extends ComputedMembers {

    /** The column of a day in files of days and of holidays. */
    public static final String DAY = "day";
    /** The column of a holiday's name. */
    public static final String NAME = "name";

    private final CalendarDays days;
    private final boolean hasHolidays;
    private final Warehouse warehouse;
    private final Dialect dialect;
    private final Dimension calendar;
    private final List<Attribute> brought;
    private final String computed;

    public CalendarLoad(Dimension definition, Warehouse warehouse) {
        super(definition, warehouse, columns(definition));
        this.days = definition.calendar().orElseThrow();
        this.hasHolidays = hasHolidays(definition);
        this.brought = bringsAttributes(definition)
                ? definition.attributes().stream()
                        .filter(each -> each.take().isEmpty())
                        .toList()
                : List.of();
        this.warehouse = warehouse;
        this.dialect = warehouse.dialect();
        this.calendar = definition;
        this.computed = computed();
    }

    private static List<DimensionColumn> columns(Dimension definition) {
        return Stream.concat(
                        own(definition).map(CalendarLoad::column),
                        definition.attributes().stream()
                                .map(attribute -> DimensionColumn.of(
                                        attribute, attribute.as().orElse(SqlType.VARCHAR))))
                .toList();
    }

    /** The names of the columns that the calendar makes itself. */
    public static List<String> names(Dimension definition) {
        return own(definition).map(CalendarColumn::columnName).toList();
    }

    /** The columns that every such calendar has. */
    private static Stream<CalendarColumn> own(Dimension definition) {
        CalendarDays days = definition.calendar().orElseThrow();
        return Arrays.stream(CalendarColumn.values())
                .filter(column -> hasHolidays(definition) || !column.isOfHolidays())
                .filter(column -> days.weekNumbers() || column != CalendarColumn.WEEK_NUMBER);
    }

    /** Whether the rows that it stages are holidays; those of a file of days bring attributes. */
    private static boolean hasHolidays(Dimension definition) {
        return definition.from().isPresent() && !bringsAttributes(definition);
    }

    private static boolean bringsAttributes(Dimension definition) {
        return definition.from().isPresent()
                && definition.attributes().stream()
                        .anyMatch(attribute -> attribute.take().isEmpty());
    }

    private static DimensionColumn column(CalendarColumn column) {
        Role role = column == CalendarColumn.DAY ? Role.KEY : Role.TYPE_1;
        return DimensionColumn.plain(column.columnName(), column.type(), role);
    }

    @Override
    public void want(Wanted wanted) {
        Place place = calendar.name().place();
        String purpose = hasHolidays ? "holidays" : "the days of a calendar";
        wanted.moment(new Word(DAY, place), purpose);
        if (hasHolidays) {
            wanted.column(new Word(NAME, place), purpose, Optional.empty());
        }
        brought.forEach(attribute -> wanted.column(attribute.name(), "attribute", attribute.as()));
    }

    @Override
    protected List<Step.Guard> guards() {
        checkExpressions();
        if (calendar.from().isEmpty()) {
            return List.of();
        }
        String rows = hasHolidays ? "The holidays of " : "The days of ";
        List<Step.Guard> guards = new ArrayList<>();
        guards.add(new Step.Guard(
                Step.caption("days", "A row whose day cannot be read stops the load."),
                "select coalesce(zk_bad_text, ''), count(*) over () from " + StagedRows.TABLE
                        + " where zk_bad_column is not null or day is null order by zk_row limit 1",
                row -> rows + calendar.name() + " have " + Counted.rows(row.number(2))
                        + " with a value that cannot be read, or whose day is no date, such as \"" + row.text(1)
                        + "\"; mend the file, and load again"));
        if (!hasHolidays) {
            guards.add(new Step.Guard(
                    Step.caption("days twice", "A day that stands twice stops the load."),
                    "select " + dialect.asText("day") + ", count(*) from " + StagedRows.TABLE
                            + " group by day having count(*) > 1 limit 1",
                    row -> rows + calendar.name() + " have " + row.text(1) + " " + row.number(2)
                            + " times; mend the file, and load again"));
        }
        return guards;
    }

    @Override
    protected String members() {
        return calendar.attributes().isEmpty() ? computed : withAttributes();
    }

    /** A query of the days with what the calendar itself says of them. */
    private String computed() {
        String span = dialect.days(days.first(), days.last());
        String from = hasHolidays
                ? "(select s.day, h.holiday from (" + span + ") as s left join (select day, "
                        + dialect.joined(NAME, " / ", "zk_row") + " as holiday from " + StagedRows.TABLE
                        + " group by day) as h on h.day = s.day) as days"
                : "(" + span + ") as days";
        return computed(own(calendar), from);
    }

    private String computed(Stream<CalendarColumn> columns, String from) {
        CalendarSql sql = new CalendarSql(days, dialect);
        List<String> selected = new ArrayList<>();
        selected.add("cast(%s * 10000 + %s * 100 + %s as bigint) as zk_key"
                .formatted(dialect.part("year", DAY), dialect.part("month", DAY), dialect.part(DAY, DAY)));
        columns.forEach(column -> selected.add(sql.value(column) + " as " + dialect.quote(column.columnName())));
        return "select\n  " + String.join(",\n  ", selected) + "\nfrom " + from;
    }

    /**
     * A query of the days that stand with something that does not follow from the day: its key, the day, the first such column, and
     * what stands there. What holidays and attributes say of a day is not judged.
     */
    public String damage() {
        List<CalendarColumn> following =
                own(calendar).filter(column -> !column.isOfHolidays()).toList();
        String standing = warehouse.table(calendar.table());
        String days = "(select " + dialect.quote(DAY) + " as day from " + standing + " where " + dialect.quote(DAY)
                + " is not null) as days";
        return damage(following.stream().map(CalendarColumn::columnName).toList(), computed(following.stream(), days));
    }

    /** Tries each expression by itself, so that an error names the place where it stands. */
    private void checkExpressions() {
        List<Problem> problems = new ArrayList<>();
        String none = brought.stream()
                .map(attribute -> ", "
                        + dialect.cast("null", attribute.as().orElse(SqlType.VARCHAR)) + " as "
                        + dialect.quote(attribute.name().text()))
                .collect(Collectors.joining());
        String rows = "(select c.*" + none + " from (\n" + computed + "\n) as c) as c";
        for (Attribute attribute : calendar.attributes()) {
            attribute.take().ifPresent(take -> {
                try {
                    warehouse.describe("select " + Expressions.sql(take) + " as x from " + rows);
                } catch (WarehouseException refused) {
                    problems.add(new Problem(
                            take.place(),
                            "\"take\" of \"" + attribute.name() + "\" cannot be evaluated over the calendar's columns: "
                                    + refused.getMessage().lines().findFirst().orElse("")));
                }
            });
        }
        if (!problems.isEmpty()) {
            throw new DefinitionException(problems);
        }
    }

    /** The days with what a file brings of them, and what is computed of all that. */
    private String withAttributes() {
        String rows = "(\n" + computed + "\n) as c";
        if (!brought.isEmpty()) {
            String columns = brought.stream()
                    .map(attribute -> ", f." + dialect.quote(attribute.name().text()))
                    .collect(Collectors.joining());
            rows = "(select c.*" + columns + " from " + rows + " left join " + StagedRows.TABLE
                    + " as f on f.day = c.day) as c";
        }
        String own = own(calendar)
                .map(column -> "c." + dialect.quote(column.columnName()))
                .collect(Collectors.joining(", "));
        String further = calendar.attributes().stream()
                .map(attribute -> dialect.cast(
                                attribute
                                        .take()
                                        .map(Expressions::sql)
                                        .orElse("c."
                                                + dialect.quote(attribute.name().text())),
                                attribute.as().orElse(SqlType.VARCHAR))
                        + " as "
                        + dialect.quote(attribute.name().text()))
                .collect(Collectors.joining(",\n  "));
        return "select c.zk_key, " + own + ",\n  " + further + "\nfrom " + rows;
    }
}
