package dev.zeitkammer.fact;

import dev.zeitkammer.align.Aligning;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Fact;
import dev.zeitkammer.definition.Feed;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Lookup;
import dev.zeitkammer.definition.Measure;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.lookup.LookupSource;
import dev.zeitkammer.lookup.LookupSql;
import dev.zeitkammer.staging.StagedRows;
import dev.zeitkammer.staging.Wanted;
import dev.zeitkammer.step.Marks;
import dev.zeitkammer.step.Stamp;
import dev.zeitkammer.step.TableLoad;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.stream.Stream;

/** Loads a feed: an input that writes some lookups and measures of facts that are there already. */
final class FeedLoad implements TableLoad {

    private final Fact definition;
    private final Feed feed;
    private final Warehouse warehouse;
    private final FactBooks books;
    private final LookupSource source;
    private final List<Lookup> lookups;
    private final List<Measure> measures;

    FeedLoad(Fact definition, Feed feed, Warehouse warehouse, FactBooks books) {
        this.definition = definition;
        this.feed = feed;
        this.warehouse = warehouse;
        this.books = books;
        this.source = new LookupSource(warehouse);
        this.lookups = definition.lookups().stream()
                .filter(lookup -> feed.writes(lookup.role().text()))
                .toList();
        this.measures = definition.measures().stream()
                .filter(measure -> feed.writes(measure.name().text()))
                .toList();
    }

    /** The degenerates that it writes. */
    private List<Word> degenerates() {
        return definition.degenerate().stream()
                .filter(word -> feed.writes(word.text()))
                .toList();
    }

    @Override
    public Definition definition() {
        return definition;
    }

    @Override
    public Optional<Input> input() {
        return Optional.of(feed.from());
    }

    @Override
    public String kind() {
        return "fact";
    }

    @Override
    public boolean followsLoadDate() {
        return false;
    }

    @Override
    public void want(Wanted wanted) {
        List<Column> columns = warehouse.columns(definition.table());
        for (int index = 0; index < feed.match().size(); index++) {
            wanted.taken(
                    feed.match().get(index),
                    "match of a feed",
                    FactLoad.typeOf(columns, feed.stored().get(index).text()));
        }
        lookups.forEach(lookup -> source.want(lookup, wanted));
        for (Word column : degenerates()) {
            wanted.taken(definition.taken().of(column), "degenerate", FactLoad.typeOf(columns, column.text()));
        }
        for (Measure measure : measures) {
            if (measure.take().isPresent()) {
                wanted.expression(measure.take().get());
            } else {
                wanted.column(measure.name(), "measure", Optional.of(measure.type()));
            }
        }
        Marks.want(feed.from(), wanted);
        feed.from().where().ifPresent(wanted::expression);
    }

    @Override
    public Prepared prepare(Optional<StagedRows> rows, Stamp stamp) {
        StagedRows staged = rows.orElseThrow();
        FactTable table = FactLoad.standing(definition, warehouse);
        Map<String, SqlType> columns = new TreeMap<>(String.CASE_INSENSITIVE_ORDER);
        table.columns().forEach(column -> columns.put(column.name(), column.type()));
        FactDelivery delivery = new FactDelivery(warehouse, source, staged, Optional.empty());
        List<LookupSql> looking = delivery.lookups(lookups);
        for (int index = 0; index < feed.match().size(); index++) {
            Word match = feed.match().get(index);
            SqlType type = columns.getOrDefault(feed.stored().get(index).text(), delivery.type(match));
            delivery.identifying(match, new Column(feed.stored().get(index).text(), type), false);
        }
        for (Column column : table.degenerate()) {
            if (feed.writes(column.name())) {
                delivery.column(table.taken(column), column);
            }
        }
        StoredValues stored = new StoredValues(
                table,
                warehouse,
                measures,
                feed.stored().stream().map(Word::text).toList());
        stored.check();
        measures.stream().filter(measure -> !StoredValues.isOfStored(measure)).forEach(delivery::measure);
        looking.forEach(lookup -> delivery.match(lookup, false));
        List<String> names = Stream.concat(
                        degenerates().stream(),
                        measures.stream()
                                .filter(measure -> !StoredValues.isOfStored(measure))
                                .map(Measure::name))
                .map(Word::text)
                .toList();
        FeedPlan steps =
                new FeedPlan(new FactLoading(table, warehouse, stamp, books), feed, looking, names).with(stored);
        return new Prepared(
                Aligning.of(table.shape(warehouse, stamp), warehouse),
                List.of(),
                List.of(),
                List.of(steps.plan(delivery.rows(feed.from(), books.marks()))));
    }
}
