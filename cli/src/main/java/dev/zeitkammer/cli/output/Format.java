package dev.zeitkammer.cli.output;

/** The forms in which results are written. */
public enum Format {
    TEXT,
    JSON,
    CSV
}
