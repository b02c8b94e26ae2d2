package dev.zeitkammer.load;

/**
 * A row that a load would add to a table, or that it would end or remove.
 *
 * @param comes whether it would be added
 * @param key the business key of the member, or the grain of the fact; empty where rows have none
 * @param from the date from which a version holds; empty where rows have none
 */
public record ComingRow(String table, boolean comes, String key, String from) {}
