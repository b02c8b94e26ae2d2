package dev.zeitkammer.fact;

import dev.zeitkammer.align.Aligning;
import dev.zeitkammer.definition.Conventions;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Fact;
import dev.zeitkammer.definition.Feed;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Lookup;
import dev.zeitkammer.definition.Measure;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.lookup.LookupSource;
import dev.zeitkammer.lookup.LookupSql;
import dev.zeitkammer.staging.StagedRows;
import dev.zeitkammer.staging.Wanted;
import dev.zeitkammer.step.Marks;
import dev.zeitkammer.step.Stamp;
import dev.zeitkammer.step.TableLoad;
import java.util.List;
import java.util.Optional;

/** Loads a feed: an input that writes some lookups and measures of facts that are there already. */
final class FeedLoad implements TableLoad {

    private final Fact definition;
    private final Feed feed;
    private final Conventions conventions;
    private final Warehouse warehouse;
    private final FactBooks books;
    private final LookupSource source;
    private final List<Lookup> lookups;
    private final List<Measure> measures;

    FeedLoad(Fact definition, Feed feed, Conventions conventions, Warehouse warehouse, FactBooks books) {
        this.definition = definition;
        this.feed = feed;
        this.conventions = conventions;
        this.warehouse = warehouse;
        this.books = books;
        this.source = new LookupSource(conventions, warehouse);
        this.lookups = definition.lookups().stream()
                .filter(lookup -> feed.writes(lookup.role()))
                .toList();
        this.measures = definition.measures().stream()
                .filter(measure -> feed.writes(measure.name()))
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
            wanted.column(
                    feed.match().get(index),
                    "match of a feed",
                    FactLoad.typeOf(columns, feed.stored().get(index).text()));
        }
        lookups.forEach(lookup -> source.want(lookup, wanted));
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
        FactTable table = FactLoad.standing(definition, conventions, warehouse);
        FactDelivery delivery = new FactDelivery(warehouse, source, staged, Optional.empty());
        List<LookupSql> looking = delivery.lookups(lookups);
        for (int index = 0; index < feed.match().size(); index++) {
            delivery.identifying(
                    feed.match().get(index), feed.stored().get(index).text(), false);
        }
        measures.forEach(delivery::measure);
        looking.forEach(lookup -> delivery.match(lookup, false));
        List<String> names =
                measures.stream().map(measure -> measure.name().text()).toList();
        FeedPlan steps = new FeedPlan(new FactLoading(table, warehouse, stamp, books), feed, looking, names);
        return new Prepared(
                Aligning.of(table.shape(), warehouse),
                List.of(),
                List.of(),
                List.of(steps.plan(delivery.rows(feed.from(), books.marks()))));
    }
}
