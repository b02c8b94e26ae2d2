package dev.zeitkammer.calendar;

import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.dimension.ComputedMembers;
import dev.zeitkammer.dimension.table.DimensionColumn;
import dev.zeitkammer.dimension.table.DimensionColumn.Role;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import java.util.List;

/** Loads the minutes of a day: the key of a minute is the number hhmm, from 0 to 2359. */
public final class MinutesLoad extends ComputedMembers {

    private static final int NOON = 12;

    private static final List<DimensionColumn> COLUMNS = List.of(
            DimensionColumn.plain("minute", SqlType.TIME, Role.KEY),
            DimensionColumn.plain("hour_of_day", SqlType.INTEGER, Role.TYPE_1),
            DimensionColumn.plain("minute_of_hour", SqlType.INTEGER, Role.TYPE_1),
            DimensionColumn.plain("minute_of_day", SqlType.INTEGER, Role.TYPE_1),
            DimensionColumn.plain("quarter_of_hour", SqlType.INTEGER, Role.TYPE_1),
            DimensionColumn.plain("minute_label", SqlType.VARCHAR, Role.TYPE_1),
            DimensionColumn.plain("hour_label", SqlType.VARCHAR, Role.TYPE_1),
            DimensionColumn.plain("is_before_noon", SqlType.BOOLEAN, Role.TYPE_1));

    private final Dialect dialect;

    public MinutesLoad(Dimension definition, Warehouse warehouse) {
        super(definition, warehouse, COLUMNS);
        this.dialect = warehouse.dialect();
    }

    /** The names of the columns of a time of day. */
    public static List<String> names() {
        return COLUMNS.stream().map(DimensionColumn::name).toList();
    }

    /** A query of the minutes that stand with something that does not follow from the minute. */
    public String damage() {
        return damage(names(), members());
    }

    @Override
    protected String members() {
        String hour = dialect.part("hour", "minute");
        String minute = dialect.part("minute", "minute");
        String hourText = "lpad(" + dialect.asText(hour) + ", 2, '0')";
        return Sql.of("""
                select cast(${hour} * 100 + ${minute} as bigint) as zk_key, minute, ${hour} as hour_of_day, ${minute} as minute_of_hour,
                  ${hour} * 60 + ${minute} as minute_of_day,
                  ${quarter} as quarter_of_hour,
                  ${hour_text} || ':' || lpad(${minute_digits}, 2, '0') as minute_label,
                  ${hour_text} || ':00 – ' || ${hour_text} || ':59' as hour_label,
                  ${hour} < ${noon} as is_before_noon
                from (${minutes}) as minutes""")
                .with("minute_digits", dialect.asText(minute))
                .with("hour", hour)
                .with("minute", minute)
                .with("quarter", dialect.cast("floor(" + minute + " / 15.0) + 1", SqlType.INTEGER))
                .with("hour_text", hourText)
                .with("noon", NOON)
                .with("minutes", dialect.minutes())
                .text();
    }
}
