package dev.zeitkammer.calendar;

import dev.zeitkammer.definition.Conventions;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.dimension.ComputedMembers;
import dev.zeitkammer.dimension.DimensionColumn;
import dev.zeitkammer.dimension.DimensionColumn.Role;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import java.util.List;

/** Loads the minutes of a day: the key of a minute is the number hhmm, from 0 to 2359. */
public final class MinutesLoad extends ComputedMembers {

    private static final int NOON = 12;

    private final Dialect dialect;

    public MinutesLoad(Dimension definition, Conventions conventions, Warehouse warehouse) {
        super(
                definition,
                conventions,
                warehouse,
                List.of(
                        DimensionColumn.plain("minute", SqlType.TIME, Role.KEY),
                        DimensionColumn.plain("hour_of_day", SqlType.INTEGER, Role.TYPE_1),
                        DimensionColumn.plain("minute_of_hour", SqlType.INTEGER, Role.TYPE_1),
                        DimensionColumn.plain("minute_of_day", SqlType.INTEGER, Role.TYPE_1),
                        DimensionColumn.plain("quarter_of_hour", SqlType.INTEGER, Role.TYPE_1),
                        DimensionColumn.plain("minute_label", SqlType.VARCHAR, Role.TYPE_1),
                        DimensionColumn.plain("hour_label", SqlType.VARCHAR, Role.TYPE_1),
                        DimensionColumn.plain("is_before_noon", SqlType.BOOLEAN, Role.TYPE_1)));
        this.dialect = warehouse.dialect();
    }

    @Override
    protected String members() {
        String hour = dialect.part("hour", "minute");
        String minute = dialect.part("minute", "minute");
        String hourText = "lpad(cast(" + hour + " as varchar), 2, '0')";
        return """
                select cast(%1$s * 100 + %2$s as bigint) as zk_key, minute, %1$s as hour_of_day, %2$s as minute_of_hour,
                  %1$s * 60 + %2$s as minute_of_day,
                  %3$s as quarter_of_hour,
                  %4$s || ':' || lpad(cast(%2$s as varchar), 2, '0') as minute_label,
                  %4$s || ':00 – ' || %4$s || ':59' as hour_label,
                  %1$s < %5$d as is_before_noon
                from (%6$s) as minutes""".formatted(
                        hour,
                        minute,
                        dialect.cast("floor(" + minute + " / 15.0) + 1", SqlType.INTEGER),
                        hourText,
                        NOON,
                        dialect.minutes());
    }
}
