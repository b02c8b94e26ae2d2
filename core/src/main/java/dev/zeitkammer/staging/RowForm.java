package dev.zeitkammer.staging;

/**
 * The form in which a row came: what it takes to write its text back.
 *
 * @param kind how rows are written
 * @param encoding the encoding of texts: utf-8, latin-1 or utf-16
 * @param header the header as it stood in the file; for rows of tables the names of their columns, separated by commas; else empty
 */
public record RowForm(Kind kind, String encoding, String header) {

    /** How rows are written. */
    public enum Kind {
        /** Records of delimited files. */
        DELIMITED,
        /** One JSON object a line. */
        JSON_LINES,
        /** The elements of one JSON array. */
        JSON_ARRAY,
        /** Rows of a Parquet file, kept as JSON. */
        PARQUET,
        /** Rows of a table, a query or a join, kept as JSON. */
        TABLE
    }
}
