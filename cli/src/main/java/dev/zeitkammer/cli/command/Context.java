package dev.zeitkammer.cli.command;

import java.io.PrintStream;
import java.util.Map;

/** What a command is given by the process it runs in. */
record Context(PrintStream out, PrintStream err, Map<String, String> environment) {}
