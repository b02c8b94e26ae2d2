package dev.zeitkammer.load;

import dev.zeitkammer.books.Books;
import dev.zeitkammer.books.Known;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.engine.GuardException;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.WarehouseException;
import dev.zeitkammer.engine.ZeitkammerException;
import dev.zeitkammer.load.Loader.Request;
import dev.zeitkammer.step.ChangedAttribute;
import dev.zeitkammer.step.Stamp;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/** Loads single tables of a load over one connection, and enters those that fail. */
final class TableLoading {

    private final Project project;
    private final Warehouse warehouse;
    private final LoadListener listener;
    private final Request request;
    private final Stamp stamp;
    private final Books books;
    private @Nullable Known known;
    private final List<ChangedAttribute> changed = new ArrayList<>();

    TableLoading(Project project, Warehouse warehouse, LoadListener listener, Request request, Stamp stamp) {
        this.project = project;
        this.warehouse = warehouse;
        this.listener = listener;
        this.request = request;
        this.stamp = stamp;
        this.books = new Books(warehouse);
    }

    /** The values that change, known after a rehearsal. */
    List<ChangedAttribute> changed() {
        return changed;
    }

    /** Loads a table, unless one that it depends on was not loaded. */
    TableEntry load(Definition definition, Set<String> notLoaded) {
        long began = System.nanoTime();
        Optional<String> missing =
                definition.dependsOn().stream().filter(notLoaded::contains).findFirst();
        if (missing.isPresent()) {
            return enterFailure(
                    definition,
                    LoadStatus.BLOCKED,
                    began,
                    project.definition(missing.get()).table() + " was not loaded");
        }
        TableRun run = new TableRun(project, warehouse, listener, definition, stamp, known());
        try {
            TableEntry entry = run.run(request, began);
            changed.addAll(run.changed());
            if (run.decidedTypes()) {
                known = null;
            }
            return entry;
        } catch (GuardException stopped) {
            return failed(run, definition, LoadStatus.STOPPED, began, stopped);
        } catch (ZeitkammerException failure) {
            return failed(run, definition, LoadStatus.FAILED, began, failure);
        }
    }

    /** What the books know; read anew when a table decided types, which other tables of the same input go by. */
    private Known known() {
        if (known == null) {
            known = Known.of(warehouse);
        }
        return known;
    }

    private TableEntry failed(
            TableRun run, Definition definition, LoadStatus status, long began, ZeitkammerException why) {
        listener.cause(why);
        if (request.rehearsal()) {
            throw why;
        }
        return enterFailure(definition, status, began, String.valueOf(why.getMessage()), run);
    }

    private TableEntry enterFailure(Definition definition, LoadStatus status, long began, String why) {
        return enterFailure(definition, status, began, why, null);
    }

    /** Enters a failure; where not even that is possible any more, the next load enters this one as cut off. */
    private TableEntry enterFailure(
            Definition definition, LoadStatus status, long began, String why, @Nullable TableRun run) {
        TableEntry entry = TableEntry.without(
                definition.table(), TableLoads.kind(definition), status, TableRun.secondsSince(began), why);
        try {
            if (run != null) {
                run.keepUnusable();
            }
            books.enter(stamp.load(), entry);
            return entry;
        } catch (WarehouseException unreachable) {
            listener.cause(unreachable);
            return entry;
        }
    }
}
