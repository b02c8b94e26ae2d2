/** Pictures of a project: its stars, its lineage, its loads, the versions of a member. */
@NullMarked
package dev.zeitkammer.cli.drawing;

import org.jspecify.annotations.NullMarked;
