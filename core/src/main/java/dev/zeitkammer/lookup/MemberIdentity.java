package dev.zeitkammer.lookup;

import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.lookup.LookupSql.Found;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.Collectors;
import java.util.stream.IntStream;

/** SQL of which member a lookup found, or a stored key stands for, whatever its version. */
public record MemberIdentity(LookupSql of) {

    /** The columns that identify the member. */
    public List<String> columns() {
        return IntStream.rangeClosed(0, of.lookup().match().size())
                .mapToObj(this::column)
                .toList();
    }

    private String column(int part) {
        return "zk_w" + of.number() + "_" + part;
    }

    /**
     * What identifies the member that was found, in {@link #columns}: 1 and the business key, or the key of the reserved
     * member that stands in for it and nothing. {@code d} is the staged row, {@code r} the result of its lookup.
     */
    public List<String> found() {
        String nobody = of.isAny("r", List.of(Found.BLANK, Found.UNMATCHED));
        List<String> columns = new ArrayList<>();
        columns.add("case when r." + of.found() + " is null then null when " + nobody + " then " + of.stored("r")
                + " else 1 end as " + column(0));
        for (int position = 0; position < of.lookup().match().size(); position++) {
            columns.add(
                    "case when not " + nobody + " then d." + of.match(position) + " end as " + column(position + 1));
        }
        return columns;
    }

    /** The same of the key that a row of a table stores; {@link #join} brings in the dimension. */
    public List<String> stored(String key) {
        List<String> columns = new ArrayList<>();
        columns.add("case when " + of.lookup().dimension().isReserved(key) + " then " + key + " when "
                + of.lookup().dimension().isMember(key) + " then 1 end as " + column(0));
        for (int position = 0; position < of.lookup().match().size(); position++) {
            columns.add(business(of.alias(), position) + " as " + column(position + 1));
        }
        return columns;
    }

    /** The join that {@link #stored} needs. */
    public String join(String key) {
        return "left join " + dimension() + " as " + of.alias() + " on " + surrogate(of.alias()) + " = " + key;
    }

    /** A join of a staged row with the versions of the member that its natural key names; see {@link #isNamed}. */
    public String joinNamed(String row) {
        String same = IntStream.range(0, of.lookup().match().size())
                .mapToObj(position -> business(named(), position) + " = " + row + "." + of.match(position))
                .collect(Collectors.joining(" and "));
        return "join " + dimension() + " as " + named() + " on " + same;
    }

    /** Whether a stored key stands for the member that {@link #joinNamed} joined. */
    public String isNamed(String key) {
        return surrogate(named()) + " = " + key;
    }

    private String named() {
        return "zk_named_" + of.number();
    }

    private String business(String alias, int position) {
        return dialect()
                .column(alias, of.lookup().dimension().key().get(position).text());
    }

    private String surrogate(String alias) {
        return dialect().column(alias, of.lookup().dimension().keyColumn());
    }

    private String dimension() {
        return of.warehouse().table(of.lookup().dimension().table());
    }

    private Dialect dialect() {
        return of.warehouse().dialect();
    }
}
