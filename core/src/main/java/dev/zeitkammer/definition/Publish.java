package dev.zeitkammer.definition;

import java.time.Duration;
import java.util.List;

/**
 * How a table is written out for readers elsewhere.
 *
 * @param to the folder, relative to the project
 * @param form the form of the files
 * @param quotesFormulas whether texts that begin like a formula of a spreadsheet get an apostrophe before it
 * @param partition the columns by whose values files lie in folders
 * @param currentOnly whether only the current versions of members are written
 * @param keptFor how long files stay that another load has replaced, for readers that are at it
 */
public record Publish(
        Word to, Form form, boolean quotesFormulas, List<Word> partition, boolean currentOnly, Duration keptFor) {

    /** Forms of files. */
    public enum Form {
        PARQUET,
        CSV
    }

    public Publish {
        partition = List.copyOf(partition);
    }
}
