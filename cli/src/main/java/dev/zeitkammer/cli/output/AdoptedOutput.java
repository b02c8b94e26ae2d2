package dev.zeitkammer.cli.output;

import dev.zeitkammer.adopt.Adopting.Adopted;
import dev.zeitkammer.engine.Counted;
import java.util.LinkedHashMap;
import java.util.Map;

/** What came of looking at a table that others made. */
public final class AdoptedOutput {

    private final Output output;

    public AdoptedOutput(Output output) {
        this.output = output;
    }

    public void write(Adopted adopted, String name, Format format) {
        if (format == Format.JSON) {
            Map<String, Object> told = new LinkedHashMap<>();
            told.put("file", adopted.file().toString());
            told.put("table", adopted.table());
            told.put("rows", adopted.rows());
            told.put("added", adopted.added());
            output.data(Json.of(told));
            return;
        }
        output.line("Looked at " + adopted.table() + ", " + Counted.rows(adopted.rows()) + ". Wrote " + adopted.file()
                + ".");
        if (adopted.added().isEmpty()) {
            output.line("It has all the columns that a load needs.");
        } else {
            output.line("The first load, or zeitkammer align, adds to it, filled from what stands:");
            output.line("  " + String.join(", ", adopted.added()));
        }
        output.line("Look at the guesses; then see what does not hold in the table: zeitkammer verify " + name);
    }
}
