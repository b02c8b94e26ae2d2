package dev.zeitkammer.load;

import dev.zeitkammer.books.Books;
import dev.zeitkammer.books.Journal;
import dev.zeitkammer.books.Known;
import dev.zeitkammer.books.Known.LastRead;
import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Fact;
import dev.zeitkammer.definition.Fact.OnRepeat;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Lookup;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.staging.Delivery;
import dev.zeitkammer.step.RowValidation;
import dev.zeitkammer.step.TableLoad;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * Tells whether a delivery is the one that the table's last load read, so that reading it again can change nothing: loading a
 * delivery again at once changes nothing (docs/rules.md), and nothing that the outcome depends on has changed since. What the
 * delivery comes to is then known without reading a row.
 */
final class Repetition {

    private static final String STAGED = "staged";
    private static final String UNCHANGED = "unchanged";
    private static final String IGNORED = "ignored";
    private static final String REPEATED = "repeated";

    private final LoadContext context;
    private final Definition definition;
    private final Known known;
    private final List<Delivery> deliveries;
    private @Nullable Fingerprint fingerprint;

    private Repetition(LoadContext context, Definition definition, Known known, List<Delivery> deliveries) {
        this.context = context;
        this.definition = definition;
        this.known = known;
        this.deliveries = deliveries;
    }

    /** Of everything that is delivered to a table. */
    static Repetition of(LoadContext context, TableLoad load, Known known, List<Delivery> deliveries) {
        Repetition repetition = new Repetition(context, load.definition(), known, deliveries);
        boolean areFiles = !deliveries.isEmpty()
                && deliveries.stream().noneMatch(delivery -> delivery.files().isEmpty());
        context.request()
                .program()
                .filter(any -> areFiles && repetition.canBe(load))
                .ifPresent(program -> repetition.fingerprint =
                        new Fingerprint(load.definition(), context.stamp(), program, deliveries));
        return repetition;
    }

    /**
     * Whether a table depends on nothing but its deliveries, its definition, and tables that the books know of: rows that others'
     * statements may have changed, what is asked anew with every load, and what grows with every load are read.
     */
    private boolean canBe(TableLoad load) {
        return context.project().extra().isEmpty()
                && definition.publish().isEmpty()
                && definition.demands().assertions().isEmpty()
                && Stream.concat(Stream.of(load), load.feeds().stream())
                        .flatMap(each -> each.input().stream())
                        .allMatch(this::canBe)
                && (definition instanceof Dimension || definition instanceof Fact fact && canBe(fact));
    }

    private boolean canBe(Input input) {
        return input.assertions().isEmpty()
                && input.keep().isEmpty()
                && input.newer().isEmpty()
                && !input.retain()
                && !known.anyWaiting(definition.table(), input.name().text());
    }

    /** Facts without a grain would be added again, those that are there be set aside, and what feeds find be counted otherwise. */
    private static boolean canBe(Fact fact) {
        return !fact.grain().isEmpty()
                && (fact.onRepeat() == OnRepeat.UPDATE
                        || fact.onRepeat() == OnRepeat.IGNORE && fact.feeds().isEmpty())
                && fact.lookups().stream()
                        .noneMatch(lookup -> lookup.unmatched() == Lookup.Unmatched.PLACEHOLDER
                                || lookup.dimension().isOthers()
                                || lookup.dimension().kind() == Dimension.Kind.COMBINATION);
    }

    /** What reading the delivery would come to, where it is the one that the last load read. */
    Optional<Tally> outcome() {
        Optional<LastRead> last = known.lastRead(definition.table());
        if (fingerprint == null || last.isEmpty() || !context.warehouse().has(definition.table())) {
            return Optional.empty();
        }
        if (!fingerprint.is(last.get().fingerprint(), columns(), this::stateNow)) {
            return Optional.empty();
        }
        return new Journal(context.warehouse())
                .entry(last.get().load(), definition.table())
                .filter(Repetition::isSettled)
                .map(entry -> again(entry, last.get().load()));
    }

    /**
     * SQL for what the outcome depends on beside the deliveries: the newest loads that changed something, and, since others may
     * have worked by hand, how many rows the table has, where counting them costs nothing.
     */
    private List<String> state() {
        Warehouse warehouse = context.warehouse();
        List<String> lookedUp = definition.dependsOn().stream()
                .map(name -> context.project().definition(name).table())
                .toList();
        List<String> numbers = new ArrayList<>(new Books(warehouse).lastChangesSql(definition.table(), lookedUp));
        if (warehouse.countsCheaply()) {
            numbers.add("(select count(*) from " + warehouse.table(definition.table()) + ")");
        }
        return numbers;
    }

    private String stateNow() {
        return context.warehouse().numbers(state()).stream()
                .map(String::valueOf)
                .collect(Collectors.joining(","));
    }

    private List<Column> columns() {
        return context.warehouse().columns(definition.table());
    }

    /** Rows that were not loaded are told again with every load. */
    private static boolean isSettled(TableEntry entry) {
        return entry.count("setAside") == 0
                && entry.count(RowValidation.WAITING) == 0
                && entry.lookedUp("placeholders") == 0;
    }

    private Tally again(TableEntry entry, long load) {
        boolean ignores = definition instanceof Fact fact && fact.onRepeat() == OnRepeat.IGNORE;
        Map<String, Long> counts = new LinkedHashMap<>(entry.counts());
        counts.replaceAll((name, rows) -> name.equals(STAGED) || name.equals(REPEATED) ? rows : 0L);
        counts.put(ignores ? IGNORED : UNCHANGED, entry.count(STAGED) - entry.count(REPEATED));
        Tally tally = new Tally();
        tally.add(Map.of("", counts));
        tally.add(entry.lookups());
        tally.add(entry.unmatched());
        tally.note("not read, since "
                + deliveries.stream().map(Delivery::shown).collect(Collectors.joining(", "))
                + (deliveries.size() == 1 ? " is" : " are") + " byte for byte what load " + load
                + " had (--again reads it)");
        return tally;
    }

    /** Notes what was read, for the next load. */
    void note() {
        if (fingerprint != null) {
            String readily = fingerprint.readily(columns());
            fingerprint
                    .checksums()
                    .ifPresent(checksums -> new Books(context.warehouse())
                            .noteRead(context.stamp().load(), definition.table(), readily, state(), checksums));
        }
    }
}
