package dev.zeitkammer.reference;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.books.Journal;
import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.load.Loader;
import dev.zeitkammer.load.Loader.Rehearsal;
import dev.zeitkammer.staging.LoadDate;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;

/** What a load was said to come to before it ran; every fourth load is asked for. */
final class Rehearsed {

    private static final int EVERY = 4;

    private final Warehouse warehouse;
    private final Optional<Rehearsal> said;

    /** @param seed of the scenario; with the date it says whether this load is asked for */
    Rehearsed(Loader loader, Warehouse warehouse, LoadDate date, long seed) {
        this.warehouse = warehouse;
        this.said = Math.floorMod(seed + date.toString().hashCode(), EVERY) == 0
                ? Optional.of(loader.rehearse(date, List.of()))
                : Optional.empty();
    }

    /** Asserts that the load came to the same. */
    void assertSame(String what, LoadEntry load) {
        if (said.isEmpty()) {
            return;
        }
        assertThat(told(load))
                .as(what + " as rehearsed")
                .isEqualTo(told(said.get().load()));
        assertThat(new Journal(warehouse).setAside(Optional.of(load.load())))
                .as(what + " as rehearsed")
                .containsExactlyInAnyOrderElementsOf(said.get().notLoaded());
    }

    private static List<List<Object>> told(LoadEntry load) {
        return load.tables().stream()
                .map(table -> Arrays.<Object>asList(
                        table.table(),
                        table.status(),
                        table.inserted(),
                        table.updated(),
                        table.counts(),
                        table.lookups(),
                        table.unmatched()))
                .toList();
    }
}
