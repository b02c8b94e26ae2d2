package dev.zeitkammer.dimension;

import dev.zeitkammer.definition.Attribute;
import dev.zeitkammer.definition.Attribute.Missing;
import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Dimension.Kind;
import dev.zeitkammer.definition.Lookup;
import dev.zeitkammer.definition.MemberLookup;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.dimension.current.AddedAttributes;
import dev.zeitkammer.dimension.current.Extract;
import dev.zeitkammer.dimension.members.HierarchyBridge;
import dev.zeitkammer.dimension.members.NewestVersions;
import dev.zeitkammer.dimension.table.DimensionColumn;
import dev.zeitkammer.dimension.table.DimensionColumn.Role;
import dev.zeitkammer.dimension.table.DimensionLoading;
import dev.zeitkammer.dimension.table.DimensionTable;
import dev.zeitkammer.dimension.table.Moments;
import dev.zeitkammer.dimension.table.StoredLookups;
import dev.zeitkammer.dimension.table.SurrogateKeys;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.ZeitkammerException;
import dev.zeitkammer.lookup.LookupSource;
import dev.zeitkammer.lookup.LookupSql;
import dev.zeitkammer.staging.StagedRows;
import dev.zeitkammer.staging.Wanted;
import dev.zeitkammer.step.DeliveryQuery;
import dev.zeitkammer.step.DeliveryRows;
import dev.zeitkammer.step.Expressions;
import dev.zeitkammer.step.Marks;
import dev.zeitkammer.step.Plan;
import dev.zeitkammer.step.Stamp;
import dev.zeitkammer.step.TableLoad;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** Loads staged rows into a dimension. */
public final class DimensionLoad implements TableLoad {

    private final Dimension definition;
    private final Warehouse warehouse;
    private final KeptOfTable kept;
    private final List<Column> existing;
    private final DescribedColumns columns;
    private final LookupSource lookupSource;

    /**
     * What the books know of a dimension's table.
     *
     * @param highestKey SQL for the highest surrogate key that it ever gave
     * @param addedBy columns that were added later, each with the load before which they were not there
     * @param marks what has been loaded of its inputs
     * @param newestDate the newest load date for which it was loaded, as a text; empty where it never was
     * @param lastLoad SQL for the number of the last load that loaded it; 0 before the first
     */
    public record KeptOfTable(
            String highestKey, Map<String, Long> addedBy, Marks marks, Optional<String> newestDate, String lastLoad) {}

    public DimensionLoad(Dimension definition, Warehouse warehouse, KeptOfTable kept) {
        this.definition = definition;
        this.warehouse = warehouse;
        this.kept = kept;
        this.existing = warehouse.columns(definition.table());
        this.columns = new DescribedColumns(definition, existing);
        this.lookupSource = new LookupSource(warehouse);
    }

    @Override
    public Definition definition() {
        return definition;
    }

    @Override
    public String kind() {
        return "dimension";
    }

    @Override
    public boolean followsLoadDate() {
        return !definition.hasEffective() && definition.kind() == Kind.MEMBERS;
    }

    @Override
    public void want(Wanted wanted) {
        if (definition.kind() == Kind.MEMBERS) {
            definition
                    .key()
                    .forEach(key -> wanted.taken(definition.taken().of(key), "business key", columns.existingKey(key)));
        }
        definition.history().effective().ifPresent(effective -> wanted.moment(effective, "effective"));
        definition.lastBy().ifPresent(column -> wanted.column(column, "duplicates", Optional.empty()));
        for (Attribute attribute : definition.attributes()) {
            if (attribute.take().isPresent()) {
                wanted.expression(attribute.take().get());
            } else if (attribute.missing() == Missing.STOP || wanted.isStaged(attribute.name())) {
                wanted.column(attribute.name(), "attribute", attribute.as().or(() -> columns.existing(attribute)));
            }
        }
        definition.surrogate().take().ifPresent(wanted::expression);
        definition.lookups().forEach(lookup -> lookupSource.want(lookup.lookup(), wanted));
        definition.from().ifPresent(input -> Marks.want(input, wanted));
        definition.from().flatMap(input -> input.where()).ifPresent(wanted::expression);
        definition.deletions().when().ifPresent(wanted::expression);
        if (definition.allOthers().isPresent()) {
            wanted.all().stream().filter(columns::isOther).forEach(name -> wanted.column(name, columns.existing(name)));
        }
    }

    @Override
    public Prepared prepare(Optional<StagedRows> rows, Stamp stamp) {
        if (rows.isEmpty()) {
            return prepared(combined(), stamp).with(List.of(OutcomeCounts.nothing()));
        }
        StagedRows staged = rows.get();
        Expressions expressions = new Expressions(warehouse);
        definition.from().flatMap(input -> input.where()).ifPresent(where -> expressions.condition(where, "\"where\""));
        definition.deletions().when().ifPresent(when -> expressions.condition(when, "\"when\""));
        SqlType momentType = columns.momentType(staged, stamp, expressions);
        List<LookupSql> lookups = lookups(momentType);
        List<DimensionColumn> described = columns.of(staged, expressions, lookups);
        expressions.throwIfAny();
        DimensionTable table = table(described, momentType);
        columns.refuseTakenNames(table);
        Prepared prepared = prepared(table, stamp);
        Map<String, Long> addedBy = addedBy(table, stamp);
        StoredLookups lookedUp = new StoredLookups(
                definition.lookups(),
                lookups,
                warehouse,
                warehouse.table(definition.table()),
                AddedAttributes.any(table, addedBy),
                definition.deletions().addsUnknown());
        DimensionLoading loading = new DimensionLoading(table, warehouse, stamp, lookedUp);
        DimensionPlan steps = new DimensionPlan(loading, newKeys(table), new AddedAttributes(loading, addedBy));
        boolean isOlder = isOlderExtract(stamp);
        Plan plan = steps.plan(
                delivery(table, staged, stamp, lookups, expressions),
                sameValues(table, lookups),
                isOlder ? Extract.OLDER : staged.areComplete() ? Extract.READABLE : Extract.UNREADABLE);
        List<Plan> plans = new ArrayList<>(List.of(plan));
        plans.addAll(lookedUp.resolutions());
        definition.hierarchy().ifPresent(parent -> plans.add(new HierarchyBridge(table, parent, warehouse).plan()));
        return (isOlder ? prepared.noting(olderExtract(stamp)) : prepared).with(plans);
    }

    /** A full extract that is older than the newest one says nothing of members that came since. */
    private boolean isOlderExtract(Stamp stamp) {
        return definition.isDeliveredWhole()
                && kept.newestDate()
                        .filter(newest -> newest.compareTo(stamp.date().toString()) > 0)
                        .isPresent();
    }

    private String olderExtract(Stamp stamp) {
        return "this extract of " + stamp.date() + " is older than the newest one, of "
                + kept.newestDate().orElse("") + "; what its rows say is loaded, and no member is taken for absent";
    }

    /**
     * What makes the table with its reserved members before anything was delivered, so that facts can look it up.
     *
     * @throws ZeitkammerException when the definition does not say the type of a column
     */
    public Prepared undelivered(Stamp stamp) {
        List<String> untyped = new ArrayList<>();
        List<DimensionColumn> columns = new ArrayList<>();
        for (Word key : definition.key()) {
            columns.add(DimensionColumn.plain(key.text(), told(key, Optional.empty(), untyped), Role.KEY));
        }
        for (Attribute attribute : definition.attributes()) {
            SqlType type = told(attribute.name(), attribute.as(), untyped);
            columns.add(DimensionColumn.of(attribute, type));
            attribute.previous().ifPresent(name -> columns.add(DimensionColumn.previous(name, attribute, type)));
        }
        SqlType moment = definition
                .history()
                .effective()
                .map(effective -> told(effective, Optional.empty(), untyped))
                .orElse(stamp.date().isDay() ? SqlType.DATE : SqlType.TIMESTAMP);
        if (!untyped.isEmpty()) {
            throw new ZeitkammerException("Cannot look up " + definition.table()
                    + ": nothing has been delivered to it yet, and its table cannot be made before, since the types of "
                    + String.join(", ", untyped) + " are not known; write them down under columns: of its input, or"
                    + " with as: of an attribute, or load the dimension first");
        }
        List<LookupSql> lookups = lookups(moment);
        for (int index = 0; index < lookups.size(); index++) {
            columns.add(DimensionColumn.of(
                    definition.lookups().get(index),
                    lookups.get(index).identity().columns()));
        }
        return prepared(table(columns, moment), stamp);
    }

    private SqlType told(Word column, Optional<SqlType> as, List<String> untyped) {
        Optional<SqlType> listed = definition.from().stream()
                .flatMap(input -> input.columns().stream())
                .filter(known -> known.name().text().equalsIgnoreCase(column.text()))
                .map(known -> known.type())
                .findFirst();
        return as.or(() -> listed).orElseGet(() -> {
            untyped.add(column.text());
            return SqlType.VARCHAR;
        });
    }

    private DimensionTable table(List<DimensionColumn> described, SqlType momentType) {
        boolean hasVersions = columns.existing(definition.conventions().column(AuditColumn.IS_CURRENT))
                .isPresent();
        return DimensionTable.of(definition, described, momentType, definition.hasHistory() || hasVersions)
                .keeping(existing);
    }

    private Prepared prepared(DimensionTable table, Stamp stamp) {
        return new FittedDimension(definition, warehouse, !existing.isEmpty())
                .prepared(table, stamp, kept.newestDate().isEmpty());
    }

    /** The table of a combination whose members only facts bring. */
    private DimensionTable combined() {
        List<DimensionColumn> flags = definition.attributes().stream()
                .map(attribute -> DimensionColumn.key(
                        attribute,
                        attribute.as().or(() -> columns.existing(attribute)).orElse(SqlType.VARCHAR)))
                .toList();
        return table(flags, SqlType.DATE);
    }

    private List<LookupSql> lookups(SqlType momentType) {
        List<LookupSql> lookups = new ArrayList<>();
        for (MemberLookup lookup : definition.lookups()) {
            lookups.add(lookupSource.ofDimension(lookups.size(), lookup, momentType, lookup.isParentIn(definition)));
        }
        return lookups;
    }

    @Override
    public Optional<Plan> upkeep(Stamp stamp) {
        List<LookupSql> lookups = lookups(SqlType.DATE);
        List<Lookup> following = new ArrayList<>();
        for (int index = 0; index < lookups.size(); index++) {
            if (definition.lookups().get(index).followsNewest()
                    && lookups.get(index).hasVersions()) {
                following.add(definition.lookups().get(index).lookup());
            }
        }
        return new NewestVersions(definition, following, warehouse, kept.lastLoad()).plan(stamp);
    }

    /** What makes the hierarchy's bridge anew from the rows that stand; empty without a hierarchy. */
    public Optional<Plan> bridge() {
        return HierarchyBridge.standing(definition, warehouse).map(HierarchyBridge::anew);
    }

    /** Columns that are missing in a table that exists are added by this very load. */
    private Map<String, Long> addedBy(DimensionTable table, Stamp stamp) {
        Map<String, Long> addedBy = new HashMap<>(kept.addedBy());
        if (!existing.isEmpty()) {
            table.columns().stream()
                    .filter(column -> columns.existing(column.name()).isEmpty())
                    .filter(column -> column.was().flatMap(columns::existing).isEmpty())
                    .forEach(column -> addedBy.put(column.name(), stamp.load()));
        }
        return addedBy;
    }

    private static List<String> sameValues(DimensionTable table, List<LookupSql> lookups) {
        List<String> values = new ArrayList<>(table.in(Role.TYPE_0, Role.TYPE_1, Role.TYPE_2, Role.TYPE_3)
                .filter(column -> !column.isLookedUp())
                .map(DimensionColumn::name)
                .toList());
        lookups.forEach(lookup -> values.addAll(lookup.matches()));
        return values;
    }

    private SurrogateKeys newKeys(DimensionTable table) {
        return switch (definition.surrogate().by()) {
            case SEQUENCE -> new SurrogateKeys.Sequence(kept.highestKey());
            case HASH -> new SurrogateKeys.Hash(table, warehouse.dialect());
            case TAKE -> new SurrogateKeys.Delivered(true);
        };
    }

    private static String stagedName(StagedRows staged, DimensionColumn column) {
        return staged.delivery().column(column.name()).orElseThrow();
    }

    private DeliveryRows delivery(
            DimensionTable table, StagedRows staged, Stamp stamp, List<LookupSql> lookups, Expressions expressions) {
        Dialect dialect = warehouse.dialect();
        DeliveryQuery query = new DeliveryQuery(warehouse, staged, expressions);
        Moments moments = new Moments(table, dialect);
        Optional<Word> effective = definition.history().effective();
        if (effective.isPresent()) {
            String column = dialect.column(
                    "s", staged.delivery().column(effective.get().text()).orElseThrow());
            query.raw(column, "zk_effective");
            String outside = column + " is null or " + column + " < " + moments.always() + " or " + column + " >= "
                    + table.conventions()
                            .openEnd()
                            .map(moments::literal)
                            .orElseGet(() -> moments.literal(Moments.LAST));
            query.bad(outside, effective.get().text(), dialect.cast(column, SqlType.VARCHAR));
        } else {
            query.raw(moments.literal(stamp.date()), "zk_effective");
        }
        Optional<Word> when = definition.deletions().when();
        Optional<String> ends = when.map(condition -> query.condition(condition, "when"));
        query.raw(ends.orElse("false"), "zk_deletes");
        // the values of a row that ends its member count where it adds it
        Optional<String> deletes =
                ends.filter(condition -> !definition.deletions().addsUnknown());
        definition
                .lastBy()
                .ifPresent(column ->
                        query.staged(staged.delivery().column(column.text()).orElseThrow(), "zk_last_by"));
        for (LookupSql lookup : lookups) {
            lookupSource.addMatch(query, lookup, staged, deletes);
            query.again("zk_effective", lookup.asOf());
        }
        for (DimensionColumn column :
                table.loaded().filter(each -> !each.isLookedUp()).toList()) {
            if (column.role() == Role.KEY && definition.kind() == Kind.MEMBERS) {
                query.taken(
                        column.take().orElseThrow(), new Column(column.name(), column.type()), true, Optional.empty());
            } else if (column.take().isPresent()) {
                SqlType plain = expressions.type(column.take().get(), column.name());
                Optional<SqlType> converted = Optional.of(column.type()).filter(type -> !type.equals(plain));
                query.computed(column.take().get(), column.name(), converted, when.filter(word -> deletes.isPresent()));
            } else if (staged.type(column.name()).isEmpty()) {
                query.raw(dialect.cast("null", column.type()), column.name());
            } else if (column.role() == Role.KEY || deletes.isEmpty()) {
                query.staged(stagedName(staged, column), column.name());
            } else {
                query.stagedUnless(deletes.get(), stagedName(staged, column), column.name());
            }
        }
        definition.surrogate().take().ifPresent(take -> smartKey(query, take, expressions, deletes));
        definition.from().ifPresent(input -> query.assertRows(input.assertions()));
        definition.from().ifPresent(input -> kept.marks().restrict(input, query, staged, dialect));
        return query.rows(definition.from().flatMap(input -> input.where()));
    }

    /** A key that the delivery says: a number, and none of a reserved member. */
    private void smartKey(DeliveryQuery query, Word take, Expressions expressions, Optional<String> deletes) {
        Dialect dialect = warehouse.dialect();
        String name = definition.keyColumn();
        SqlType type = expressions.type(take, "\"take\" of the surrogate key");
        String value = query.taken(take, name);
        String key = type.equals(SqlType.BIGINT) ? value : dialect.tryCast(value, SqlType.BIGINT);
        String needed = deletes.map(condition -> "not " + condition + " and ").orElse("");
        query.bad(needed + "(" + key + " is null or " + definition.isReserved(key) + ")", name, dialect.asText(value));
        query.raw(key, "zk_key");
    }
}
