/** The tables as they were: rows kept before a load writes over them, and tables as they were known after a load. */
@NullMarked
package dev.zeitkammer.past;

import org.jspecify.annotations.NullMarked;
