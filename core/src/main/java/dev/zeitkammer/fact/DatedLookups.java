package dev.zeitkammer.fact;

import dev.zeitkammer.definition.Dimension.Kind;
import dev.zeitkammer.definition.Fact;
import dev.zeitkammer.definition.History.Facts;
import dev.zeitkammer.definition.Lookup;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.lookup.LookupSource;
import dev.zeitkammer.lookup.LookupSql;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** The lookups of a fact that can be judged again by what is stored: the member of the key, and the date. */
public final class DatedLookups {

    /** The book of {@link MisplacedFacts}. */
    private static final String MISPLACED = "misplaced";

    private final FactTable table;
    private final Warehouse warehouse;
    private final Dialect dialect;
    private final LookupSource source;

    DatedLookups(FactTable table, Warehouse warehouse, LookupSource source) {
        this.table = table;
        this.warehouse = warehouse;
        this.dialect = warehouse.dialect();
        this.source = source;
    }

    /** A lookup whose facts follow the history, and the stored date at which they are judged. */
    record Dated(LookupSql lookup, Word date, boolean isCalendar) {}

    /**
     * For each role whose facts follow the history, a query of the facts that do not point at the version valid then, but for those
     * that others left there; a member that is nobody then is none to point at.
     */
    public static Map<String, String> misplaced(Fact fact, Warehouse warehouse) {
        FactTable table = FactLoad.standing(fact, warehouse);
        DatedLookups lookups = new DatedLookups(table, warehouse, new LookupSource(warehouse));
        boolean areNoted = warehouse.books().contains(MISPLACED);
        MisplacedFacts noted = new MisplacedFacts(table, warehouse, warehouse.book(MISPLACED));
        Map<String, String> queries = new LinkedHashMap<>();
        for (Dated dated : lookups.following()) {
            Lookup lookup = dated.lookup().lookup();
            String besides = areNoted ? " and not " + noted.isNoted(lookup) : "";
            queries.put(lookup.role().text(), lookups.misplaced(dated) + besides);
        }
        return queries;
    }

    /** A query of the facts that do not point at the version valid at their date; its last condition may be followed by others. */
    String misplaced(Dated dated) {
        LookupSql lookup = dated.lookup();
        return Sql.of("""
                select t.zk_grain as grain, t.zk_old as stored_key, t.zk_key as valid_key
                from (
                  select d.zk_grain, d.zk_old, ${key_expression} as zk_key, ${found_expression} as zk_found
                  from (
                    ${facts}
                  ) as d
                  ${join}
                ) as t
                where t.zk_found not in (${nobody}) and t.zk_key <> t.zk_old""")
                .with("key_expression", lookup.keyExpression())
                .with("found_expression", lookup.foundExpression())
                .with("facts", stored(dated, "true"))
                .with("join", lookup.join())
                .with("nobody", lookup.nobody())
                .text();
    }

    /** A statement that gives the facts that are there the key of a lookup, where what it looks for is stored under its name. */
    Optional<String> finding(Lookup lookup) {
        List<Word> needed = new ArrayList<>(lookup.match());
        lookup.asOf().ifPresent(needed::add);
        if (!needed.stream().allMatch(word -> table.definition().stored(word).isPresent())) {
            return Optional.empty();
        }
        LookupSql sql = source.ofStored(
                0, lookup, lookup.asOf().flatMap(table.definition()::stored).map(this::columnType));
        List<String> inputs = new ArrayList<>();
        for (int position = 0; position < lookup.match().size(); position++) {
            inputs.add(dialect.column("f", stored(lookup.match().get(position))) + " as " + sql.match(position));
        }
        lookup.asOf().ifPresent(asOf -> inputs.add(dialect.column("f", stored(asOf)) + " as " + sql.asOf()));
        String found = Sql.of("""
                (
                  select ${found_grain}, ${stored_key} as zk_found_key
                  from (
                    select d.*, ${key_expression} as ${key_column}, ${found_expression} as ${found_column}
                    from (select ${grain}, ${inputs} from ${fact} as f) as d
                    ${join}
                  ) as r
                )""")
                .with("fact", warehouse.table(table.definition().table()))
                .with("found_grain", dialect.list(table.grainNames(), name -> dialect.column("r", name)))
                .with("stored_key", sql.stored("r"))
                .with("key_expression", sql.keyExpression())
                .with("key_column", sql.key())
                .with("found_expression", sql.foundExpression())
                .with("found_column", sql.found())
                .with("grain", dialect.list(table.grainNames(), name -> dialect.column("f", name)))
                .with("inputs", String.join(", ", inputs))
                .with("join", sql.join())
                .text();
        return Optional.of(dialect.rewrite(
                warehouse.table(table.definition().table()),
                found,
                dialect.allEqual(table.grainNames(), "t", "c"),
                Map.of(FactTable.keyName(lookup), "c.zk_found_key")));
    }

    /** The column that holds a staged value. */
    private String stored(Word staged) {
        return table.definition().stored(staged).orElseThrow().text();
    }

    private String key(LookupSql lookup) {
        return dialect.column("f", FactTable.keyName(lookup.lookup()));
    }

    List<Dated> following() {
        List<Dated> dated = new ArrayList<>();
        if (table.isAppended()) {
            return dated;
        }
        for (Lookup lookup : table.definition().lookups()) {
            boolean follows = lookup.dimension()
                    .history()
                    .facts()
                    .filter(Facts.STAY::equals)
                    .isEmpty();
            if (follows && lookup.asOf().isPresent()) {
                dated(dated.size(), lookup).ifPresent(dated::add);
            }
        }
        return dated;
    }

    /** A calendar keeps the day only, which does not say which of a day's versions was meant. */
    private Optional<Dated> dated(int number, Lookup lookup) {
        Fact fact = table.definition();
        Optional<Word> date = fact.storedDate(lookup);
        if (date.isEmpty()) {
            return Optional.empty();
        }
        boolean isCalendar = fact.lookup(date.get().text())
                .filter(role -> role.dimension().kind() == Kind.CALENDAR)
                .isPresent();
        SqlType type = isCalendar ? SqlType.DATE : columnType(date.get());
        LookupSql sql = source.ofStored(number, lookup, Optional.of(type));
        boolean isExact = !isCalendar || sql.momentType().equals(SqlType.DATE);
        return type.isMoment() && isExact ? Optional.of(new Dated(sql, date.get(), isCalendar)) : Optional.empty();
    }

    private SqlType columnType(Word column) {
        return table.columns().stream()
                .filter(known -> known.name().equalsIgnoreCase(column.text()))
                .map(Column::type)
                .findFirst()
                .orElse(SqlType.VARCHAR);
    }

    /** The facts of some members with what their lookup would match: alias d of its join. */
    String stored(Dated dated, String condition) {
        LookupSql lookup = dated.lookup();
        List<String> columns = new ArrayList<>();
        for (int position = 0; position < lookup.matches().size(); position++) {
            columns.add(dialect.column(
                            "zk_o",
                            lookup.lookup().dimension().key().get(position).text())
                    + " as " + lookup.match(position));
        }
        String date =
                dated.isCalendar() ? "c.day" : dialect.column("f", dated.date().text());
        String calendar = "";
        if (dated.isCalendar()) {
            Lookup role = table.definition().lookup(dated.date().text()).orElseThrow();
            calendar = "\njoin " + warehouse.table(role.dimension().table()) + " as c on "
                    + dialect.column("c", role.dimension().keyColumn()) + " = "
                    + dialect.column("f", FactTable.keyName(role)) + " and c.day is not null";
        }
        return Sql.of("""
                select ${grain_text} as zk_grain, ${key_name} as zk_old, ${natural_key}, ${date} as ${as_of}
                from ${fact} as f
                join ${dimension} as zk_o on ${o_key} = ${key_name} and ${is_member}${calendar}
                where ${date} is not null and ${condition}""")
                .with("grain_text", table.grainText(dialect, "f"))
                .with("key_name", key(lookup))
                .with("is_member", lookup.lookup().dimension().isMember(key(lookup)))
                .with("natural_key", String.join(", ", columns))
                .with("date", date)
                .with("as_of", lookup.asOf())
                .with("fact", warehouse.table(table.definition().table()))
                .with("dimension", warehouse.table(lookup.lookup().dimension().table()))
                .with(
                        "o_key",
                        dialect.column("zk_o", lookup.lookup().dimension().keyColumn()))
                .with("calendar", calendar)
                .with("condition", condition)
                .text();
    }
}
