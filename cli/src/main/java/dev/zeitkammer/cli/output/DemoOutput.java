package dev.zeitkammer.cli.output;

import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.view.MemberHistory;
import java.util.ArrayList;
import java.util.List;

/** The demo as it is told. */
public final class DemoOutput {

    private static final int WIDTH = 78;

    private final Output output;

    private final Stamps stamps;

    public DemoOutput(Output output, Stamps stamps) {
        this.output = output;
        this.stamps = stamps;
    }

    public void opening(String folder) {
        output.line("A network of alpine huts delivers its data day by day. The project is in " + folder + "/:");
        output.line("definitions in inputs/, dimensions/ and facts/, the deliveries in deliveries/.");
    }

    public void day(String date, String story) {
        output.line("");
        output.line(Style.strong(date));
        wrapped(story).forEach(output::line);
    }

    /** @param before whether the day was loaded by an earlier run */
    public void load(LoadEntry load, boolean before) {
        if (before) {
            output.line(Style.faint("Loaded earlier; nothing to do. This is what it did:"));
        }
        new LoadOutput(output).text(load);
    }

    public void member(String story, MemberHistory history) {
        output.line("");
        wrapped(story).forEach(output::line);
        new HistoryOutput(output, stamps).write(history, Format.TEXT);
    }

    /** @param launcher how this program is called */
    public void closing(String folder, String launcher, String text) {
        output.line("");
        output.block(text.replace("@FOLDER@", folder).replace("@LAUNCHER@", launcher));
    }

    private static List<String> wrapped(String text) {
        List<String> lines = new ArrayList<>();
        StringBuilder line = new StringBuilder();
        for (String word : text.split(" ")) {
            if (line.length() + 1 + word.length() > WIDTH) {
                lines.add(line.toString());
                line.setLength(0);
            }
            line.append(line.isEmpty() ? "" : " ").append(word);
        }
        lines.add(line.toString());
        return lines;
    }
}
