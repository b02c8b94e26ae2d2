package dev.zeitkammer.cli.command;

import java.io.PrintStream;
import java.nio.file.Path;
import java.util.Map;

/**
 * What a command is given by the process it runs in.
 *
 * @param here the folder against which paths of the command line are resolved
 */
record Context(PrintStream out, PrintStream err, Map<String, String> environment, Path here) {}
