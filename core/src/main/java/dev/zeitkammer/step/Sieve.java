package dev.zeitkammer.step;

import dev.zeitkammer.engine.Dialect;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.Collectors;

/**
 * Sorts out the rows of a delivery that take no further part: rows with a bad value or a gap in the key, exact repetitions, and
 * rows that contradict each other. The same for dimensions and facts.
 */
public final class Sieve {

    /** The rows as the definition loads them: {@code zk_row}, the columns, {@code zk_bad_column}, {@code zk_bad_text}. */
    public static final String DELIVERY = "zk_delivery";

    /** Rows that are out: {@code zk_row}, {@code zk_outcome}, {@code zk_reason}, {@code zk_column}, {@code zk_text}. */
    public static final String OUT = "zk_out";

    /** Keys that stand in more than one row. */
    public static final String CROWDED = "zk_crowded";

    /** The rows that take part. */
    public static final String ROWS = "zk_rows";

    private final Dialect dialect;
    private final List<String> keys;
    private final List<String> sameMoment;
    private final List<String> values;

    /**
     * @param keys the columns that must not be null
     * @param moment further columns that two rows must share to contradict or repeat each other
     * @param values the columns whose values may contradict each other
     */
    public Sieve(Dialect dialect, List<String> keys, List<String> moment, List<String> values) {
        this.dialect = dialect;
        this.keys = List.copyOf(keys);
        this.sameMoment = new ArrayList<>(keys);
        this.sameMoment.addAll(moment);
        this.values = List.copyOf(values);
    }

    /** @param delivery the query that makes {@link #DELIVERY} */
    public List<Step> steps(String delivery) {
        return List.of(
                new Step.Write(
                        "delivery",
                        "The staged rows as the definition loads them, each with the first value that does not fit.",
                        dialect.keep(DELIVERY, delivery)),
                new Step.Write(
                        "unusable rows",
                        "Rows with a bad value, or with a gap in the key, are set aside.",
                        dialect.keep(OUT, unusable())),
                new Step.Write(
                        "crowded keys", "Keys that stand in more than one row.", dialect.keep(CROWDED, crowded())),
                new Step.Write(
                        "duplicates",
                        "Equal rows are repeated; rows of one key, and one moment, with different values contradict each"
                                + " other and are all set aside.",
                        "insert into " + OUT + "\n" + duplicates(),
                        Step.any(CROWDED)));
    }

    /** Gives what is left a name. */
    public Step rows() {
        return new Step.Write("rows", "The rows that take part.", dialect.name(ROWS, taking()));
    }

    /** The rows that are not out. */
    public String taking() {
        return """
                select d.*
                from %s as d
                where not exists (select 1 from %s as o where o.zk_row = d.zk_row)""".formatted(DELIVERY, OUT);
    }

    /** A query of the rows set aside, for {@link Plan#setAside}. */
    public static String setAside() {
        return "select zk_row, zk_reason, zk_column, zk_text from " + OUT
                + " where zk_outcome = 'setAside' order by zk_row";
    }

    private String unusable() {
        return """
                select zk_row, 'setAside' as zk_outcome,
                  case when zk_bad_column is not null then 'bad value' else 'blank key' end as zk_reason,
                  coalesce(zk_bad_column, case %s end) as zk_column,
                  zk_bad_text as zk_text
                from %s
                where zk_bad_column is not null or %s""".formatted(
                keys.stream()
                        .map(key -> "when " + dialect.quote(key) + " is null then " + dialect.text(key))
                        .collect(Collectors.joining(" ")),
                DELIVERY,
                keys.stream().map(key -> dialect.quote(key) + " is null").collect(Collectors.joining(" or ")));
    }

    private String crowded() {
        return """
                select %s
                from (
                %s
                ) as d
                group by %s
                having count(*) > 1""".formatted(dialect.columns(keys), taking().indent(2).stripTrailing(), dialect.columns(keys));
    }

    private String duplicates() {
        String together = dialect.columns(sameMoment);
        return """
                select zk_row,
                  case when zk_values > 1 then 'setAside' else 'repeated' end,
                  case when zk_values > 1 then 'conflicting duplicate' end,
                  case when zk_values > 1 then %s end,
                  cast(null as varchar)
                from (
                  select zk_row,
                    max(zk_value) over (partition by %s) as zk_values,
                    row_number() over (partition by %s order by zk_row) as zk_nth
                  from (
                    select d.*, dense_rank() over (partition by %s order by %s) as zk_value
                    from (%s) as d
                    join %s as c using (%s)
                  ) as valued
                ) as numbered
                where zk_values > 1 or zk_nth > 1""".formatted(
                        dialect.text(String.join(", ", keys)),
                        together,
                        together,
                        together,
                        values.isEmpty() ? "1" : dialect.columns(values),
                        taking(),
                        CROWDED,
                        dialect.columns(keys));
    }
}
