/** The embedded warehouse, which also reads staged files for every other one. */
@NullMarked
package dev.zeitkammer.engine.duckdb;

import org.jspecify.annotations.NullMarked;
