package dev.zeitkammer.step;

import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Relation;
import java.util.List;
import java.util.stream.Collectors;
import java.util.stream.IntStream;

/**
 * How to read off the change table, before it is applied, which values change.
 *
 * @param attributes the columns that are compared
 * @param pairs a query of {@code zk_member} (the key as text), {@code zk_causes} ({@code new version}, {@code in place},
 *     {@code healed} or {@code followed}) and,
 *     for the attribute number i, {@code zk_old_i} and {@code zk_new_i} as texts
 */
public record Differences(List<String> attributes, String pairs) {

    /** The pairs where they are kept. */
    public static final Relation TABLE = Relation.of(
            "zk_pairs",
            "A row that changes, with the old and the new value of each attribute.",
            "zk_member",
            "zk_causes",
            "zk_old_*",
            "zk_new_*");

    /** Where nothing can change. */
    public static final Differences NONE = new Differences(List.of(), "");

    public Differences {
        attributes = List.copyOf(attributes);
    }

    /** A column that may change, with SQL for its value before and after. */
    public record Changing(String column, String before, String after) {

        /** The same of rows that meet a condition; in others it does not change. */
        public Changing where(String condition) {
            return new Changing(column, only(condition, before), only(condition, after));
        }

        private static String only(String condition, String value) {
            return "case when " + condition + " then " + value + " end";
        }
    }

    /**
     * The rows that change.
     *
     * @param member SQL for the key as text
     * @param causes SQL for what changes them, or what that causes
     * @param from where they are found: {@code from …}
     */
    public record Rows(String member, String causes, String from) {}

    /** What changes in some columns of rows. */
    public static Differences of(Dialect dialect, List<Changing> changing, Rows rows) {
        String values = IntStream.range(0, changing.size())
                .mapToObj(index -> ", " + dialect.asText(changing.get(index).before()) + " as zk_old_" + index + ", "
                        + dialect.asText(changing.get(index).after()) + " as zk_new_" + index)
                .collect(Collectors.joining());
        return new Differences(
                changing.stream().map(Changing::column).toList(),
                "select " + rows.member() + " as zk_member, " + rows.causes() + " as zk_causes" + values + "\n"
                        + rows.from());
    }
}
