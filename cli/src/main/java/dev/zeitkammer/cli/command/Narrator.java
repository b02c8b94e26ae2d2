package dev.zeitkammer.cli.command;

import dev.zeitkammer.cli.output.Output;
import dev.zeitkammer.load.LoadListener;
import dev.zeitkammer.step.Step;
import java.util.List;

/** Tells on standard error what a load is doing. */
final class Narrator implements LoadListener {

    private final Output output;
    private final CommonOptions options;

    Narrator(Output output, CommonOptions options) {
        this.output = output;
        this.options = options;
    }

    @Override
    public void step(String table, Step step) {
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
    public void cause(Throwable cause) {
        if (options.verbose()) {
            output.aside(stack(cause));
        }
    }

    private static String stack(Throwable cause) {
        java.io.StringWriter text = new java.io.StringWriter();
        cause.printStackTrace(new java.io.PrintWriter(text, true));
        return text.toString();
    }
}
