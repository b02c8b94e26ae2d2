package dev.zeitkammer.load;

import dev.zeitkammer.books.Books;
import dev.zeitkammer.books.Known;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.engine.CompactedException;
import dev.zeitkammer.engine.GuardException;
import dev.zeitkammer.engine.WarehouseException;
import dev.zeitkammer.engine.ZeitkammerException;
import dev.zeitkammer.step.ChangedAttribute;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;

/** Loads single tables of a load over one connection, and enters those that fail. */
final class TableLoading {

    private static final int COMPACTIONS = 3;

    private final LoadContext context;
    private final Books books;
    private @Nullable Known known;
    private final List<ChangedAttribute> changed = new ArrayList<>();
    private final List<ComingRow> coming = new ArrayList<>();

    TableLoading(LoadContext context) {
        this.context = context;
        this.books = new Books(context.warehouse());
    }

    /** The values that change, known after a rehearsal. */
    List<ComingRow> coming() {
        return coming;
    }

    List<ChangedAttribute> changed() {
        return changed;
    }

    /** Loads what goes together, between the extra steps before and after it. */
    List<TableEntry> phase(String anchor, List<Definition> tables, Supplier<List<TableEntry>> loading) {
        if (!tables.isEmpty()) {
            context.extra().before(anchor, context.warehouse());
        }
        List<TableEntry> entries = loading.get();
        if (!tables.isEmpty() && entries.stream().allMatch(TableEntry::isLoaded)) {
            context.extra().after(anchor, context.warehouse());
        }
        return entries;
    }

    /** Loads a table between its own extra steps, unless one that it depends on was not loaded, or an extra step stopped the load. */
    TableEntry load(Definition definition, Set<String> notLoaded) {
        String name = definition.name().text();
        if (context.project().before(definition).stream().noneMatch(notLoaded::contains)) {
            context.extra().before(name, context.warehouse());
        }
        TableEntry entry = alone(definition, notLoaded);
        if (entry.status() == LoadStatus.DONE) {
            context.extra().after(name, context.warehouse());
        } else if (entry.status() == LoadStatus.FAILED || entry.status() == LoadStatus.STOPPED) {
            context.extra().ended(name, entry.status(), List.of(entry), context.warehouse());
        }
        return entry;
    }

    private TableEntry alone(Definition definition, Set<String> notLoaded) {
        TableRun run = new TableRun(context, definition, known());
        if (context.extra().stopped().isPresent()) {
            TableEntry blocked = TableEntry.without(
                    definition.table(),
                    TableLoads.kind(definition),
                    LoadStatus.BLOCKED,
                    run.seconds(),
                    context.extra().stopped().get());
            return entered(blocked, () -> {});
        }
        Optional<String> missing = context.project().before(definition).stream()
                .filter(notLoaded::contains)
                .findFirst();
        if (missing.isPresent()) {
            String why = context.project().definition(missing.get()).table() + " was not loaded";
            TableEntry blocked = TableEntry.without(
                    definition.table(), TableLoads.kind(definition), LoadStatus.BLOCKED, run.seconds(), why);
            return entered(blocked, () -> {});
        }
        return tried(definition, run, COMPACTIONS);
    }

    /** @param again how many compactions of others are no reason to give up; they changed no row, and the table is loaded again */
    private TableEntry tried(Definition definition, TableRun run, int again) {
        try {
            TableEntry entry = run.run();
            changed.addAll(run.changed());
            coming.addAll(run.coming());
            if (run.decidedTypes()) {
                known = null;
            }
            return entry;
        } catch (CompactedException compacted) {
            if (again == 0 || context.request().rehearsal()) {
                return failed(run, definition, LoadStatus.FAILED, compacted);
            }
            context.listener()
                    .notes(
                            definition.table(),
                            List.of("files of a table were rewritten by somebody else meanwhile; " + definition.table()
                                    + " is loaded again"));
            context.extra().takenBack(definition.name().text(), context.warehouse());
            return tried(definition, new TableRun(context, definition, known()), again - 1);
        } catch (GuardException stopped) {
            return failed(run, definition, LoadStatus.STOPPED, stopped);
        } catch (ZeitkammerException failure) {
            return failed(run, definition, LoadStatus.FAILED, failure);
        }
    }

    /** What the books know; read anew when a table decided types, which other tables of the same input go by. */
    private Known known() {
        if (known == null) {
            known = Known.of(context.warehouse());
        }
        return known;
    }

    private TableEntry failed(TableRun run, Definition definition, LoadStatus status, ZeitkammerException why) {
        context.listener().cause(why);
        if (context.request().rehearsal()) {
            throw why;
        }
        TableEntry entry = TableEntry.without(
                definition.table(),
                TableLoads.kind(definition),
                status,
                run.seconds(),
                String.valueOf(why.getMessage()));
        return entered(entry, () -> {
            run.keepUnusable();
            context.extra().takenBack(definition.name().text(), context.warehouse());
        });
    }

    /** Enters a failure; where not even that is possible any more, the next load enters this one as cut off. */
    private TableEntry entered(TableEntry entry, Runnable before) {
        try {
            before.run();
            books.enter(context.stamp().load(), entry);
        } catch (WarehouseException unreachable) {
            context.listener().cause(unreachable);
        }
        return entry;
    }
}
