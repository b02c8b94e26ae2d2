package dev.zeitkammer.definition;

import java.util.List;
import java.util.Optional;

/**
 * What the definition of any table may say, beside where its rows come from and what its columns are.
 *
 * @param described what is said of the table, and of the columns of its key and its lookups
 * @param isEnforced whether the database is to hold its keys, where it can
 * @param layout how its rows lie in files, where the warehouse lets one say so
 * @param conventions the names of its audit columns, and how its versions end
 * @param demands what its loads must meet
 * @param publish how it is written out for readers elsewhere; empty: it is not
 * @param after the tables after which it is loaded because its definition says so
 * @param images for how many loads its rows are kept as they were; empty: as the project says
 * @param knownView the name of a view of everything that the table has ever said
 */
public record Terms(
        Described described,
        boolean isEnforced,
        Layout layout,
        Conventions conventions,
        Demands demands,
        Optional<Publish> publish,
        List<Word> after,
        Optional<KeptImages> images,
        Optional<Word> knownView) {

    public Terms {
        after = List.copyOf(after);
    }

    /** With what is said elsewhere of the table and its columns. */
    public Terms describing(Described beside) {
        return new Terms(
                described.and(beside), isEnforced, layout, conventions, demands, publish, after, images, knownView);
    }
}
