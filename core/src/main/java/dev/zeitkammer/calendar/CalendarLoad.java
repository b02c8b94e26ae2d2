package dev.zeitkammer.calendar;

import dev.zeitkammer.definition.CalendarDays;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.dimension.ComputedMembers;
import dev.zeitkammer.dimension.table.DimensionColumn;
import dev.zeitkammer.dimension.table.DimensionColumn.Role;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.staging.StagedRows;
import dev.zeitkammer.staging.Wanted;
import dev.zeitkammer.step.Step;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;

/**
 * Loads a calendar: a day's key is its date as the number yyyymmdd; ISO weeks are those of ISO 8601. Holidays come from staged
 * rows of day and name.
 */
public final class CalendarLoad extends ComputedMembers {

    private static final String DAY = "day";
    private static final String NAME = "name";

    private final CalendarDays days;
    private final boolean hasHolidays;
    private final Dialect dialect;
    private final Word place;

    public CalendarLoad(Dimension definition, Warehouse warehouse) {
        super(
                definition,
                warehouse,
                columns(definition).map(CalendarLoad::column).toList());
        this.days = definition.calendar().orElseThrow();
        this.hasHolidays = definition.from().isPresent();
        this.dialect = warehouse.dialect();
        this.place = definition.name();
    }

    private static Stream<CalendarColumn> columns(Dimension definition) {
        return Arrays.stream(CalendarColumn.values())
                .filter(column -> definition.from().isPresent() || !column.isOfHolidays());
    }

    private static DimensionColumn column(CalendarColumn column) {
        Role role = column == CalendarColumn.DAY ? Role.KEY : Role.TYPE_1;
        return DimensionColumn.plain(column.columnName(), column.type(), role);
    }

    @Override
    public void want(Wanted wanted) {
        wanted.moment(new Word(DAY, place.place()), "holidays");
        wanted.column(new Word(NAME, place.place()), "holidays", Optional.empty());
    }

    @Override
    protected List<Step.Guard> guards() {
        if (!hasHolidays) {
            return List.of();
        }
        return List.of(new Step.Guard(
                Step.caption("holidays", "A holiday whose day cannot be read stops the load."),
                "select coalesce(zk_bad_text, ''), count(*) over () from " + StagedRows.TABLE
                        + " where zk_bad_column is not null or day is null order by zk_row limit 1",
                row -> "The holidays of " + place + " have " + row.number(2) + " rows whose day is no date, such as \""
                        + row.text(1) + "\"; mend the file, and load again"));
    }

    @Override
    protected String members() {
        CalendarSql sql = new CalendarSql(days, dialect);
        List<String> selected = new ArrayList<>();
        selected.add("cast(%s * 10000 + %s * 100 + %s as bigint) as zk_key"
                .formatted(dialect.part("year", DAY), dialect.part("month", DAY), dialect.part(DAY, DAY)));
        Arrays.stream(CalendarColumn.values())
                .filter(column -> hasHolidays || !column.isOfHolidays())
                .forEach(column -> selected.add(sql.value(column) + " as " + dialect.quote(column.columnName())));
        String span = dialect.days(days.first(), days.last());
        String from = hasHolidays
                ? "(select s.day, h.holiday from (" + span + ") as s left join (select day, "
                        + dialect.joined(NAME, " / ", "zk_row") + " as holiday from " + StagedRows.TABLE
                        + " group by day) as h on h.day = s.day) as days"
                : "(" + span + ") as days";
        return "select\n  " + String.join(",\n  ", selected) + "\nfrom " + from;
    }
}
