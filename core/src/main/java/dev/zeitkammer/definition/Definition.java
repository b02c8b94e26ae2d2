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

    /** The same, loaded from another input: one that holds a part of its rows, and says nothing of the others. */
    Definition loading(Input other);

    /** The name that a column had before, where the definition says so. */
    default Optional<String> formerName(String column) {
        return Optional.empty();
    }

    /** What it says as any table may. */
    Terms terms();

    /** What is said of the table, and of the columns of its key and its lookups. */
    default Described described() {
        return terms().described();
    }

    /** Whether the database is to hold its keys, where it can. */
    default boolean isEnforced() {
        return terms().isEnforced();
    }

    /** The names of its audit columns, and how its versions end. */
    default Conventions conventions() {
        return terms().conventions();
    }

    /** What its loads must meet. */
    default Demands demands() {
        return terms().demands();
    }

    /** For how many loads its rows are kept as they were; empty: as the project says. */
    default Optional<KeptImages> images() {
        return terms().images();
    }

    /** The name of a view of everything that the table has ever said. */
    default Optional<Word> knownView() {
        return terms().knownView();
    }

    /** The tables after which it is loaded because its definition says so. */
    default List<Word> after() {
        return terms().after();
    }

    /** How it is written out for readers elsewhere; empty: it is not. */
    default Optional<Publish> publish() {
        return terms().publish();
    }

    /** How its rows lie in files, where the warehouse lets one say so. */
    default Layout layout() {
        return terms().layout();
    }

    /** The columns that identify a row; none of a fact whose rows are only ever added. */
    List<String> rowKey();

    /** The names of the dimensions that must be loaded before. */
    default List<String> dependsOn() {
        return List.of();
    }
}
