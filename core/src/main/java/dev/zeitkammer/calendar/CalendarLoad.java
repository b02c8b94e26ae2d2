package dev.zeitkammer.calendar;

import dev.zeitkammer.definition.CalendarDays;
import dev.zeitkammer.definition.Conventions;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.dimension.ComputedMembers;
import dev.zeitkammer.dimension.DimensionColumn;
import dev.zeitkammer.dimension.DimensionColumn.Role;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Warehouse;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;

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
        CalendarSql sql = new CalendarSql(days, dialect);
        List<String> columns = new ArrayList<>();
        columns.add("cast(%s * 10000 + %s * 100 + %s as bigint) as zk_key"
                .formatted(dialect.part("year", "day"), dialect.part("month", "day"), dialect.part("day", "day")));
        for (CalendarColumn column : CalendarColumn.values()) {
            columns.add(sql.value(column) + " as " + dialect.quote(column.columnName()));
        }
        return "select\n  " + String.join(",\n  ", columns) + "\nfrom (" + dialect.days(days.first(), days.last())
                + ") as days";
    }
}
