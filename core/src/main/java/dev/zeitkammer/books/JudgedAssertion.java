package dev.zeitkammer.books;

/**
 * How an assertion went in a load.
 *
 * @param asserted what was asserted, in words
 * @param found what was found instead, or as it should be, in words
 * @param broken the rows that fail it; 0 where it is not about single rows
 * @param otherwise what followed where it was not so: set-aside, stop or note
 */
public record JudgedAssertion(
        String name, String asserted, String found, long broken, String otherwise, boolean holds) {}
