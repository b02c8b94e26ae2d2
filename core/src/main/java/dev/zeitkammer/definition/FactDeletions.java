package dev.zeitkammer.definition;

/**
 * How facts are cancelled.
 *
 * @param when a condition over the staged columns; a row for which it holds cancels the fact of its grain
 * @param marks whether cancelled facts stay, marked, instead of being removed
 */
public record FactDeletions(Word when, boolean marks) {}
