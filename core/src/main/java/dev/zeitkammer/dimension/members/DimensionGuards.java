package dev.zeitkammer.dimension.members;

/** The options of a load that let guards of dimensions pass. */
public final class DimensionGuards {

    /** Lets a full extract pass in which more members are absent than the limit allows. */
    public static final String ACCEPT_ABSENT = "--accept-absent";

    private DimensionGuards() {}
}
