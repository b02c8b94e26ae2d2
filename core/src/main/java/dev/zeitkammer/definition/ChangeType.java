package dev.zeitkammer.definition;

/** What a changed attribute means for a member. */
public enum ChangeType {
    /** Keep the first value. */
    TYPE_0,
    /** Overwrite. */
    TYPE_1,
    /** Open a new version. */
    TYPE_2,
    /** Overwrite, and keep the previous value in a second column. */
    TYPE_3;

    /** The words by which definitions name it. */
    public String word() {
        return "type " + ordinal();
    }
}
