package dev.zeitkammer.dimension.members;

import static dev.zeitkammer.step.RowValidation.ROWS;

import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Dimension.Kind;
import dev.zeitkammer.definition.SurrogateKey.By;
import dev.zeitkammer.dimension.table.SurrogateKeys;
import dev.zeitkammer.engine.BookChange;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Relation;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.SqlText;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.TableChange;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.lookup.KeyHash;
import dev.zeitkammer.lookup.LookupSql;
import dev.zeitkammer.lookup.LookupSql.Found;
import dev.zeitkammer.lookup.LookupSteps;
import dev.zeitkammer.lookup.MissingKeys;
import dev.zeitkammer.step.Change;
import dev.zeitkammer.step.Flag;
import dev.zeitkammer.step.Stamp;
import dev.zeitkammer.step.Step;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.IntFunction;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import java.util.stream.Stream;

/**
 * Makes the members that facts name and nobody has delivered: placeholders, valid since always until their own row completes
 * them, and combinations of flags.
 */
public final class PlaceholderMembers implements MissingKeys {

    private static final LocalDate ALWAYS = LocalDate.of(1, 1, 1);

    /**
     * The tables of the books that must know.
     *
     * @param highestKeys the highest keys ever given, by table
     * @param placeholders the members made, by load and table
     */
    public record Noted(String highestKeys, String placeholders) {}

    private final Warehouse warehouse;
    private final Dialect dialect;
    private final Stamp stamp;
    private final Noted noted;
    private final List<Made> made;

    /** @param lookups those of the table; what some of them do not find is made */
    public PlaceholderMembers(Warehouse warehouse, Stamp stamp, Noted noted, List<LookupSql> lookups) {
        this.warehouse = warehouse;
        this.dialect = warehouse.dialect();
        this.stamp = stamp;
        this.noted = noted;
        this.made = made(lookups.stream().filter(LookupSql::makesMembers).toList());
    }

    /** Members that are made of the lookups of one dimension. */
    private record Made(Dimension dimension, List<LookupSql> lookups, Relation relation) {}

    private static List<Made> made(List<LookupSql> makers) {
        Map<Dimension, List<LookupSql>> byDimension = new LinkedHashMap<>();
        makers.forEach(lookup -> byDimension
                .computeIfAbsent(lookup.lookup().dimension(), first -> new ArrayList<>())
                .add(lookup));
        List<Made> made = new ArrayList<>();
        byDimension.forEach((dimension, lookups) -> made.add(new Made(dimension, lookups, missing(made.size()))));
        return made;
    }

    private static Relation missing(int number) {
        return Relation.of(
                "zk_missing_" + number,
                "A member that rows name and nobody has delivered, with the surrogate key that it gets.",
                "zk_n*",
                "zk_role",
                "zk_row",
                "zk_new_key");
    }

    /** Whether members are made. */
    private static Flag isAny(Made made) {
        return LookupSteps.anyUnmatched(made.lookups());
    }

    @Override
    public List<Step> steps() {
        List<Step> steps = new ArrayList<>();
        if (made.isEmpty()) {
            return steps;
        }
        Flag any = LookupSteps.anyUnmatched(
                made.stream().flatMap(each -> each.lookups().stream()).toList());
        for (Made each : made) {
            steps.add(new Step.Keep(
                    Step.caption(
                            "missing members of " + each.dimension().table(),
                            "Members that nobody has delivered, once for many rows, with their keys."),
                    each.relation(),
                    numbered(each),
                    Optional.of(any)));
            if (each.dimension().surrogate().by() == By.HASH) {
                steps.add(givenKeys(each).onlyIf(any));
            }
        }
        return steps;
    }

    /** The members as changes of their dimensions. */
    public List<Change<TableChange>> changes() {
        return made.stream()
                .flatMap(each -> Stream.concat(Stream.of(insert(each)), bridged(each).stream())
                        .map(change -> Change.of(change, isAny(each))))
                .toList();
    }

    /** What the books note of them: how many are made, and the highest keys that they were given. */
    public List<Change<BookChange>> noted() {
        List<Change<BookChange>> changes = new ArrayList<>();
        for (Made each : made) {
            String table = dialect.text(each.dimension().table());
            changes.add(Change.of(
                    new BookChange.Insert(
                            Step.caption("missing members noted", "The books know how many members are made."),
                            noted.placeholders(),
                            "load, table_name, inserted",
                            "select " + stamp.load() + ", " + table + ", count(*) from " + each.relation()),
                    isAny(each)));
            if (each.dimension().surrogate().by() == By.SEQUENCE) {
                changes.add(Change.of(
                        new BookChange.Insert(
                                Step.caption("highest key", "The keys that they were given are never given again."),
                                noted.highestKeys(),
                                "table_name, highest",
                                "select " + table + ", max(zk_new_key) from " + each.relation()
                                        + " having count(*) > 0"),
                        isAny(each)));
            }
        }
        return changes;
    }

    private Step.Guard givenKeys(Made made) {
        Dimension dimension = made.dimension();
        String sql = """
                select zk_new_key
                from %s as zk_given
                group by zk_new_key
                having count(*) > 1 or exists (select 1 from %s as t where t.%s = zk_given.zk_new_key)
                limit 1""".formatted(
                        made.relation(), warehouse.table(dimension.table()), dialect.quote(dimension.keyColumn()));
        return new Step.Guard(
                Step.caption(
                        "given keys of " + dimension.table(),
                        "A new row's surrogate key must not have been given to another row."),
                sql,
                row -> SurrogateKeys.givenTwice(dimension.table(), row.number(1)));
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

    private TableChange insert(Made made) {
        Dimension dimension = made.dimension();
        List<Column> columns = warehouse.columns(dimension.table());
        Map<String, String> values = new LinkedHashMap<>();
        values.put(dimension.keyColumn(), "m.zk_new_key");
        if (dimension.hasMemberKey()) {
            values.put(dimension.memberKeyColumn(), "m.zk_new_key");
        }
        for (int position = 0; position < dimension.key().size(); position++) {
            values.put(dimension.key().get(position).text(), "m." + named(position));
        }
        dimension
                .lookups()
                .forEach(lookup -> values.put(
                        lookup.column(),
                        String.valueOf(lookup.lookup().standIns().unmatched())));
        columns.forEach(column -> housekeeping(column, dimension, values));
        List<String> known = values.keySet().stream()
                .filter(name ->
                        columns.stream().anyMatch(column -> column.name().equalsIgnoreCase(name)))
                .toList();
        return new TableChange.Insert(
                Step.caption(
                        "missing members of " + dimension.table(),
                        "Members that nobody has delivered are made, once for many rows."),
                warehouse.table(dimension.table()),
                known,
                "select " + dialect.list(known, values::get) + "\nfrom " + made.relation() + " as m");
    }

    private Optional<TableChange> bridged(Made made) {
        return made.dimension()
                .hierarchy()
                .map(parent -> HierarchyBridge.alone(
                        made.dimension(), warehouse, String.valueOf(made.relation()), "zk_new_key"));
    }

    private static String named(int position) {
        return "zk_n" + position;
    }

    private String names(Dimension dimension, String prefix) {
        return IntStream.range(0, dimension.key().size())
                .mapToObj(position -> prefix + named(position))
                .collect(Collectors.joining(", "));
    }

    /** The missing members with their keys: in order of the lookups, and of the rows in each. */
    private String numbered(Made made) {
        Dimension dimension = made.dimension();
        List<String> names = IntStream.range(0, dimension.key().size())
                .mapToObj(position -> "m." + named(position))
                .toList();
        String key = dimension.surrogate().by() == By.HASH
                ? KeyHash.of(dialect, names, "1")
                : highest(dimension) + " + row_number() over (order by m.zk_role, m.zk_row)";
        return "select m.*, " + key + " as zk_new_key\nfrom (\n" + SqlText.indented(once(made), 2) + "\n) as m";
    }

    /** The natural keys that find nobody, each once, with the first row of the first lookup that has it. */
    private String once(Made made) {
        String each = made.lookups().stream()
                .map(lookup -> unmatched(lookup, made))
                .collect(Collectors.joining("\nunion all\n"));
        if (made.lookups().size() == 1) {
            return each;
        }
        String names = names(made.dimension(), "");
        return """
                select %s, zk_role, zk_row
                from (
                  select named.*, row_number() over (partition by %s order by zk_role, zk_row) as zk_nth
                  from (
                %s
                  ) as named
                ) as numbered
                where zk_nth = 1""".formatted(names, names, SqlText.indented(each, 4));
    }

    /**
     * The natural keys that find nobody in one lookup, each with the first row that has it. Whether a key is a member's is asked of
     * each key once: asked of the rows, a planner that expects every row to have a member would go through all that was found
     * for each row that has none.
     */
    private String unmatched(LookupSql lookup, Made made) {
        List<String> matches = lookup.matches();
        String named = IntStream.range(0, matches.size())
                .mapToObj(position -> "zk_d." + matches.get(position) + " as " + named(position))
                .collect(Collectors.joining(", "));
        return Sql.of("""
                select ${names}, ${number} as zk_role, zk_key.zk_row
                from (
                  select ${named}, min(zk_d.zk_row) as zk_row
                  from ${rows} as zk_d
                  join ${held} as r on r.zk_row = zk_d.zk_row
                  where r.${found} = ${unmatched} and r.zk_aside is null
                  group by ${matches}
                ) as zk_key
                where not exists (
                  select 1
                  from ${dimension} as k
                  where ${is_the_member} and k.${row_origin} <> 'reserved'
                )""")
                .with(ROWS, LookupSteps.HELD)
                .with("names", names(made.dimension(), "zk_key."))
                .with("named", named)
                .with("number", lookup.number())
                .with("found", lookup.found())
                .with("unmatched", Found.UNMATCHED.sql())
                .with("dimension", warehouse.table(made.dimension().table()))
                .with("is_the_member", isMember(made.dimension()))
                .with("row_origin", dialect.quote(made.dimension().conventions().column(AuditColumn.ROW_ORIGIN)))
                .with("matches", dialect.list(matches, match -> "zk_d." + match))
                .text();
    }

    /** Whether a row of the dimension, k, has a natural key, zk_key. */
    private String isMember(Dimension dimension) {
        return IntStream.range(0, dimension.key().size())
                .mapToObj(position -> dialect.equal(
                        dialect.column("k", dimension.key().get(position).text()),
                        "zk_key." + named(position),
                        isCombination(dimension)))
                .collect(Collectors.joining(" and "));
    }

    /** Whether a row, under an alias, names the member whose business key stands in some columns. */
    private String sameMember(LookupSql lookup, String row, IntFunction<String> column) {
        boolean nullIsAValue = isCombination(lookup.lookup().dimension());
        return IntStream.range(0, lookup.matches().size())
                .mapToObj(position -> dialect.equal(
                        column.apply(position), row + "." + lookup.matches().get(position), nullIsAValue))
                .collect(Collectors.joining(" and "));
    }

    @Override
    public String join(LookupSql lookup, String alias) {
        Made own = made.stream()
                .filter(each -> each.lookups().stream().anyMatch(maker -> maker.number() == lookup.number()))
                .findFirst()
                .orElseThrow();
        return "left join " + own.relation() + " as " + alias + " on "
                + sameMember(lookup, "d", position -> alias + "." + named(position));
    }

    @Override
    public Found found(LookupSql lookup) {
        return isCombination(lookup.lookup().dimension()) ? Found.MATCHED : Found.PLACEHOLDERS;
    }

    private void housekeeping(Column column, Dimension dimension, Map<String, String> values) {
        for (AuditColumn housekeeping : AuditColumn.values()) {
            if (dimension.conventions().column(housekeeping).equalsIgnoreCase(column.name())) {
                values.put(column.name(), value(housekeeping, column.type(), dimension));
            }
        }
    }

    private String value(AuditColumn housekeeping, SqlType type, Dimension dimension) {
        return switch (housekeeping) {
            case VALID_FROM, LAST_STATED -> dialect.cast(dialect.date(ALWAYS), type);
            case VALID_TO ->
                dialect.cast(
                        dimension.conventions().openEnd().map(dialect::date).orElse("null"), type);
            case IS_CURRENT -> dimension.conventions().flag(housekeeping).stored(dialect, "true");
            case VERSION -> "1";
            case IS_DELETED -> dimension.conventions().flag(housekeeping).stored(dialect, "false");
            case ROW_ORIGIN -> dialect.text(origin(dimension));
            case INSERTED_AT, UPDATED_AT -> dialect.timestamp(stamp.at());
            case INSERTED_BY, UPDATED_BY -> String.valueOf(stamp.load());
        };
    }
}
