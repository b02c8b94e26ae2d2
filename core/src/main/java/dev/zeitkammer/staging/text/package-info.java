/** What stands in the bytes and signs of text files, before anybody asks what it means. Knows no engine. */
@NullMarked
package dev.zeitkammer.staging.text;

import org.jspecify.annotations.NullMarked;
