package dev.zeitkammer.cli.output;

import dev.zeitkammer.engine.Secrets;
import java.io.PrintStream;
import java.util.stream.Collectors;

/** Where results go (standard output) and where everything else goes (standard error). */
public final class Output {

    private final PrintStream out;
    private final PrintStream err;
    private Runnable before = () -> {};

    public Output(PrintStream out, PrintStream err) {
        this.out = out;
        this.err = err;
    }

    /** Sets what must be done before anything is written: taking away a line that shows progress. */
    public void beforeWriting(Runnable work) {
        before = work;
    }

    /** Work begins that shows its progress itself. */
    public void stepping() {
        before.run();
    }

    /** A line of the result. */
    public void line(String text) {
        before.run();
        out.println(Style.harmless(text));
    }

    /** Several lines of the result, as they stand. */
    public void block(String text) {
        before.run();
        out.print(Style.harmless(text));
        if (!text.isEmpty() && !text.endsWith("\n")) {
            out.println();
        }
    }

    /** A line of the result for a program, to the sign as it is; people who look at it are not steered by it. */
    public void data(String text) {
        before.run();
        out.println(System.console() == null ? text : Style.harmless(text));
    }

    /** A line that is not part of the result. */
    public void aside(String text) {
        before.run();
        out.flush();
        err.println(Style.harmless(Secrets.cleaned(text)));
    }

    /** A text that steers no terminal. */
    public static String safe(String text) {
        return Values.safe(text);
    }

    public void error(String message) {
        aside(Style.bad("Error:") + " " + message.lines().map(Values::safe).collect(Collectors.joining("\n")));
    }
}
