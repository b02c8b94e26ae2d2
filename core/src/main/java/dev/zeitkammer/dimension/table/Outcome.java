package dev.zeitkammer.dimension.table;

/** What became of a staged row; the outcomes of a delivery add up to its rows. */
public enum Outcome {
    NEW("new"),
    VERSIONED("versioned"),
    CORRECTED("corrected"),
    COMPLETED("completed"),
    OVERWRITTEN("overwritten"),
    RETURNED("returned"),
    CLOSED("closed"),
    UNCHANGED("unchanged"),
    REPEATED("repeated"),
    SET_ASIDE("setAside"),
    WAITING("waiting");

    private final String word;

    Outcome(String word) {
        this.word = word;
    }

    /** The word in scratch tables, books and outputs. */
    public String word() {
        return word;
    }

    /** The word as a SQL literal. */
    public String sql() {
        return "'" + word + "'";
    }
}
