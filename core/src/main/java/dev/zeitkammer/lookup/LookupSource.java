package dev.zeitkammer.lookup;

import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Dimension.Kind;
import dev.zeitkammer.definition.Lookup;
import dev.zeitkammer.definition.MemberLookup;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.staging.StagedRows;
import dev.zeitkammer.staging.Wanted;
import dev.zeitkammer.step.DeliveryQuery;
import dev.zeitkammer.step.Flag;
import dev.zeitkammer.step.Step;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.IntStream;

/** What lookups take from staged rows, in the types that the dimensions as they stand want. */
public final class LookupSource {

    private final Warehouse warehouse;
    private final Map<String, List<Column>> dimensions = new HashMap<>();
    private final Map<String, Boolean> returned = new HashMap<>();

    public LookupSource(Warehouse warehouse) {
        this.warehouse = warehouse;
    }

    /** Declares the staged columns that a lookup needs. */
    public void want(Lookup lookup, Wanted wanted) {
        String purpose = "lookup \"" + lookup.role() + "\"";
        for (int position = 0; position < lookup.match().size(); position++) {
            Word column = lookup.match().get(position);
            Optional<SqlType> type = keyType(lookup.dimension(), position);
            if (lookup.dimension().kind() == Kind.MINUTES) {
                wanted.taken(column, purpose, Optional.empty());
            } else if (wanted.isStaged(column) && type.filter(SqlType::isMoment).isPresent()) {
                wanted.moment(column, purpose);
            } else {
                wanted.taken(column, purpose, type);
            }
        }
        lookup.asOf().ifPresent(asOf -> wanted.moment(asOf, "as-of of " + purpose));
    }

    /** The type of a column of a dimension's key; empty while the dimension has not been loaded. */
    private Optional<SqlType> keyType(Dimension dimension, int position) {
        return switch (dimension.kind()) {
            case CALENDAR -> Optional.of(SqlType.DATE);
            case MINUTES -> Optional.of(SqlType.TIME);
            case MEMBERS, COMBINATION ->
                standing(dimension, dimension.key().get(position).text());
        };
    }

    private Optional<SqlType> standing(Dimension dimension, String column) {
        return dimensions.computeIfAbsent(dimension.table(), warehouse::columns).stream()
                .filter(known -> known.name().equalsIgnoreCase(column))
                .map(Column::type)
                .findFirst();
    }

    /** Whether a dimension's table keeps versions, or will once it is there. */
    private boolean hasVersions(Dimension dimension) {
        return dimension.hasHistory()
                || standing(dimension, dimension.conventions().column(AuditColumn.IS_CURRENT))
                        .isPresent();
    }

    /** Whether a member was deleted once and has come back, so that there is a gap between two of its versions. */
    private boolean returns(Lookup lookup) {
        if (!isVersioned(lookup)) {
            return false;
        }
        Dimension dimension = lookup.dimension();
        if (!returned.containsKey(dimension.table())) {
            askReturned(List.of(dimension));
        }
        return Boolean.TRUE.equals(returned.get(dimension.table()));
    }

    private boolean isVersioned(Lookup lookup) {
        return lookup.asOf().isPresent()
                && standing(lookup.dimension(), lookup.dimension().conventions().column(AuditColumn.VERSION))
                        .isPresent();
    }

    /** Asks what several lookups need to know of their dimensions, all in one query. */
    public void look(List<Lookup> lookups) {
        askReturned(lookups.stream()
                .filter(this::isVersioned)
                .map(Lookup::dimension)
                .distinct()
                .filter(dimension -> !returned.containsKey(dimension.table()))
                .toList());
    }

    private void askReturned(List<Dimension> dimensions) {
        if (dimensions.isEmpty()) {
            return;
        }
        Dialect dialect = warehouse.dialect();
        List<Flag> flags = dimensions.stream()
                .map(dimension -> Flag.exists("select 1 from " + warehouse.table(dimension.table()) + " as v where "
                        + dimension.conventions().holds(dialect, AuditColumn.IS_DELETED) + " and not "
                        + dimension.conventions().holds(dialect, AuditColumn.IS_CURRENT)))
                .toList();
        List<Long> found = warehouse.numbers(Step.Ask.numbers(flags));
        for (int index = 0; index < dimensions.size(); index++) {
            returned.put(dimensions.get(index).table(), found.get(index) != 0);
        }
    }

    private SqlType momentType(Dimension dimension) {
        return standing(dimension, dimension.conventions().column(AuditColumn.VALID_FROM))
                .orElse(SqlType.DATE);
    }

    /** The lookup of a fact. */
    public LookupSql ofFact(int number, Lookup lookup, StagedRows staged) {
        SqlType momentType = momentType(lookup.dimension());
        SqlType asOfType = lookup.asOf()
                .map(asOf -> stagedType(staged, asOf))
                .filter(SqlType::isMoment)
                .orElse(momentType);
        return new LookupSql(
                number,
                lookup,
                warehouse,
                hasVersions(lookup.dimension()),
                momentType,
                asOfType,
                false,
                returns(lookup));
    }

    /** The lookup of a fact's stored values, judged at a date of a type; empty: at a moment of the dimension's own type. */
    public LookupSql ofStored(int number, Lookup lookup, Optional<SqlType> asOfType) {
        SqlType momentType = momentType(lookup.dimension());
        return new LookupSql(
                number,
                lookup,
                warehouse,
                hasVersions(lookup.dimension()),
                momentType,
                asOfType.orElse(momentType),
                false,
                returns(lookup));
    }

    /** The types of the columns of a lookup's natural key. */
    public List<SqlType> keyTypes(Lookup lookup) {
        return IntStream.range(0, lookup.match().size())
                .mapToObj(position -> keyType(lookup.dimension(), position).orElse(SqlType.VARCHAR))
                .toList();
    }

    /**
     * The lookup of a dimension: of the version that is valid at the row's effective, or of the newest one.
     *
     * @param momentType the type of the effective
     */
    public LookupSql ofDimension(int number, MemberLookup member, SqlType momentType, boolean within) {
        Lookup lookup = member.lookup();
        boolean versions = hasVersions(lookup.dimension());
        Optional<Word> asOf = versions && !member.followsNewest() ? Optional.of(lookup.role()) : Optional.empty();
        Lookup dated = lookup.at(asOf);
        SqlType standing = within ? momentType : momentType(lookup.dimension());
        return new LookupSql(
                number, dated, warehouse, versions, standing, momentType, within, within || returns(dated));
    }

    private static SqlType stagedType(StagedRows staged, Word column) {
        return staged.type(column.text()).orElse(SqlType.VARCHAR);
    }

    /**
     * Adds the natural key to the delivery, in columns {@link LookupSql#match}, in the types of the dimension.
     *
     * @param unless a condition for which nothing is looked up
     */
    public void addMatch(DeliveryQuery query, LookupSql lookup, StagedRows staged, Optional<String> unless) {
        for (int position = 0; position < lookup.lookup().match().size(); position++) {
            Word word = lookup.lookup().match().get(position);
            SqlType keyType = keyTypes(lookup.lookup()).get(position);
            if (isMissing(word, staged)) {
                query.raw(warehouse.dialect().cast("null", keyType), lookup.match(position));
                continue;
            }
            String value = matched(lookup, position, query);
            query.raw(unless(value, unless), lookup.match(position));
        }
    }

    /** Whether a column is not staged, as feeds may have it: it is no expression either, which names columns that are. */
    private static boolean isMissing(Word word, StagedRows staged) {
        return Wanted.isName(word) && staged.delivery().column(word.text()).isEmpty();
    }

    private static String unless(String value, Optional<String> unless) {
        return unless.map(condition -> "case when not " + condition + " then " + value + " end")
                .orElse(value);
    }

    private String matched(LookupSql lookup, int position, DeliveryQuery query) {
        Dialect dialect = warehouse.dialect();
        Dimension dimension = lookup.lookup().dimension();
        Word word = lookup.lookup().match().get(position);
        SqlType stagedType = query.type(word);
        String column = query.taken(word, "lookup \"" + lookup.lookup().role() + "\"");
        SqlType keyType = keyType(dimension, position).orElse(stagedType);
        if (dimension.kind() == Kind.MINUTES) {
            return dialect.minuteOf(
                    stagedType.isText() ? dialect.tryCast(column, SqlType.TIME) : column,
                    stagedType.isText() ? SqlType.TIME : stagedType);
        }
        boolean same = stagedType.fitsIn(keyType) && !keyType.equals(SqlType.TIMESTAMP);
        if (same && stagedType.isText() && dimension.kind() != Kind.COMBINATION) {
            return "nullif(" + column + ", '')";
        }
        return same ? column : dialect.tryCast(column, keyType);
    }

    /** Adds the date of a fact's lookup to the delivery, in the column {@link LookupSql#asOf}. */
    public void addAsOf(DeliveryQuery query, LookupSql lookup, StagedRows staged, Optional<String> unless) {
        lookup.lookup().asOf().ifPresent(asOf -> {
            if (staged.delivery().column(asOf.text()).isEmpty()) {
                query.raw(warehouse.dialect().cast("null", lookup.asOfType()), lookup.asOf());
                return;
            }
            boolean moment = stagedType(staged, asOf).isMoment();
            String column = column(asOf, staged);
            String date = moment ? column : warehouse.dialect().tryCast(column, lookup.asOfType());
            query.raw(unless(date, unless), lookup.asOf());
        });
    }

    private String column(Word word, StagedRows staged) {
        return warehouse
                .dialect()
                .column("s", staged.delivery().column(word.text()).orElseThrow());
    }
}
