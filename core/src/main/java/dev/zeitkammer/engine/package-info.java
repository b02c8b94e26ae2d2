/**
 * What differs between warehouses: types, quoting, null-safe comparison, scratch tables, applying changes, locks. Everything
 * above this package writes its rules once, against {@link dev.zeitkammer.engine.Warehouse} and
 * {@link dev.zeitkammer.engine.Dialect}.
 */
@NullMarked
package dev.zeitkammer.engine;

import org.jspecify.annotations.NullMarked;
