/**
 * Turns files into typed staged rows and rows set aside. Files are read by the embedded engine for every warehouse, so that
 * parsing, types and set-aside rows are the same everywhere. Values are converted strictly: nothing is rounded, cut or guessed.
 */
@NullMarked
package dev.zeitkammer.staging;

import org.jspecify.annotations.NullMarked;
