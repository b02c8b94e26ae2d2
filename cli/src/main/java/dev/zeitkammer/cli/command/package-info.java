/** The commands: options in, calls of the core, results handed to the output package. */
@NullMarked
package dev.zeitkammer.cli.command;

import org.jspecify.annotations.NullMarked;
