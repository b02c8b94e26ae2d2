/** Operational databases that inputs read from, whichever driver they need. */
@NullMarked
package dev.zeitkammer.engine.database;

import org.jspecify.annotations.NullMarked;
