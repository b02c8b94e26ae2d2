/** Reading definitions from YAML with positions; every error of a project is reported at once. The door is {@link ProjectReader}. */
@NullMarked
package dev.zeitkammer.definition.reading;

import org.jspecify.annotations.NullMarked;
