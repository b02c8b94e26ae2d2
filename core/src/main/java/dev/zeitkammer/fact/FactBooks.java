package dev.zeitkammer.fact;

import dev.zeitkammer.dimension.members.PlaceholderMembers.Noted;
import dev.zeitkammer.step.Marks;

/**
 * What a fact's load reads and writes in the books, as SQL.
 *
 * @param waiting the table of facts that wait for their member
 * @param misplaced the table of facts that others left at another version than the one valid at their date
 * @param members the tables that must know of members that are made
 * @param lastLoad the number of the last load that loaded the fact; 0 before the first
 * @param isLoaded whether it was ever loaded
 * @param marks what has been loaded of its inputs
 */
public record FactBooks(
        String waiting, String misplaced, Noted members, String lastLoad, boolean isLoaded, Marks marks) {}
