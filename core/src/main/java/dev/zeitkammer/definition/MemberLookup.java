package dev.zeitkammer.definition;

/**
 * The key of another dimension, or of the parent in the same one, as an attribute of a dimension. Values are compared by
 * member; what is stored is the version that is valid at the row's effective, in type 1 always the newest one.
 *
 * @param change what another member means; never type 3
 * @param hierarchy whether a bridge table of ancestors is kept
 */
public record MemberLookup(Lookup lookup, ChangeType change, boolean hierarchy) {

    /** The name of the column that holds the key. */
    public String column() {
        return lookup.keyColumn();
    }

    /** Whether its key is always that of the member's newest version. */
    public boolean followsNewest() {
        return change == ChangeType.TYPE_1;
    }

    /** Whether it names another member of the dimension it stands in. */
    public boolean isParentIn(Dimension dimension) {
        return lookup.dimension().name().text().equals(dimension.name().text());
    }
}
