package dev.zeitkammer.load;

import static dev.zeitkammer.engine.Counted.rows;

import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Fact;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.staging.StagedRows;
import java.time.Clock;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;

/** Counts what a load would stumble over in a delivery: values that do not fit, keys without a value or twice, dates to come. */
final class DeliveryCheck {

    private final Warehouse warehouse;
    private final Dialect dialect;
    private final Clock clock;

    DeliveryCheck(Warehouse warehouse, Clock clock) {
        this.warehouse = warehouse;
        this.dialect = warehouse.dialect();
        this.clock = clock;
    }

    /** What was found in the staged rows, which must be the last that were staged. */
    List<String> of(Definition definition, StagedRows staged) {
        List<String> texts = new ArrayList<>();
        String rows = "(select * from " + StagedRows.TABLE
                + staged.delivery()
                        .input()
                        .where()
                        .map(sql -> " as s where (" + sql.text() + ")")
                        .orElse("")
                + ") as delivered";
        badValues(texts);
        List<Word> key = key(definition);
        List<String> columns = key.stream()
                .flatMap(word -> staged.delivery().column(word.text()).stream())
                .filter(column -> staged.type(column).isPresent())
                .toList();
        Optional<String> effective = definition instanceof Dimension dimension
                ? dimension
                        .history()
                        .effective()
                        .flatMap(word -> staged.delivery().column(word.text()))
                : Optional.empty();
        if (!columns.isEmpty() && columns.size() == key.size()) {
            blankKeys(columns, rows, texts);
            duplicates(columns, effective, rows, staged, definition, texts);
        }
        effective.ifPresent(column -> toCome(column, rows, staged, texts));
        return texts;
    }

    private static List<Word> key(Definition definition) {
        return definition instanceof Fact fact ? fact.grain() : ((Dimension) definition).key();
    }

    private void badValues(List<String> texts) {
        warehouse.query(
                "select zk_bad_column, count(*), min(zk_bad_text) from " + StagedRows.TABLE
                        + " where zk_bad_column is not null group by zk_bad_column order by 2 desc, 1",
                row -> texts.add(rows(row.number(2)) + " with a value in " + row.text(1)
                        + " that its type cannot hold, such as \"" + row.text(3) + "\"; they would be set aside"));
    }

    private void blankKeys(List<String> key, String rows, List<String> texts) {
        String blank =
                key.stream().map(column -> dialect.quote(column) + " is null").collect(Collectors.joining(" or "));
        long found = warehouse.number("select count(*) from " + rows + " where " + blank);
        if (found > 0) {
            texts.add(rows(found) + " without a value in the key (" + String.join(", ", key)
                    + "); they would be set aside");
        }
    }

    private void duplicates(
            List<String> key,
            Optional<String> effective,
            String rows,
            StagedRows staged,
            Definition definition,
            List<String> texts) {
        List<String> same = new ArrayList<>(key);
        effective.filter(column -> !same.contains(column)).ifPresent(same::add);
        String all = dialect.list(staged.columns(), column -> dialect.quote(column.name()));
        String known = key.stream()
                .map(column -> dialect.quote(column) + " is not null")
                .collect(Collectors.joining(" and "));
        String distinct = "select distinct " + all + " from " + rows + " where " + known;
        long conflicting = warehouse.number("select coalesce(sum(n), 0) from (select count(*) as n from (" + distinct
                + ") as d group by " + dialect.columns(same) + " having count(*) > 1) as g");
        if (conflicting > 0) {
            texts.add(rows(conflicting) + " with the same key (" + String.join(", ", same) + ") and different values"
                    + (isDecided(definition)
                            ? "; one of each is chosen"
                            : "; they would be set aside where what is loaded differs"));
        }
        long repeated = warehouse.number("select count(*) from " + rows + " where " + known)
                - warehouse.number("select count(*) from (" + distinct + ") as d");
        if (repeated > 0) {
            texts.add(rows(repeated) + (repeated == 1 ? " repeats" : " repeat") + " another one");
        }
    }

    private static boolean isDecided(Definition definition) {
        return definition instanceof Dimension dimension && dimension.lastBy().isPresent();
    }

    private void toCome(String column, String rows, StagedRows staged, List<String> texts) {
        SqlType type = staged.type(column).orElse(SqlType.DATE);
        if (!type.isMoment()) {
            return;
        }
        String now = type.equals(SqlType.DATE)
                ? dialect.date(LocalDate.now(clock))
                : dialect.timestamp(LocalDateTime.now(clock).truncatedTo(ChronoUnit.SECONDS));
        long found = warehouse.number("select count(*) from " + rows + " where " + dialect.quote(column) + " > " + now);
        if (found > 0) {
            texts.add(rows(found) + " with a date in " + column + " that is still to come; as of then they would hold");
        }
    }
}
