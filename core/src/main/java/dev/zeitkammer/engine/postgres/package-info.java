/** A PostgreSQL server as the warehouse. Staged files are read by the embedded engine and handed over in bulk. */
@NullMarked
package dev.zeitkammer.engine.postgres;

import org.jspecify.annotations.NullMarked;
