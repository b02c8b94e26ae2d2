package dev.zeitkammer.definition;

import java.util.List;
import java.util.Optional;

/** A table that the project loads. */
public sealed interface Definition permits Dimension, Fact {

    /** The name of the definition. */
    Word name();

    /** The name of the table in the warehouse. */
    String table();

    /** Where its rows come from; empty when it makes its own. */
    Optional<Input> from();

    /** The name that a column had before, where the definition says so. */
    default Optional<String> formerName(String column) {
        return Optional.empty();
    }

    /** The names of its audit columns, and how its versions end. */
    Conventions conventions();

    /** What its loads must meet. */
    Demands demands();

    /** For how many loads its rows are kept as they were; empty: as the project says. */
    Optional<KeptImages> images();

    /** The name of a view of everything that the table has ever said. */
    Optional<Word> knownView();

    /** The tables after which it is loaded because its definition says so. */
    List<Word> after();

    /** How it is written out for readers elsewhere; empty: it is not. */
    Optional<Publish> publish();

    /** How its rows lie in files, where the warehouse lets one say so. */
    Layout layout();

    /** The names of the dimensions that must be loaded before. */
    default List<String> dependsOn() {
        return List.of();
    }
}
