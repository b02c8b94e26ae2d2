package dev.zeitkammer.cli;

import dev.zeitkammer.cli.command.CommandLineProgram;
import dev.zeitkammer.cli.command.Version;
import dev.zeitkammer.cli.output.Pager;
import java.io.FileDescriptor;
import java.io.FileOutputStream;
import java.io.PrintStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.Optional;

/** Starts the program and ends the process with its exit status. */
public final class Main {

    private Main() {}

    public static void main(String[] args) {
        PrintStream out = new PrintStream(new FileOutputStream(FileDescriptor.out), false, StandardCharsets.UTF_8);
        PrintStream err = new PrintStream(new FileOutputStream(FileDescriptor.err), true, StandardCharsets.UTF_8);
        System.exit(isVersion(args) ? version(out) : run(out, err, args));
    }

    /** Long answers of commands that only read go through the user's pager, where there is a terminal. */
    private static int run(PrintStream out, PrintStream err, String... args) {
        Optional<Pager> pager = Pager.of(out, System.getenv(), args);
        PrintStream to = pager.map(pages -> new PrintStream(pages, false, StandardCharsets.UTF_8))
                .orElse(out);
        int status = new CommandLineProgram(to, err, System.getenv(), Path.of("")).run(args);
        to.close();
        return status;
    }

    /** The version alone is told without making any command ready. */
    private static boolean isVersion(String... args) {
        return args.length == 1 && (args[0].equals("--version") || args[0].equals("-V"));
    }

    private static int version(PrintStream out) {
        out.println(Version.text());
        out.flush();
        return 0;
    }
}
