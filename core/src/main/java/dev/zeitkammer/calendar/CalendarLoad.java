package dev.zeitkammer.calendar;

import dev.zeitkammer.definition.CalendarDays;
import dev.zeitkammer.definition.Conventions;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.dimension.ComputedMembers;
import dev.zeitkammer.dimension.DimensionColumn;
import dev.zeitkammer.dimension.DimensionColumn.Role;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Warehouse;
import java.time.DayOfWeek;
import java.time.Month;
import java.time.format.TextStyle;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import java.util.function.IntFunction;
import java.util.stream.Collectors;
import java.util.stream.IntStream;

/** Loads a calendar: a day's key is its date as the number yyyymmdd; weeks are those of ISO 8601. */
public final class CalendarLoad extends ComputedMembers {

    public CalendarLoad(Dimension definition, Conventions conventions, Warehouse warehouse) {
        super(
                definition,
                conventions,
                warehouse,
                Arrays.stream(CalendarColumn.values()).map(CalendarLoad::column).toList(),
                members(definition.calendar().orElseThrow(), warehouse.dialect()));
    }

    private static DimensionColumn column(CalendarColumn column) {
        Role role = column == CalendarColumn.DAY ? Role.KEY : Role.TYPE_1;
        return new DimensionColumn(column.columnName(), column.type(), role, Optional.empty(), Optional.empty());
    }

    private static String members(CalendarDays days, Dialect dialect) {
        List<String> columns = new ArrayList<>();
        columns.add("cast(%s * 10000 + %s * 100 + %s as bigint) as zk_key"
                .formatted(dialect.part("year", "day"), dialect.part("month", "day"), dialect.part("day", "day")));
        for (CalendarColumn column : CalendarColumn.values()) {
            columns.add(value(column, days, dialect) + " as " + dialect.quote(column.columnName()));
        }
        return "select\n  " + String.join(",\n  ", columns) + "\nfrom (" + dialect.days(days.first(), days.last())
                + ") as days";
    }

    private static String value(CalendarColumn column, CalendarDays days, Dialect dialect) {
        return switch (column) {
            case DAY -> "day";
            case YEAR -> dialect.part("year", "day");
            case QUARTER -> dialect.part("quarter", "day");
            case MONTH -> dialect.part("month", "day");
            case MONTH_NAME ->
                named(
                        dialect,
                        "month",
                        Month.values().length,
                        month -> Month.of(month).getDisplayName(TextStyle.FULL_STANDALONE, days.language()));
            case ISO_YEAR -> dialect.part("isoyear", "day");
            case ISO_WEEK -> dialect.part("week", "day");
            case DAY_OF_MONTH -> dialect.part("day", "day");
            case DAY_OF_YEAR -> dialect.part("doy", "day");
            case DAY_OF_WEEK -> dialect.part("isodow", "day");
            case DAY_NAME ->
                named(
                        dialect,
                        "isodow",
                        DayOfWeek.values().length,
                        day -> DayOfWeek.of(day).getDisplayName(TextStyle.FULL_STANDALONE, days.language()));
        };
    }

    private static String named(Dialect dialect, String part, int count, IntFunction<String> name) {
        return IntStream.rangeClosed(1, count)
                .mapToObj(number -> "when " + number + " then " + dialect.text(name.apply(number)))
                .collect(Collectors.joining(" ", "case " + dialect.part(part, "day") + " ", " end"));
    }
}
