package dev.zeitkammer.load;

import dev.zeitkammer.books.Books;
import dev.zeitkammer.books.SealBooks;
import dev.zeitkammer.books.SealBooks.Accepted;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.seal.Seals;
import dev.zeitkammer.verify.Verifier;
import dev.zeitkammer.verify.Verifier.Difference;
import java.time.Clock;
import java.time.LocalDateTime;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;

/**
 * Accepts changes of tables that were made by hand and meant: from then on the books count the rows as they stand, and seals are
 * those of what stands. No load up to the newest one can be taken back any more.
 */
public final class Acceptance {

    private final Warehouse warehouse;
    private final Clock clock;

    public Acceptance(Warehouse warehouse, Clock clock) {
        this.warehouse = warehouse;
        this.clock = clock;
    }

    /**
     * Accepts what differs, in one transaction.
     *
     * @param definitions the tables
     * @param by the user who accepts it
     * @param reason why it was meant
     * @return what was accepted; tables that nobody changed are not among it
     */
    public List<Accepted> accept(List<Definition> definitions, String by, String reason) {
        Loader.lock(warehouse);
        Books books = new Books(warehouse);
        books.create();
        long load = books.nextLoad() - 1;
        LocalDateTime now = LocalDateTime.now(clock).truncatedTo(ChronoUnit.MICROS);
        return warehouse.inTransaction(() -> {
            List<Accepted> all = new ArrayList<>();
            for (Definition definition : definitions) {
                if (warehouse.has(definition.table())) {
                    accepted(definition, new Accepted(definition.table(), load, 0, now, by, reason), all);
                }
            }
            return all;
        });
    }

    private void accepted(Definition definition, Accepted acceptance, List<Accepted> all) {
        List<Difference> differences = new Verifier(warehouse).differences(definition);
        boolean isBroken = Seals.broken(definition, warehouse)
                .filter(broken -> warehouse.number("select count(*) from (" + broken + "\n) as broken") > 0)
                .isPresent();
        if (differences.isEmpty() && !isBroken) {
            return;
        }
        new Seals(warehouse, acceptance.load()).anew(definition);
        new SealBooks(warehouse)
                .accept(
                        acceptance,
                        differences.stream()
                                .map(each -> new long[] {each.load(), each.rows()})
                                .toList());
        long rows = differences.stream().mapToLong(Difference::rows).sum();
        all.add(new Accepted(
                acceptance.table(), acceptance.load(), rows, acceptance.at(), acceptance.by(), acceptance.reason()));
    }
}
