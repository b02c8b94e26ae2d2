package dev.zeitkammer.cli;

import dev.zeitkammer.cli.command.CommandLineProgram;
import dev.zeitkammer.cli.command.Version;
import java.io.FileDescriptor;
import java.io.FileOutputStream;
import java.io.PrintStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;

/** Starts the program and ends the process with its exit status. */
public final class Main {

    private Main() {}

    public static void main(String[] args) {
        PrintStream out = new PrintStream(new FileOutputStream(FileDescriptor.out), false, StandardCharsets.UTF_8);
        PrintStream err = new PrintStream(new FileOutputStream(FileDescriptor.err), true, StandardCharsets.UTF_8);
        int status = isVersion(args)
                ? version(out)
                : new CommandLineProgram(out, err, System.getenv(), Path.of("")).run(args);
        out.flush();
        System.exit(status);
    }

    /** The version alone is told without making any command ready. */
    private static boolean isVersion(String... args) {
        return args.length == 1 && (args[0].equals("--version") || args[0].equals("-V"));
    }

    private static int version(PrintStream out) {
        out.println(Version.text());
        return 0;
    }
}
