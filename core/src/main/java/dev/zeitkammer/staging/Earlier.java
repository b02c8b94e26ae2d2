package dev.zeitkammer.staging;

import dev.zeitkammer.engine.SqlType;
import java.util.List;
import java.util.Map;
import java.util.function.Function;

/**
 * What earlier loads left that a staging goes by.
 *
 * @param types the types that earlier deliveries of an input decided, by its name
 * @param marks the greatest loaded values of running columns, by input, as texts
 * @param scope what stands before an input's name where its rows wait
 * @param waiting the rows that wait, by scope and name
 */
public record Earlier(
        Function<String, Map<String, SqlType>> types,
        Map<String, String> marks,
        String scope,
        Function<String, List<WaitingRow>> waiting) {

    /** Nothing was loaded before. */
    public static final Earlier NOTHING = withoutWaiting(input -> Map.of(), Map.of());

    /** What earlier loads left where nothing waits, or what waits does not matter. */
    public static Earlier withoutWaiting(Function<String, Map<String, SqlType>> types, Map<String, String> marks) {
        return new Earlier(types, marks, "", input -> List.of());
    }

    Earlier withoutWaiting() {
        return withoutWaiting(types, marks);
    }

    /** The same for one of several inputs. */
    public Earlier inside(String part) {
        return new Earlier(types, marks, scope + part + "/", waiting);
    }

    Earlier with(Map<String, String> otherMarks) {
        return new Earlier(types, otherMarks, scope, waiting);
    }
}
