/**
 * A project's definitions: records for the project, its inputs, dimensions and facts. Beside them the rooms in which they are
 * read from YAML, checked against each other, and told as JSON Schema.
 */
@NullMarked
package dev.zeitkammer.definition;

import org.jspecify.annotations.NullMarked;
