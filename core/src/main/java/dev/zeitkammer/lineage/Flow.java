package dev.zeitkammer.lineage;

/** One column decides another. */
public record Flow(Field from, Field to, Part part) {

    /** How it does so. */
    public enum Part {
        /** Its value becomes the other's, as it is or in an expression. */
        VALUE("value"),
        /** A member is found by it. */
        KEY("found by"),
        /** A surrogate key stands for it. */
        IDENTITY("one for each"),
        /** The version of a member that is valid at its moment. */
        MOMENT("valid at"),
        /** Where nobody is found, a member is made of it. */
        PLACEHOLDER("placeholder");

        private final String word;

        Part(String word) {
            this.word = word;
        }

        public String word() {
            return word;
        }
    }
}
