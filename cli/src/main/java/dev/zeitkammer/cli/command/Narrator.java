package dev.zeitkammer.cli.command;

import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.cli.output.Output;
import dev.zeitkammer.engine.Caption;
import dev.zeitkammer.engine.Counted;
import dev.zeitkammer.engine.Executed;
import dev.zeitkammer.engine.Secrets;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.load.LoadListener;
import java.util.List;

/** Tells on standard error what a load is doing. */
final class Narrator implements LoadListener {

    private static final double NANOS = 1e9;
    private static final int WIDEST = 90;

    private final Output output;
    private final CommonOptions options;
    private final ProgressLine progress;

    Narrator(Output output, CommonOptions options, Warehouse warehouse) {
        this.output = output;
        this.options = options;
        this.progress = new ProgressLine(warehouse, System.console() != null && !options.quiet());
        if (options.verbose()) {
            warehouse.watch(this::executed);
        }
    }

    /** A statement: its time, its rows, and how it begins. */
    private synchronized void executed(Executed statement) {
        String rows =
                statement.rows().isPresent() ? Counted.rows(statement.rows().getAsLong()) : "";
        String sql = statement.sql().strip().replaceAll("\\s+", " ");
        output.aside("  %7.3f s  %12s  %s"
                .formatted(
                        statement.time().toNanos() / NANOS,
                        rows,
                        sql.length() > WIDEST ? sql.substring(0, WIDEST) + " …" : sql));
    }

    @Override
    public void step(String table, Caption step) {
        output.stepping();
        progress.step(table, step.name());
        if (options.verbose()) {
            output.aside(table + ": " + step.name());
        }
    }

    @Override
    public void notes(String table, List<String> notes) {
        if (!options.quiet()) {
            notes.forEach(note -> output.aside("Note: " + note));
        }
    }

    @Override
    public void ended(TableEntry entry) {
        progress.end();
    }

    @Override
    public void cause(Throwable cause) {
        if (options.verbose()) {
            output.aside(Secrets.stack(cause));
        }
    }
}
