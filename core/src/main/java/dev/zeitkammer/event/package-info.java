/** Events of loads for whoever collects lineage elsewhere, in the open form of OpenLineage. */
@NullMarked
package dev.zeitkammer.event;

import org.jspecify.annotations.NullMarked;
