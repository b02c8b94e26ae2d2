package dev.zeitkammer.lookup;

import static dev.zeitkammer.lookup.LookupSteps.HELD;
import static dev.zeitkammer.step.Sieve.ROWS;

import dev.zeitkammer.definition.Conventions;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Dimension.Kind;
import dev.zeitkammer.definition.Dimension.Surrogate;
import dev.zeitkammer.definition.Housekeeping;
import dev.zeitkammer.definition.MemberLookup;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.lookup.LookupSql.Found;
import dev.zeitkammer.step.Stamp;
import dev.zeitkammer.step.Step;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * Makes the members that facts name and nobody has delivered: placeholders, valid since always until their own row completes
 * them, and combinations of flags.
 */
public final class MissingMembers {

    private static final LocalDate ALWAYS = LocalDate.of(1, 1, 1);

    /**
     * The tables of the books that must know.
     *
     * @param highestKeys the highest keys ever given, by table
     * @param placeholders the members made, by load and table
     */
    public record Noted(String highestKeys, String placeholders) {}

    private final Conventions conventions;
    private final Warehouse warehouse;
    private final Dialect dialect;
    private final Stamp stamp;
    private final Noted noted;

    public MissingMembers(Conventions conventions, Warehouse warehouse, Stamp stamp, Noted noted) {
        this.conventions = conventions;
        this.warehouse = warehouse;
        this.dialect = warehouse.dialect();
        this.stamp = stamp;
        this.noted = noted;
    }

    /** Makes the members of one lookup, once for many rows, and points the rows at them. */
    public List<Step> steps(LookupSql lookup) {
        Dimension dimension = lookup.lookup().dimension();
        String role = ", lookup " + lookup.lookup().role();
        String unmatched = Found.UNMATCHED.sql();
        Optional<String> any = Optional.of("select count(*) from (select 1 from " + HELD + " where " + lookup.found()
                + " = " + unmatched + " limit 1) as any_row");
        List<Step> steps = new ArrayList<>();
        steps.add(new Step.Write(
                "missing members noted" + role,
                "The books know how many members are made.",
                "insert into " + noted.placeholders() + " (load, table_name, inserted) select " + stamp.load() + ", "
                        + dialect.text(dimension.table()) + ", count(*) from (\n" + missing(lookup, dimension)
                        + "\n) as m",
                any));
        steps.add(new Step.Write(
                "missing members" + role,
                "Members that nobody has delivered are made, once for many facts.",
                insert(lookup, dimension),
                any));
        if (dimension.surrogate() == Surrogate.SEQUENCE) {
            steps.add(new Step.Write(
                    "highest key" + role,
                    "The keys that they were given are never given again.",
                    "insert into " + noted.highestKeys() + " (table_name, highest) select "
                            + dialect.text(dimension.table()) + ", max(" + dialect.quote(dimension.keyColumn())
                            + ") from " + warehouse.table(dimension.table()),
                    any));
        }
        steps.add(new Step.Write("members found" + role, "The rows point at them.", resolve(lookup, dimension), any));
        return steps;
    }

    private String own(Housekeeping housekeeping) {
        return dialect.quote(conventions.column(housekeeping));
    }

    /** The highest key that the table has ever given; hashes are not in order, and not noted. */
    private String highest(Dimension dimension) {
        return "coalesce((select max(highest) from " + noted.highestKeys() + " where table_name = "
                + dialect.text(dimension.table()) + "), 0)";
    }

    private static boolean isCombination(Dimension dimension) {
        return dimension.kind() == Kind.COMBINATION;
    }

    private String origin(Dimension dimension) {
        return isCombination(dimension) ? "source" : "placeholder";
    }

    private String madeNow(Dimension dimension, String prefix) {
        return prefix + own(Housekeeping.ROW_ORIGIN) + " = " + dialect.text(origin(dimension)) + " and " + prefix
                + own(Housekeeping.INSERTED_BY) + " = " + stamp.load();
    }

    private String insert(LookupSql lookup, Dimension dimension) {
        List<Column> columns = warehouse.columns(dimension.table());
        Map<String, String> values = new LinkedHashMap<>();
        List<String> matches =
                lookup.matches().stream().map(match -> "m." + match).toList();
        String key = dimension.surrogate() == Surrogate.HASH
                ? KeyHash.of(dialect, matches, "1")
                : highest(dimension) + " + row_number() over (order by m.zk_row)";
        values.put(dimension.keyColumn(), key);
        for (int position = 0; position < matches.size(); position++) {
            values.put(dimension.key().get(position).text(), matches.get(position));
        }
        dimension.lookups().stream()
                .map(MemberLookup::column)
                .forEach(column -> values.put(column, String.valueOf(conventions.unknown())));
        columns.forEach(column -> housekeeping(column, dimension, values));
        List<String> known = values.keySet().stream()
                .filter(name ->
                        columns.stream().anyMatch(column -> column.name().equalsIgnoreCase(name)))
                .toList();
        return """
                insert into %s (%s)
                select %s
                from (
                %s
                ) as m""".formatted(
                        warehouse.table(dimension.table()),
                        dialect.columns(known),
                        dialect.list(known, values::get),
                        missing(lookup, dimension));
    }

    /** The natural keys that find nobody, each once, with the first row that has it. */
    private String missing(LookupSql lookup, Dimension dimension) {
        String matches = dialect.list(lookup.matches(), match -> "d." + match);
        return """
                  select %s, min(d.zk_row) as zk_row
                  from %s as d
                  join %s as r on r.zk_row = d.zk_row
                  where r.%s = %s and r.zk_aside is null
                    and not exists (select 1 from %s as k where %s)
                  group by %s""".formatted(
                        matches,
                        ROWS,
                        HELD,
                        lookup.found(),
                        Found.UNMATCHED.sql(),
                        warehouse.table(dimension.table()),
                        sameMember(lookup, "k"),
                        matches);
    }

    private String sameMember(LookupSql lookup, String alias) {
        Dimension dimension = lookup.lookup().dimension();
        String equals = isCombination(dimension) ? " is not distinct from " : " = ";
        StringBuilder same = new StringBuilder();
        for (int position = 0; position < lookup.matches().size(); position++) {
            Word column = dimension.key().get(position);
            same.append(position == 0 ? "" : " and ")
                    .append(dialect.column(alias, column.text()))
                    .append(equals)
                    .append("d.")
                    .append(lookup.matches().get(position));
        }
        return same + " and " + alias + "." + own(Housekeeping.ROW_ORIGIN) + " <> 'reserved'";
    }

    private void housekeeping(Column column, Dimension dimension, Map<String, String> values) {
        for (Housekeeping housekeeping : Housekeeping.values()) {
            if (conventions.column(housekeeping).equalsIgnoreCase(column.name())) {
                values.put(column.name(), value(housekeeping, column.type(), dimension));
            }
        }
    }

    private String value(Housekeeping housekeeping, SqlType type, Dimension dimension) {
        return switch (housekeeping) {
            case VALID_FROM, LAST_STATED -> dialect.cast(dialect.date(ALWAYS), type);
            case VALID_TO ->
                dialect.cast(conventions.openEnd().map(dialect::date).orElse("null"), type);
            case IS_CURRENT -> "true";
            case VERSION -> "1";
            case IS_DELETED -> "false";
            case ROW_ORIGIN -> dialect.text(origin(dimension));
            case INSERTED_AT, UPDATED_AT -> dialect.timestamp(stamp.at());
            case INSERTED_BY, UPDATED_BY -> String.valueOf(stamp.load());
        };
    }

    private String resolve(LookupSql lookup, Dimension dimension) {
        Found found = isCombination(dimension) ? Found.MATCHED : Found.PLACEHOLDERS;
        return """
                update %s as r
                set %s = p.zk_made, %s = %s
                from (
                  select d.zk_row as zk_of, %s as zk_made
                  from %s as d
                  join %s as k on %s
                  where %s
                ) as p
                where r.zk_row = p.zk_of and r.zk_aside is null and r.%s = %s""".formatted(
                        HELD,
                        lookup.key(),
                        lookup.found(),
                        found.sql(),
                        dialect.column("k", dimension.keyColumn()),
                        ROWS,
                        warehouse.table(dimension.table()),
                        sameMember(lookup, "k"),
                        madeNow(dimension, "k."),
                        lookup.found(),
                        Found.UNMATCHED.sql());
    }
}
