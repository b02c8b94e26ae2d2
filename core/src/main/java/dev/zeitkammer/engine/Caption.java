package dev.zeitkammer.engine;

/**
 * What something that an engine is to do is called.
 *
 * @param name a few words
 * @param purpose what it does and why, in a sentence for the reader of {@code explain}
 */
public record Caption(String name, String purpose) {}
