/** The manual as pages for a browser, read from a folder without a server. */
@NullMarked
package dev.zeitkammer.manual;

import org.jspecify.annotations.NullMarked;
