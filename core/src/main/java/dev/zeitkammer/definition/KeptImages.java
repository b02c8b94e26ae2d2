package dev.zeitkammer.definition;

/**
 * For how many loads the rows of tables are kept as they were before a load wrote over them.
 *
 * @param loads 0: not at all
 */
public record KeptImages(int loads) {

    public static final KeptImages ALL = new KeptImages(Integer.MAX_VALUE);

    public static final KeptImages NONE = new KeptImages(0);

    public boolean any() {
        return loads > 0;
    }
}
