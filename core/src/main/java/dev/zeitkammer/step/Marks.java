package dev.zeitkammer.step;

import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Input.Newer;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.staging.StagedRows;
import dev.zeitkammer.staging.WaitingRow;
import dev.zeitkammer.staging.Wanted;
import java.util.Map;
import java.util.Optional;

/**
 * The greatest values of running columns that a table has loaded, by input, as texts: rows beyond them are new.
 *
 * @param loaded the marks by the name of the input
 */
public record Marks(Map<String, String> loaded) {

    public Marks {
        loaded = Map.copyOf(loaded);
    }

    /** Declares the running column. */
    public static void want(Input input, Wanted wanted) {
        input.newer().ifPresent(newer -> wanted.column(newer.column(), "newer-than", Optional.empty()));
    }

    /** Restricts a delivery to what is new; a row without the running column cannot be judged, and has a bad value. */
    public void restrict(Input input, DeliveryQuery query, StagedRows staged, Dialect dialect) {
        input.newer().ifPresent(newer -> {
            String name = staged.delivery().column(newer.column().text()).orElseThrow();
            String column = dialect.column("s", name);
            SqlType type = staged.type(name).orElse(SqlType.VARCHAR);
            query.bad(
                    "(" + column + " is null" + orNoNumber(column, type, dialect) + ") and s.zk_bad_column is null",
                    name,
                    dialect.cast(column, SqlType.VARCHAR));
            news(input, staged, dialect).ifPresent(query::only);
        });
    }

    /** A condition over staged rows, alias {@code s}: those that are new, cannot be judged, or waited; empty where all are new. */
    public Optional<String> news(Input input, StagedRows staged, Dialect dialect) {
        return input.newer().flatMap(newer -> {
            String name = staged.delivery().column(newer.column().text()).orElseThrow();
            String column = dialect.column("s", name);
            SqlType type = staged.type(name).orElse(SqlType.VARCHAR);
            return Optional.ofNullable(loaded.get(input.name().text()))
                    .map(mark -> (staged.hasWaited() ? WaitingRow.hasWaited("s.zk_row") + " or " : "") + column
                            + " is null or " + column + " > "
                            + beginning(newer, dialect.cast(dialect.text(mark), type), dialect));
        });
    }

    /** A value that is no number is the greatest of all for an engine, and nothing would ever be beyond it. */
    private static String orNoNumber(String column, SqlType type, Dialect dialect) {
        return switch (type.kind()) {
            case REAL, DOUBLE -> " or " + column + " = " + dialect.cast("'NaN'", type);
            default -> "";
        };
    }

    private static String beginning(Newer newer, String mark, Dialect dialect) {
        return newer.overlap()
                .map(overlap -> {
                    String[] words = overlap.text().split(" ");
                    return words.length == 1
                            ? mark + " - " + words[0]
                            : dialect.earlier(mark, words[0], words[1].replaceFirst("s$", ""));
                })
                .orElse(mark);
    }

    /** A query of the mark that a delivery leaves, as a text; null where it has none. */
    public Optional<String> next(Input input, StagedRows staged, Dialect dialect) {
        return input.newer().map(newer -> {
            String name = staged.delivery().column(newer.column().text()).orElseThrow();
            SqlType type = staged.type(name).orElse(SqlType.VARCHAR);
            String before = Optional.ofNullable(loaded.get(input.name().text()))
                    .map(mark -> " union all select " + dialect.cast(dialect.text(mark), type))
                    .orElse("");
            String noNumber = orNoNumber(dialect.quote(name), type, dialect);
            return "select " + dialect.asText("max(zk_mark)") + " from (select max(" + dialect.quote(name)
                    + ") as zk_mark from "
                    + StagedRows.TABLE + (noNumber.isEmpty() ? "" : " where not (false" + noNumber + ")") + before
                    + ") as marks";
        });
    }
}
