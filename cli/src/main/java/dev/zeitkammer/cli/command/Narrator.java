package dev.zeitkammer.cli.command;

import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.cli.output.Output;
import dev.zeitkammer.engine.Caption;
import dev.zeitkammer.engine.Secrets;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.load.LoadListener;
import java.util.List;

/** Tells on standard error what a load is doing. */
final class Narrator implements LoadListener {

    private final Output output;
    private final CommonOptions options;
    private final ProgressLine progress;

    Narrator(Output output, CommonOptions options, Warehouse warehouse) {
        this.output = output;
        this.options = options;
        this.progress = new ProgressLine(warehouse, System.console() != null && !options.quiet());
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
