package dev.zeitkammer.load;

import static dev.zeitkammer.engine.Counted.rows;

import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Fact;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Relation;
import dev.zeitkammer.engine.Row;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.staging.StagedRows;
import dev.zeitkammer.step.Plan;
import dev.zeitkammer.step.RowValidation;
import dev.zeitkammer.step.Step;
import java.time.Clock;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/**
 * Counts what a load would stumble over in a delivery: values that do not fit, keys without a value or twice, dates to come. The
 * rows are sorted out by the steps of the load itself.
 */
final class DeliveryCheck {

    private static final Set<Relation> MADE =
            Set.of(RowValidation.DELIVERY, RowValidation.OUT, RowValidation.DUPLICATE_KEYS);

    private final Warehouse warehouse;
    private final Dialect dialect;
    private final Clock clock;

    DeliveryCheck(Warehouse warehouse, Clock clock) {
        this.warehouse = warehouse;
        this.dialect = warehouse.dialect();
        this.clock = clock;
    }

    /** What was found in the staged rows, which must be the last that were staged, by the plan of their load. */
    List<String> of(Definition definition, StagedRows staged, Plan plan) {
        List<String> texts = new ArrayList<>();
        warehouse.rehearse(() -> {
            sortOut(definition, plan);
            texts.addAll(out(definition));
            return true;
        });
        toCome(definition, staged, texts);
        return texts;
    }

    /** Runs what makes the rows that take part, up to their name; of the table it reads nothing but reserved members. */
    private void sortOut(Definition definition, Plan plan) {
        for (Step step : plan.steps()) {
            if (step instanceof Step.Name name) {
                if (name.relation().equals(RowValidation.ROWS)) {
                    return;
                }
                warehouse.name(name.relation().name(), name.query());
            } else if (step instanceof Step.Keep keep && MADE.contains(keep.relation())) {
                warehouse.keep(keep.relation().name(), keep.query());
            } else if (step instanceof Step.Attempt attempt) {
                warehouse.keep(attempt.relation().name(), attempt.query(), attempt.otherwise());
            } else if (step instanceof Step.Append append && append.relation().equals(RowValidation.OUT)) {
                append(append, definition);
            }
        }
    }

    private void append(Step.Append append, Definition definition) {
        boolean isReadable =
                warehouse.has(definition.table()) || !append.query().contains(warehouse.table(definition.table()));
        if (isReadable) {
            warehouse.append(append.relation().name(), append.query());
        }
    }

    /** What takes no part, in words, the most frequent first. */
    private List<String> out(Definition definition) {
        return warehouse.query(
                "select zk_outcome, coalesce(zk_reason, ''), coalesce(zk_column, ''), count(*), min(zk_text) from "
                        + RowValidation.OUT
                        + " group by zk_outcome, coalesce(zk_reason, ''), coalesce(zk_column, '') order by 4 desc, 1, 2, 3",
                row -> words(row, definition));
    }

    private static String words(Row row, Definition definition) {
        long found = row.number(4);
        String column = String.valueOf(row.text(3));
        if (!"setAside".equals(row.text(1))) {
            return "repeated".equals(row.text(1))
                    ? rows(found) + (found == 1 ? " repeats" : " repeat") + " another one"
                    : rows(found) + (found == 1 ? " gives" : " give") + " way to a newer one of the same key";
        }
        String why = switch (String.valueOf(row.text(2))) {
            case "bad value" ->
                " with a value in " + column + " that its type cannot hold, such as \"" + row.text(5) + "\"";
            case "blank key" -> " without a value in the key (" + column + ")";
            case "conflicting duplicate" -> " with the same key (" + sameKey(definition) + ") and different values";
            default -> ": " + row.text(2) + (column.isEmpty() ? "" : " (" + column + ")");
        };
        return rows(found) + why + "; they would be set aside";
    }

    /** What two rows share that contradict each other. */
    private static String sameKey(Definition definition) {
        if (definition instanceof Fact fact) {
            return fact.grain().stream().map(Word::text).collect(Collectors.joining(", "));
        }
        Dimension dimension = (Dimension) definition;
        return Stream.concat(dimension.key().stream(), dimension.history().effective().stream())
                .map(Word::text)
                .distinct()
                .collect(Collectors.joining(", "));
    }

    private void toCome(Definition definition, StagedRows staged, List<String> texts) {
        Optional<String> effective = definition instanceof Dimension dimension
                ? dimension
                        .history()
                        .effective()
                        .flatMap(word -> staged.delivery().column(word.text()))
                : Optional.empty();
        Optional<SqlType> type = effective.flatMap(staged::type).filter(SqlType::isMoment);
        if (type.isEmpty()) {
            return;
        }
        String now = type.get().equals(SqlType.DATE)
                ? dialect.date(LocalDate.now(clock))
                : dialect.timestamp(LocalDateTime.now(clock).truncatedTo(ChronoUnit.SECONDS));
        String where = staged.delivery()
                .input()
                .where()
                .map(sql -> " and (" + sql.text() + ")")
                .orElse("");
        long found = warehouse.number("select count(*) from " + StagedRows.TABLE + " as s where "
                + dialect.quote(effective.get()) + " > " + now + where);
        if (found > 0) {
            texts.add(rows(found) + " with a date in " + effective.get()
                    + " that is still to come; as of then they would hold");
        }
    }
}
