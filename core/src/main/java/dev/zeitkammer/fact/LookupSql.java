package dev.zeitkammer.fact;

import dev.zeitkammer.definition.Conventions;
import dev.zeitkammer.definition.Housekeeping;
import dev.zeitkammer.definition.Lookup;
import dev.zeitkammer.definition.Lookup.BeforeFirst;
import dev.zeitkammer.definition.Lookup.Blank;
import dev.zeitkammer.definition.Lookup.Unmatched;
import dev.zeitkammer.dimension.DimensionTable;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/**
 * SQL of one lookup. The staged rows stand under the alias {@code d}, with the natural key in columns {@link #match} and the
 * date in {@link #asOf}; the dimension stands under an alias of the lookup's own.
 *
 * @param number the lookup's number among those of the fact, from 0
 * @param momentType the type of the dimension's valid_from
 * @param asOfType the type of the staged date; that of the dimension's where there is none
 */
record LookupSql(
        int number, Lookup lookup, Conventions conventions, Warehouse warehouse, SqlType momentType, SqlType asOfType) {

    /** What a lookup can find. */
    enum Found {
        MATCHED,
        UNMATCHED,
        BLANK,
        EARLY,
        ENDED,
        PLACEHOLDERS;

        String word() {
            return name().toLowerCase(Locale.ROOT);
        }

        String sql() {
            return "'" + word() + "'";
        }
    }

    private Dialect dialect() {
        return warehouse.dialect();
    }

    private String alias() {
        return "l" + number;
    }

    String match(int position) {
        return "zk_m" + number + "_" + position;
    }

    String asOf() {
        return "zk_a" + number;
    }

    /** The column that says what was found. */
    String found() {
        return "zk_f" + number;
    }

    /** The column with the surrogate key that was found. */
    String key() {
        return "zk_k" + number;
    }

    /** The columns of staged values that decide what is found. */
    List<String> inputs() {
        List<String> inputs = new ArrayList<>();
        for (int position = 0; position < lookup.match().size(); position++) {
            inputs.add(match(position));
        }
        if (lookup.asOf().isPresent()) {
            inputs.add(asOf());
        }
        return inputs;
    }

    private String own(Housekeeping housekeeping) {
        return dialect().column(alias(), conventions.column(housekeeping));
    }

    private String surrogate() {
        return dialect().column(alias(), DimensionTable.keyColumn(lookup.dimension()));
    }

    /** The join that finds the member, and its version; at most one row where the dimension is sound. */
    String join() {
        List<String> conditions = new ArrayList<>();
        for (int position = 0; position < lookup.match().size(); position++) {
            String column = lookup.dimension().key().get(position).text();
            conditions.add("d." + match(position) + " = " + dialect().column(alias(), column));
        }
        if (lookup.asOf().isPresent()) {
            conditions.add(moment() + " is not null");
            conditions.add("(" + own(Housekeeping.IS_CURRENT) + " or " + before(own(Housekeeping.VALID_TO)) + ")");
            conditions.add("(" + since() + " or " + own(Housekeeping.VERSION) + " = 1)");
        } else if (lookup.dimension().hasHistory()) {
            conditions.add(own(Housekeeping.IS_CURRENT));
        }
        return "left join " + warehouse.table(lookup.dimension().table()) + " as " + alias() + " on "
                + String.join(" and ", conditions);
    }

    /** The moment to judge at: a timestamp against dates is its date. */
    private String moment() {
        boolean cut = asOfType.equals(SqlType.TIMESTAMP) && momentType.equals(SqlType.DATE);
        return cut ? dialect().cast("d." + asOf(), SqlType.DATE) : "d." + asOf();
    }

    /** The version has begun: for a date against timestamps, by the end of that day. */
    private String since() {
        return endOfDay()
                ? own(Housekeeping.VALID_FROM) + " < " + nextDay()
                : own(Housekeeping.VALID_FROM) + " <= " + moment();
    }

    /** The version has not yet ended. */
    private String before(String validTo) {
        if (endOfDay()) {
            return validTo + " >= " + nextDay();
        }
        return moment() + (conventions.inclusive() ? " <= " : " < ") + validTo;
    }

    private boolean endOfDay() {
        return asOfType.equals(SqlType.DATE) && momentType.equals(SqlType.TIMESTAMP);
    }

    private String nextDay() {
        return dialect().cast("(d." + asOf() + " + 1)", SqlType.TIMESTAMP);
    }

    /** What was found, as one of the words of {@link Found}. */
    String foundExpression() {
        String blank = inputsOfKey().map(column -> "d." + column + " is null").collect(Collectors.joining(" and "));
        StringBuilder branches = new StringBuilder("case when " + blank + " then " + Found.BLANK.sql());
        branches.append(" when ").append(surrogate()).append(" is null then ").append(Found.UNMATCHED.sql());
        if (lookup.asOf().isPresent()) {
            Found early = lookup.beforeFirst() == BeforeFirst.FIRST ? Found.EARLY : Found.UNMATCHED;
            branches.append(" when not (").append(since()).append(") then ").append(early.sql());
            branches.append(" when ").append(own(Housekeeping.IS_DELETED)).append(" and not (");
            branches.append(before(own(Housekeeping.VALID_TO)))
                    .append(") then ")
                    .append(Found.ENDED.sql());
        }
        return branches.append(" else ")
                .append(Found.MATCHED.sql())
                .append(" end")
                .toString();
    }

    private Stream<String> inputsOfKey() {
        return inputs().stream().limit(lookup.match().size());
    }

    String keyExpression() {
        return surrogate();
    }

    /** The key that the fact stores, over the columns {@link #key} and {@link #found} of an alias. */
    String stored(String alias) {
        long blank = lookup.blank() == Blank.UNKNOWN ? conventions.unknown() : conventions.notApplicable();
        return "case %s.%s when %s then %d when %s then %d else %s.%s end"
                .formatted(
                        alias,
                        found(),
                        Found.BLANK.sql(),
                        blank,
                        Found.UNMATCHED.sql(),
                        conventions.unknown(),
                        alias,
                        key());
    }

    /** The words of {@link Found} that set a row aside. */
    List<Found> settingAside() {
        return having(Blank.SET_ASIDE, Unmatched.SET_ASIDE);
    }

    /** The words of {@link Found} that stop the load. */
    List<Found> stopping() {
        return having(Blank.STOP, Unmatched.STOP);
    }

    private List<Found> having(Blank blank, Unmatched unmatched) {
        List<Found> found = new ArrayList<>();
        if (lookup.blank() == blank) {
            found.add(Found.BLANK);
        }
        if (lookup.unmatched() == unmatched) {
            found.add(Found.UNMATCHED);
        }
        return found;
    }

    /** Whether the lookup found one of these, over the column {@link #found} of an alias. */
    String isAny(String alias, List<Found> words) {
        return words.isEmpty()
                ? "false"
                : alias + "." + found() + " in ("
                        + words.stream().map(Found::sql).collect(Collectors.joining(", ")) + ")";
    }

    /** The natural key as text, over the staged rows. */
    String naturalKey(String alias) {
        return inputsOfKey()
                .map(column -> "coalesce(cast(" + alias + "." + column + " as varchar), '')")
                .collect(Collectors.joining(" || ', ' || "));
    }

    /** The staged columns of the natural key, for messages. */
    String columns() {
        return lookup.match().stream().map(word -> word.text()).collect(Collectors.joining(", "));
    }
}
