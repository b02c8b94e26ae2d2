package dev.zeitkammer.dimension;

import dev.zeitkammer.align.Aligning;
import dev.zeitkammer.align.Alignment;
import dev.zeitkammer.definition.Attribute;
import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.ChangeType;
import dev.zeitkammer.definition.Conventions;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.DefinitionException;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Dimension.Kind;
import dev.zeitkammer.definition.MemberLookup;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.dimension.current.AddedAttributes;
import dev.zeitkammer.dimension.current.Extract;
import dev.zeitkammer.dimension.members.HierarchyBridge;
import dev.zeitkammer.dimension.members.ReservedMembers;
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
import java.util.Arrays;
import java.util.HashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.stream.Stream;

/** Loads staged rows into a dimension. */
public final class DimensionLoad implements TableLoad {

    private final Dimension definition;
    private final Conventions conventions;
    private final Warehouse warehouse;
    private final KeptOfTable kept;
    private final List<Column> existing;
    private final Map<String, SqlType> existingTypes = new TreeMap<>(String.CASE_INSENSITIVE_ORDER);
    private final Set<String> named = new TreeSet<>(String.CASE_INSENSITIVE_ORDER);
    private final LookupSource lookupSource;

    /**
     * What the books know of a dimension's table.
     *
     * @param highestKey SQL for the highest surrogate key that it ever gave
     * @param addedBy columns that were added later, each with the load before which they were not there
     * @param marks what has been loaded of its inputs
     * @param newestDate the newest load date for which it was loaded, as a text; empty where it never was
     */
    public record KeptOfTable(String highestKey, Map<String, Long> addedBy, Marks marks, Optional<String> newestDate) {}

    public DimensionLoad(Dimension definition, Conventions conventions, Warehouse warehouse, KeptOfTable kept) {
        this.definition = definition;
        this.conventions = conventions;
        this.warehouse = warehouse;
        this.kept = kept;
        this.existing = warehouse.columns(definition.table());
        this.existing.forEach(column -> existingTypes.putIfAbsent(column.name(), column.type()));
        this.named.addAll(named());
        this.lookupSource = new LookupSource(conventions, warehouse);
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
            definition.key().forEach(key -> wanted.column(key, "business key", existing(key.text())));
        }
        definition.history().effective().ifPresent(effective -> wanted.moment(effective, "effective"));
        definition.lastBy().ifPresent(column -> wanted.column(column, "duplicates", Optional.empty()));
        for (Attribute attribute : definition.attributes()) {
            if (attribute.take().isPresent()) {
                wanted.expression(attribute.take().get());
            } else {
                wanted.column(attribute.name(), "attribute", attribute.as().or(() -> existing(attribute)));
            }
        }
        definition.lookups().forEach(lookup -> lookupSource.want(lookup.lookup(), wanted));
        definition.from().ifPresent(input -> Marks.want(input, wanted));
        definition.from().flatMap(input -> input.where()).ifPresent(wanted::expression);
        definition.deletions().when().ifPresent(wanted::expression);
        if (definition.allOthers().isPresent()) {
            wanted.all().stream().filter(this::isOther).forEach(name -> wanted.column(name, existing(name)));
        }
    }

    private Optional<SqlType> existing(String column) {
        return Optional.ofNullable(existingTypes.get(column));
    }

    private Optional<SqlType> existing(Attribute attribute) {
        return existing(attribute.name().text()).or(() -> attribute.was().flatMap(was -> existing(was.text())));
    }

    private boolean isOther(String column) {
        return !named.contains(column);
    }

    /** The staged columns that the definition names; the others may be loaded by {@code all-others}. */
    private List<String> named() {
        Stream<Word> attributes = definition.attributes().stream()
                .flatMap(attribute -> Stream.concat(Stream.of(attribute.name()), attribute.previous().stream()));
        Stream<Word> matches = definition.lookups().stream().flatMap(lookup -> lookup.lookup().match().stream());
        Stream<Word> single = Stream.concat(definition.history().effective().stream(), definition.lastBy().stream());
        return Stream.of(definition.key().stream(), attributes, matches, single)
                .flatMap(words -> words)
                .map(Word::text)
                .toList();
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
        SqlType momentType = momentType(staged, stamp, expressions);
        List<LookupSql> lookups = lookups(momentType);
        List<DimensionColumn> described = described(staged, expressions, lookups);
        expressions.throwIfAny();
        DimensionTable table = table(described, momentType);
        refuseTakenNames(table);
        Prepared prepared = prepared(table, stamp);
        Map<String, Long> addedBy = addedBy(table, stamp);
        StoredLookups lookedUp = new StoredLookups(
                definition.lookups(),
                lookups,
                warehouse,
                warehouse.table(definition.table()),
                AddedAttributes.any(table, addedBy));
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
                    definition.lookups().get(index), lookups.get(index).identity()));
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
        boolean hasVersions =
                existing(conventions.column(AuditColumn.IS_CURRENT)).isPresent();
        return DimensionTable.of(
                definition, conventions, described, momentType, definition.hasHistory() || hasVersions);
    }

    private Prepared prepared(DimensionTable table, Stamp stamp) {
        String ended = new Moments(table, warehouse.dialect()).literal(stamp.date());
        Alignment alignment = Aligning.of(table.shape(warehouse, ended), warehouse);
        if (definition.hierarchy().isPresent()) {
            alignment = alignment.and(Aligning.of(HierarchyBridge.shape(definition), warehouse));
        }
        return new Prepared(
                alignment, List.of(), List.of(new ReservedMembers(table, warehouse, stamp).change()), List.of());
    }

    /** The table of a combination whose members only facts bring. */
    private DimensionTable combined() {
        List<DimensionColumn> columns = definition.attributes().stream()
                .map(attribute -> DimensionColumn.key(
                        attribute, attribute.as().or(() -> existing(attribute)).orElse(SqlType.VARCHAR)))
                .toList();
        return table(columns, SqlType.DATE);
    }

    private List<LookupSql> lookups(SqlType momentType) {
        List<LookupSql> lookups = new ArrayList<>();
        for (MemberLookup lookup : definition.lookups()) {
            lookups.add(lookupSource.ofDimension(
                    lookups.size(), lookup.lookup(), momentType, lookup.isParentIn(definition)));
        }
        return lookups;
    }

    /** Columns that are missing in a table that exists are added by this very load. */
    private Map<String, Long> addedBy(DimensionTable table, Stamp stamp) {
        Map<String, Long> addedBy = new HashMap<>(kept.addedBy());
        if (!existing.isEmpty()) {
            table.columns().stream()
                    .filter(column -> existing(column.name()).isEmpty())
                    .filter(column -> column.was().flatMap(this::existing).isEmpty())
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
        return switch (definition.surrogate()) {
            case SEQUENCE -> new SurrogateKeys.Sequence(kept.highestKey());
            case HASH -> new SurrogateKeys.Hash(table, warehouse.dialect());
        };
    }

    private List<DimensionColumn> described(StagedRows staged, Expressions expressions, List<LookupSql> lookups) {
        List<DimensionColumn> columns = new ArrayList<>();
        if (definition.kind() == Kind.COMBINATION) {
            definition
                    .attributes()
                    .forEach(attribute ->
                            columns.add(DimensionColumn.key(attribute, attributeType(attribute, staged, expressions))));
            return columns;
        }
        for (Word key : definition.key()) {
            SqlType type = Alignment.widened(existing(key.text()), stagedType(staged, key.text()));
            columns.add(DimensionColumn.plain(key.text(), type, Role.KEY));
        }
        for (Attribute attribute : definition.attributes()) {
            SqlType type = attributeType(attribute, staged, expressions);
            columns.add(DimensionColumn.of(attribute, type));
            attribute.previous().ifPresent(name -> columns.add(DimensionColumn.previous(name, attribute, type)));
        }
        for (int index = 0; index < lookups.size(); index++) {
            columns.add(DimensionColumn.of(
                    definition.lookups().get(index), lookups.get(index).identity()));
        }
        definition
                .allOthers()
                .ifPresent(change -> others(staged)
                        .forEach(name -> columns.add(
                                staged.type(name).isPresent() ? other(name, change, staged) : notDelivered(name))));
        return columns;
    }

    /** The columns that only {@code all-others} loads: those of the table in their order, then those that are new. */
    private Set<String> others(StagedRows staged) {
        Set<String> own = new TreeSet<>(String.CASE_INSENSITIVE_ORDER);
        own.add(definition.keyColumn());
        definition.lookups().forEach(lookup -> own.add(lookup.column()));
        Arrays.stream(AuditColumn.values()).map(conventions::column).forEach(own::add);
        Set<String> others = new LinkedHashSet<>();
        existing.stream()
                .map(Column::name)
                .filter(this::isOther)
                .filter(name -> !own.contains(name))
                .forEach(name -> others.add(staged.delivery().column(name).orElse(name)));
        staged.delivery().header().stream().filter(this::isOther).forEach(others::add);
        return others;
    }

    /** A column that is not delivered this time says nothing: a new version has the value of the one before. */
    private DimensionColumn notDelivered(String name) {
        return DimensionColumn.plain(name, existing(name).orElseThrow(), Role.TYPE_0);
    }

    private DimensionColumn other(String name, ChangeType change, StagedRows staged) {
        Attribute attribute = Attribute.plain(new Word(name, definition.name().place()), change);
        return DimensionColumn.of(attribute, Alignment.widened(existing(name), stagedType(staged, name)));
    }

    private SqlType attributeType(Attribute attribute, StagedRows staged, Expressions expressions) {
        String name = attribute.name().text();
        SqlType delivered = attribute
                .take()
                .map(take -> expressions.type(take, "\"take\" of \"" + name + "\""))
                .orElseGet(() -> stagedType(staged, name));
        return attribute.as().orElseGet(() -> Alignment.widened(existing(attribute), delivered));
    }

    private static SqlType stagedType(StagedRows staged, String column) {
        return staged.type(column).orElse(SqlType.VARCHAR);
    }

    private SqlType momentType(StagedRows staged, Stamp stamp, Expressions expressions) {
        Optional<SqlType> standing =
                existing(conventions.column(AuditColumn.VALID_FROM)).filter(SqlType::isMoment);
        Optional<Word> effective = definition.history().effective();
        if (effective.isEmpty()) {
            return ofLoadDate(standing, stamp, expressions);
        }
        SqlType type = stagedType(staged, effective.get().text());
        if (!type.isMoment()) {
            expressions.problem(
                    effective.get(),
                    "\"" + effective.get() + "\" is " + type
                            + " in the staged rows; \"effective\" needs a date or a timestamp (list the column under"
                            + " columns: of the input, with its format under csv: if it is not ISO 8601)");
            return SqlType.DATE;
        }
        if (conventions.inclusive() && definition.hasHistory() && type.equals(SqlType.TIMESTAMP)) {
            expressions.problem(
                    effective.get(),
                    "\"" + effective.get()
                            + "\" is a timestamp, and \"valid-to: inclusive\" is for dates; use exclusive");
        }
        return Alignment.widened(standing, type);
    }

    private SqlType ofLoadDate(Optional<SqlType> standing, Stamp stamp, Expressions expressions) {
        if (stamp.date().isDay()) {
            return standing.orElse(SqlType.DATE);
        }
        if (conventions.inclusive() && definition.hasHistory()) {
            expressions.problem(
                    definition.name(),
                    "\"valid-to: inclusive\" is for dates, and the load date " + stamp.date()
                            + " has a time; use exclusive, or load for a day");
        }
        return SqlType.TIMESTAMP;
    }

    private void refuseTakenNames(DimensionTable table) {
        Set<String> seen = new TreeSet<>(String.CASE_INSENSITIVE_ORDER);
        for (DimensionColumn column : table.columns()) {
            if (seen.contains(column.name())) {
                throw new DefinitionException(
                        definition.name().place(),
                        "the staged column \"" + column.name() + "\" has the name of another column of "
                                + definition.table() + "; rename that one under conventions: columns:");
            }
            seen.add(column.name());
        }
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
                    + conventions.openEnd().map(moments::literal).orElseGet(() -> moments.literal(Moments.LAST));
            query.bad(outside, effective.get().text(), dialect.cast(column, SqlType.VARCHAR));
        } else {
            query.raw(moments.literal(stamp.date()), "zk_effective");
        }
        Optional<Word> when = definition.deletions().when();
        Optional<String> deletes = when.map(condition -> query.condition(condition, "when"));
        query.raw(deletes.orElse("false"), "zk_deletes");
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
            if (column.take().isPresent()) {
                SqlType plain = expressions.type(column.take().get(), column.name());
                Optional<SqlType> converted = Optional.of(column.type()).filter(type -> !type.equals(plain));
                query.computed(column.take().get(), column.name(), converted, when);
            } else if (staged.type(column.name()).isEmpty()) {
                query.raw(dialect.cast("null", column.type()), column.name());
            } else if (column.role() == Role.KEY && column.type().isText()) {
                query.stagedText(stagedName(staged, column), column.name());
            } else if (column.role() == Role.KEY || deletes.isEmpty()) {
                query.staged(stagedName(staged, column), column.name());
            } else {
                query.stagedUnless(deletes.get(), stagedName(staged, column), column.name());
            }
        }
        definition.from().ifPresent(input -> kept.marks().restrict(input, query, staged, dialect));
        return query.rows(definition.from().flatMap(input -> input.where()));
    }
}
