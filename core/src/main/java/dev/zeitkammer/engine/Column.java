package dev.zeitkammer.engine;

/** A column of a table or of staged rows. */
public record Column(String name, SqlType type) {}
