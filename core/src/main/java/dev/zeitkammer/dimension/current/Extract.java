package dev.zeitkammer.dimension.current;

/** What a delivery can say of members that it does not hold. */
public enum Extract {
    /** Every line of it could be read, so that an absent member is known to be absent. */
    READABLE,
    /** A line that could not be read may hold the member. */
    UNREADABLE,
    /** It is older than the newest one: members that it lacks came later, and those that ended since stay ended. */
    OLDER
}
