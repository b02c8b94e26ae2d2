package dev.zeitkammer.staging;

import dev.zeitkammer.definition.Input;
import java.nio.file.Path;
import java.util.List;
import java.util.Optional;

/** What an input has waiting for a load, before its rows are read. */
public interface Delivery {

    Input input();

    /** The columns of the delivery, as its source writes them. */
    List<String> header();

    /** What messages call it: its files, its table or its query. */
    String shown();

    /** The staged column of a name, whatever its case. */
    default Optional<String> column(String name) {
        return header().stream().filter(name::equalsIgnoreCase).findFirst();
    }

    /** About how many bytes it has when unpacked; {@link Long#MAX_VALUE} where that is not known. */
    default long bytes() {
        return Long.MAX_VALUE;
    }

    /** The files that are all there is of it; none where its rows come from elsewhere. */
    default List<Path> files() {
        return List.of();
    }

    /** Whether anything came; else only rows that waited are tried again. */
    default boolean isDelivered() {
        return true;
    }

    /** The form in which the rows of a file came, for writing them back; {@code file} as messages show it. */
    RowForm form(String file);
}
