package dev.zeitkammer.books;

/**
 * How an expectation went in a load.
 *
 * @param expected what was expected, in words
 * @param found what was found instead, or as it should be, in words
 * @param broken the rows that fail it; 0 where it is not about single rows
 * @param otherwise what followed where it was not so: set-aside, stop or note
 */
public record JudgedExpectation(
        String name, String expected, String found, long broken, String otherwise, boolean holds) {}
