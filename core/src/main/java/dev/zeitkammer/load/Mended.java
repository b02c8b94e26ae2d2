package dev.zeitkammer.load;

import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.UsageException;
import java.nio.file.Path;
import java.util.List;
import java.util.OptionalLong;

/**
 * Files with rows that were set aside before and are mended, or with any rows of the form that an input has: they are loaded
 * instead of the delivery of the load date.
 *
 * @param files absolute paths, or paths from where the user is
 * @param resolves the load whose rows that were set aside are resolved by it; empty: of none that is known
 */
public record Mended(List<Path> files, OptionalLong resolves) {

    public Mended {
        files = List.copyOf(files);
    }

    /**
     * The table that gets the rows, as it loads them: a part of a delivery, beside high-water marks, that says nothing of rows it
     * does not hold, and of no feed.
     *
     * @throws UsageException where the table makes its own rows, or its input remembers rows
     */
    Definition of(Definition definition) {
        Input input = definition
                .from()
                .orElseThrow(() -> new UsageException(
                        definition.table() + " makes its own rows; there is nothing to load from a file"));
        if (input.keep().isPresent()) {
            throw new UsageException("The input \"" + input.name() + "\" of " + definition.table()
                    + " remembers the latest row of each key (keep); deliver the mended rows among its files");
        }
        return definition.loading(input.of(files));
    }
}
