package dev.zeitkammer.lineage;

/**
 * Something that has columns.
 *
 * @param name the name of an input, of a table in the warehouse, of a view; files by their pattern
 */
public record Dataset(Kind kind, String name) {

    /** What it is. */
    public enum Kind {
        /** Files as they are delivered. */
        FILES("files"),
        /** A table that the project does not load, in the warehouse or in an operational database. */
        OUTSIDE("table outside"),
        INPUT("input"),
        DIMENSION("dimension"),
        FACT("fact"),
        VIEW("view"),
        /** Files that the project writes for readers elsewhere. */
        PUBLISHED("published files");

        private final String word;

        Kind(String word) {
            this.word = word;
        }

        public String word() {
            return word;
        }
    }

    /** Whether it is a table that the project loads. */
    public boolean isTable() {
        return kind == Kind.DIMENSION || kind == Kind.FACT;
    }
}
