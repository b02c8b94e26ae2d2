/** The forms of definitions: which keywords a group may hold, and what may stand behind each; read by people as JSON Schema. */
@NullMarked
package dev.zeitkammer.definition.form;

import org.jspecify.annotations.NullMarked;
