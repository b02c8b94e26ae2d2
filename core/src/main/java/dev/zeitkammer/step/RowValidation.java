package dev.zeitkammer.step;

import dev.zeitkammer.engine.Caption;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Relation;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.SqlText;
import dev.zeitkammer.staging.WaitingRow;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/**
 * Sorts out the rows of a delivery that take no further part: rows with a bad value or a gap in the key, exact repetitions, and
 * rows that contradict each other. The same for dimensions and facts.
 */
public final class RowValidation {

    public static final Relation DELIVERY = Relation.of(
            "zk_delivery",
            "A staged row as the definition loads it, with the first value that does not fit.",
            "zk_row",
            "zk_effective",
            "zk_deletes",
            "zk_last_by",
            "zk_m*",
            "zk_a*",
            "zk_key",
            "zk_bad_column",
            "zk_bad_text");

    /** The reason of rows that fail an assertion. */
    private static final String FAILS = "fails an assertion";

    /** The outcome of rows that are staged again with the next delivery. */
    public static final String WAITING = "waiting";

    public static final Relation OUT = Relation.of(
                    "zk_out",
                    "A row that takes no further part: set aside, repeated, superseded or waiting.",
                    "zk_row",
                    "zk_outcome",
                    "zk_reason",
                    "zk_column",
                    "zk_text")
            .probedBy("zk_row");

    public static final Relation DUPLICATE_KEYS =
            Relation.of("zk_duplicate_keys", "A key that stands in more than one row.");

    public static final Relation ROWS = new Relation(
            "zk_rows",
            "A row that takes part, with the keys that it found where members look others up.",
            Stream.concat(DELIVERY.columns().stream(), Stream.of("zk_w*", "zk_adds"))
                    .toList());

    /** Whether any key stands in more than one row. */
    public static final Flag ANY_DUPLICATE_KEY = Flag.any(DUPLICATE_KEYS);

    private final Dialect dialect;
    private final List<String> keys;
    private final List<String> sameMoment;
    private final List<String> values;
    private final Map<String, String> shown = new HashMap<>();
    private final Set<String> mayBeNull = new HashSet<>();
    private boolean choosesLast;

    /**
     * @param keys the columns that must not be null
     * @param moment further columns that two rows must share to contradict or repeat each other
     * @param values the columns whose values may contradict each other
     */
    public RowValidation(Dialect dialect, List<String> keys, List<String> moment, List<String> values) {
        this.dialect = dialect;
        this.keys = List.copyOf(keys);
        this.sameMoment = new ArrayList<>(keys);
        this.sameMoment.addAll(moment);
        this.values = List.copyOf(values);
    }

    /** A key column that readers know under the name of a staged column. */
    public RowValidation showing(String key, String stagedColumn) {
        shown.put(key, stagedColumn);
        return this;
    }

    private String shown(String key) {
        return shown.getOrDefault(key, key);
    }

    private String shownKeys() {
        return dialect.text(keys.stream().map(this::shown).collect(Collectors.joining(", ")));
    }

    /** Null is a value in a key, like every other. */
    public RowValidation withNullInKeys() {
        return withNullIn(keys);
    }

    /** The same in some columns of it. */
    public RowValidation withNullIn(List<String> some) {
        mayBeNull.addAll(some);
        return this;
    }

    /** Of rows that contradict each other the one with the greatest {@code zk_last_by} counts, the others are superseded. */
    public RowValidation choosingLast() {
        choosesLast = true;
        return this;
    }

    /**
     * Without keys no row repeats or contradicts another.
     *
     * @param delivery the query that makes {@link #DELIVERY}
     */
    public List<Step> steps(DeliveryRows delivery) {
        return steps(delivery, List.of());
    }

    /** @param adding steps that add rows to the delivery, which must be {@link DeliveryRows#kept} then */
    public List<Step> steps(DeliveryRows delivery, List<Step> adding) {
        List<Step> steps = new ArrayList<>(List.of(deliveryStep(delivery)));
        steps.addAll(adding);
        steps.add(new Step.Keep(
                Step.caption("unusable rows", "Rows with a bad value, or with a gap in the key, are set aside."),
                OUT,
                unusable()));
        if (!keys.isEmpty()) {
            steps.add(new Step.Keep(
                    Step.caption("duplicate keys", "Keys that stand in more than one row."),
                    DUPLICATE_KEYS,
                    crowded()));
            steps.addAll(Step.asking(sortedOut(delivery.hasWaited())));
        }
        return steps;
    }

    private List<Step> sortedOut(boolean hasWaited) {
        List<Step> steps = new ArrayList<>();
        if (hasWaited) {
            steps.add(overtaken());
        }
        steps.add(new Step.Append(
                Step.caption(
                        "duplicates",
                        "Equal rows are repeated; rows of one key, and one moment, with different values contradict each"
                                + " other and are all set aside."),
                OUT,
                duplicates(),
                Optional.of(ANY_DUPLICATE_KEY)));
        return steps;
    }

    private static Step deliveryStep(DeliveryRows delivery) {
        Caption caption = Step.caption(
                "delivery",
                "The staged rows as the definition loads them, each with the first value that does not fit.");
        if (delivery.isPlain()) {
            return new Step.Name(caption, DELIVERY, delivery.sql());
        }
        return delivery.attempt()
                .<Step>map(attempt -> new Step.Attempt(caption, DELIVERY, delivery.sql(), attempt))
                .orElseGet(() -> new Step.Keep(caption, DELIVERY, delivery.sql()));
    }

    private Step overtaken() {
        return new Step.Append(
                Step.caption(
                        "overtaken rows",
                        "A row that waited gives way to one of its key, and moment, that was delivered later."),
                OUT,
                Sql.of("""
                select zk_row, 'unchanged', ${no_text}, ${no_text}, ${no_text}
                from (
                  select zk_row, zk_delivered, max(zk_delivered) over (partition by ${together}) as zk_newest
                  from (
                    select d.*, ${delivered} as zk_delivered
                    from (${taking}) as d
                    join ${duplicate_keys} as c on ${same_key}
                  ) as told
                ) as compared
                where zk_delivered < zk_newest""")
                        .with("no_text", dialect.noText())
                        .with(DUPLICATE_KEYS)
                        .with("together", together())
                        .with("delivered", WaitingRow.delivered("d.zk_row"))
                        .with("taking", taking())
                        .with("same_key", sameKey())
                        .text(),
                Optional.of(ANY_DUPLICATE_KEY));
    }

    /** Gives what is left a name. */
    public Step rows() {
        return new Step.Name(Step.caption("rows", "The rows that take part."), ROWS, taking());
    }

    /**
     * Whether a row of a dimension, under an alias, states values: one that ends its member does so where it adds it.
     *
     * @param adds whether such rows may add members: {@link #ROWS} tell then which do
     */
    public static String states(boolean adds, String alias) {
        return adds ? "(not " + alias + ".zk_deletes or " + alias + ".zk_adds)" : "not " + alias + ".zk_deletes";
    }

    private String taking() {
        return takingRows(dialect);
    }

    /** The rows that are not out. */
    public static String takingRows(Dialect dialect) {
        return """
                select d.*
                from %s as d
                where %s""".formatted(DELIVERY, dialect.lacks(OUT.name(), "d"));
    }

    /** SQL for the number of rows that are not out; a row is out once. */
    public static String takingNumber() {
        return "((select count(*) from " + DELIVERY + ") - (select count(*) from " + OUT + "))";
    }

    /** A query of the rows that are set aside or wait, for {@link Plan.Reading#setAside}. */
    public static String setAside() {
        return "select zk_row, zk_reason, zk_column, zk_text, zk_outcome = '" + WAITING + "' from " + OUT
                + " where zk_outcome in ('setAside', '" + WAITING + "') order by zk_row";
    }

    private String unusable() {
        List<String> blanks =
                keys.stream().filter(key -> !mayBeNull.contains(key)).toList();
        String blank = blanks.stream()
                .map(key -> "when " + dialect.quote(key) + " is null then " + dialect.text(shown(key)))
                .collect(Collectors.joining(" "));
        return """
                select zk_row, 'setAside' as zk_outcome,
                  case when zk_bad_column like '%s%%' then '%s'
                    when zk_bad_column is not null then 'bad value' else 'blank key' end as zk_reason,
                  case when zk_bad_column like '%s%%' then substr(zk_bad_column, %d) else coalesce(zk_bad_column, %s) end as zk_column,
                  zk_bad_text as zk_text
                from %s
                where zk_bad_column is not null%s""".formatted(
                        DeliveryQuery.ASSERTED,
                        FAILS,
                        DeliveryQuery.ASSERTED,
                        DeliveryQuery.ASSERTED.length() + 1,
                        blanks.isEmpty() ? "null" : "case " + blank + " end",
                        DELIVERY,
                        blanks.stream()
                                .map(key -> " or " + dialect.quote(key) + " is null")
                                .collect(Collectors.joining()));
    }

    private String crowded() {
        return """
                select %s
                from (
                %s
                ) as d
                group by %s
                having count(*) > 1""".formatted(dialect.columns(keys), SqlText.indented(taking(), 2), dialect.columns(keys));
    }

    private String duplicates() {
        return choosesLast ? superseded() : contradicting();
    }

    private String contradicting() {
        return contradicting(valued(), together(), shownKeys(), dialect);
    }

    /**
     * Sorts out rows that come to one key only once they have found their members.
     *
     * @param rows the relation of these rows
     * @param keys the columns that tell them apart
     * @param values the columns whose values may contradict each other
     * @param shown the name of the key for readers
     */
    public static Step duplicatesAmong(
            Relation rows, List<String> keys, List<String> values, String shown, Dialect dialect) {
        String together = dialect.columns(keys);
        String valued = "select d.*, dense_rank() over (partition by " + together + " order by "
                + dialect.columns(values) + ") as zk_value from " + rows + " as d";
        return new Step.Append(
                Step.caption(
                        "duplicates once members are found",
                        "Rows that come to one key, since a reserved member stands in for several, repeat or contradict each other."),
                OUT,
                contradicting(valued, together, dialect.text(shown), dialect));
    }

    private static String contradicting(String valued, String together, String shownKeys, Dialect dialect) {
        return Sql.of("""
                select zk_row,
                  case when zk_values > 1 then 'setAside' else 'repeated' end,
                  case when zk_values > 1 then 'conflicting duplicate' end,
                  case when zk_values > 1 then ${shown_keys} end,
                  ${no_text}
                from (
                  select zk_row,
                    max(zk_value) over (partition by ${together}) as zk_values,
                    row_number() over (partition by ${together} order by zk_row) as zk_nth
                  from (
                    ${valued}
                  ) as valued
                ) as numbered
                where zk_values > 1 or zk_nth > 1""")
                .with("shown_keys", shownKeys)
                .with("no_text", dialect.noText())
                .with("together", together)
                .with("valued", valued)
                .text();
    }

    /** Rows that share the greatest value contradict each other still; what equals the chosen row is repeated. */
    private String superseded() {
        String winners = "partition by " + together() + ", zk_rank";
        return Sql.of("""
                select zk_row,
                  case when zk_ties > 1 then 'setAside' when zk_value = zk_winner then 'repeated' else 'unchanged' end,
                  case when zk_ties > 1 then 'conflicting duplicate' end,
                  case when zk_ties > 1 then ${shown_keys} end,
                  ${no_text}
                from (
                  select zk_row, zk_value, zk_nth,
                    max(case when zk_rank = 1 then zk_value end) over (partition by ${together}) as zk_winner,
                    max(case when zk_rank = 1 then zk_variety end) over (partition by ${together}) as zk_ties
                  from (
                    select *, max(zk_value) over (${winners}) - min(zk_value) over (${winners}) + 1 as zk_variety
                    from (
                      select valued.*,
                        rank() over (partition by ${together} order by zk_last_by desc nulls last) as zk_rank,
                        row_number() over (partition by ${together} order by zk_last_by desc nulls last, zk_row) as zk_nth
                      from (
                        ${valued}
                      ) as valued
                    ) as ranked
                  ) as varied
                ) as judged
                where zk_ties > 1 or zk_nth > 1""")
                .with("no_text", dialect.noText())
                .with("shown_keys", shownKeys())
                .with("together", together())
                .with("winners", winners)
                .with("valued", valued())
                .text();
    }

    private String together() {
        return dialect.columns(sameMoment);
    }

    /** The rows of keys that stand in several; rows of one key and moment have equal numbers where their values are equal. */
    private String valued() {
        return "select d.*, dense_rank() over (partition by "
                + dialect.list(sameMoment, name -> dialect.column("d", name)) + " order by "
                + (values.isEmpty() ? "1" : dialect.list(values, name -> dialect.column("d", name)))
                + ") as zk_value\n    from (" + taking() + ") as d\n    join " + DUPLICATE_KEYS + " as c on "
                + sameKey();
    }

    /** Whether a row of the delivery, d, is of a key that stands in several rows, c. */
    private String sameKey() {
        return keys.stream()
                .map(key -> dialect.equal(dialect.column("c", key), dialect.column("d", key), mayBeNull.contains(key)))
                .collect(Collectors.joining(" and "));
    }
}
