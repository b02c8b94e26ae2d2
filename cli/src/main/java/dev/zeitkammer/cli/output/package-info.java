/** Results as text for people, JSON and CSV for programs. */
@NullMarked
package dev.zeitkammer.cli.output;

import org.jspecify.annotations.NullMarked;
