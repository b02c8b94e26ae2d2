package dev.zeitkammer.cli.output;

import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.reading.DefinitionSchemas;
import dev.zeitkammer.profile.StarDrafting.Piece;
import java.nio.file.Path;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.SortedSet;

/** What was written for a new project. */
public final class NewOutput {

    private final Output output;

    public NewOutput(Output output) {
        this.output = output;
    }

    /** A project without definitions. */
    public void empty(Path folder) {
        output.line("Wrote " + folder.resolve(Project.FILE)
                + " and the folders for inputs, dimensions and facts, and for editors the folder "
                + DefinitionSchemas.FOLDER + ".");
        output.line("Next: describe an input, a dimension and a fact, then: zeitkammer -p " + folder + " check");
    }

    /** A star that was drafted, and how to load it. */
    public void star(Path folder, List<Piece> pieces, SortedSet<String> days, Format format, boolean quiet) {
        if (format == Format.JSON) {
            output.data(Json.of(pieces.stream().map(NewOutput::json).toList()));
        } else if (format == Format.CSV) {
            output.data(Csv.line(List.of("kind", "name", "from", "why")));
            pieces.forEach(
                    piece -> output.data(Csv.line(List.of(piece.kind(), piece.name(), piece.from(), piece.why()))));
        } else if (!quiet) {
            output.block(table(pieces));
        }
        if (!quiet) {
            boolean isHere = folder.normalize().toString().isEmpty();
            output.aside("The project is " + (isHere ? "here" : "in " + folder)
                    + ". Every guess has a comment: look at them, then try it: zeitkammer "
                    + (isHere ? "" : "-p " + folder + " ") + "load" + dates(days));
        }
    }

    private static String dates(SortedSet<String> days) {
        if (days.isEmpty()) {
            return "";
        }
        return days.size() == 1 ? " --date " + days.first() : " --dates " + days.first() + ".." + days.last();
    }

    private static String table(List<Piece> pieces) {
        TextTable table =
                new TextTable().text("becomes").text("name").text("input").prose("since");
        pieces.forEach(piece -> table.row(piece.kind(), piece.name(), piece.from(), piece.why()));
        return table.render("");
    }

    private static Map<String, Object> json(Piece piece) {
        Map<String, Object> json = new LinkedHashMap<>();
        json.put("kind", piece.kind());
        json.put("name", piece.name());
        json.put("from", piece.from());
        json.put("why", piece.why());
        return json;
    }
}
