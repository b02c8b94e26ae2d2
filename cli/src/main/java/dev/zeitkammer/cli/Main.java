package dev.zeitkammer.cli;

import dev.zeitkammer.cli.command.CommandLineProgram;
import java.io.FileDescriptor;
import java.io.FileOutputStream;
import java.io.PrintStream;
import java.nio.charset.StandardCharsets;

/** Starts the program and ends the process with its exit status. */
public final class Main {

    private Main() {}

    public static void main(String[] args) {
        PrintStream out = new PrintStream(new FileOutputStream(FileDescriptor.out), false, StandardCharsets.UTF_8);
        PrintStream err = new PrintStream(new FileOutputStream(FileDescriptor.err), true, StandardCharsets.UTF_8);
        int status = new CommandLineProgram(out, err, System.getenv()).run(args);
        out.flush();
        System.exit(status);
    }
}
