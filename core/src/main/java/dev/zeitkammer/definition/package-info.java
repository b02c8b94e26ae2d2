/**
 * A project's definitions: records for the project, its inputs, dimensions and facts; reading them from YAML with positions;
 * checking them against each other. Every error of a project is reported at once.
 */
@NullMarked
package dev.zeitkammer.definition;

import org.jspecify.annotations.NullMarked;
