package dev.zeitkammer.load;

import dev.zeitkammer.align.Alignment;
import dev.zeitkammer.books.Known;
import dev.zeitkammer.books.SetAsideBooks;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.engine.GuardException;
import dev.zeitkammer.load.Loader.Request;
import dev.zeitkammer.step.Stamp;
import dev.zeitkammer.step.TableLoad;
import dev.zeitkammer.verify.Verdict;
import dev.zeitkammer.verify.Verifier;
import java.math.BigDecimal;
import java.time.LocalDate;
import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;

/** What stops the load of a table, whatever its definition is of. */
record LoadGuards(LoadContext context, Definition definition, Known known) {

    private Stamp stamp() {
        return context.stamp();
    }

    void refuseOlderDate(TableLoad load) {
        Optional<String> newest = load.followsLoadDate() ? known.newestDate(definition.table()) : Optional.empty();
        if (newest.isPresent() && newest.get().compareTo(stamp().date().toString()) > 0) {
            throw new GuardException(definition.table() + " was loaded for " + newest.get() + " already, and "
                    + stamp().date() + " is older; without an effective column the load date orders its history, so"
                    + " older deliveries cannot be loaded afterwards");
        }
    }

    /** Where the load date orders the history, nothing could be loaded any more until the day that was named. */
    void refuseDateAhead(TableLoad load) {
        LocalDate tomorrow = stamp().at().toLocalDate().plusDays(1);
        if (load.followsLoadDate()
                && stamp().date().day().isAfter(tomorrow)
                && !context.request().waived().contains(Request.AHEAD)) {
            throw new GuardException(definition.table() + " would be loaded for " + stamp().date()
                    + ", which is ahead of today; the load date orders its history, so that no earlier day could be loaded"
                    + " afterwards. If that is meant, load with " + Request.AHEAD);
        }
    }

    /** A first load would only make a history of others worse that is not sound. */
    void refuseUnsound(Alignment alignment) {
        boolean isFirst = known.newestDate(definition.table()).isEmpty();
        if (isFirst && TableRun.isAdopted(definition, alignment) && definition instanceof Dimension dimension) {
            List<Verdict> unsound = new Verifier(context.warehouse()).unsound(dimension);
            if (!unsound.isEmpty()) {
                throw new GuardException("No load can go on with the history of " + definition.table()
                        + " as it stands: "
                        + unsound.stream().map(Verdict::told).collect(Collectors.joining("; "))
                        + ". Nothing was changed; see zeitkammer verify " + definition.name()
                        + ", mend the table, load again");
            }
        }
    }

    /** Rows that are set aside are rows that a table lacks. */
    void stopIfTooManyAreSetAside(Tally tally) {
        Optional<BigDecimal> limit = definition.demands().setAsideLimit();
        long aside = tally.count("setAside");
        long rows = tally.count("staged");
        boolean isTooMany = limit.filter(percent -> BigDecimal.valueOf(aside)
                                .multiply(BigDecimal.valueOf(100))
                                .compareTo(percent.multiply(BigDecimal.valueOf(rows)))
                        > 0)
                .isPresent();
        if (isTooMany) {
            String reasons = new SetAsideBooks(context.warehouse())
                    .reasons(stamp().load(), definition.table()).entrySet().stream()
                            .map(reason -> reason.getValue() + " " + reason.getKey())
                            .collect(Collectors.joining(", "));
            throw new GuardException(aside + " of " + rows + " staged rows of " + definition.table()
                    + " would be set aside, which is more than set-aside-limit: "
                    + limit.orElseThrow().toPlainString() + "% lets through: " + reasons
                    + ". Nothing was changed; see the rows with: zeitkammer rehearse " + definition.name());
        }
    }
}
