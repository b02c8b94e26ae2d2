/** The command line: where the program starts and ends. */
@NullMarked
package dev.zeitkammer.cli;

import org.jspecify.annotations.NullMarked;
