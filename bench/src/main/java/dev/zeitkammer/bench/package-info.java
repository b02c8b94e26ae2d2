/**
 * Measures how long loads take against hand-written SQL and against the least that any load must do, all as processes, turn by
 * turn in one run. Times of one machine mean little; their ratios are what is reported.
 */
@NullMarked
package dev.zeitkammer.bench;

import org.jspecify.annotations.NullMarked;
