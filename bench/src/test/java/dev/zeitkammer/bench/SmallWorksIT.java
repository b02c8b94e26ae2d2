package dev.zeitkammer.bench;

import java.util.EnumSet;
import java.util.Set;
import org.junit.jupiter.api.Test;

/** The works of few rows: of many columns, of many tables, of the program's start. */
class SmallWorksIT extends MeasuredWorks {

    static final Set<Works.Name> SMALL =
            EnumSet.of(Works.Name.WIDE, Works.Name.WIDEST, Works.Name.VERSION, Works.Name.DEMO, Works.Name.TABLES);

    @Test
    void everyWorkIsDoneAndAgreedUpon() throws Exception {
        areDoneAndAgreedUpon(SMALL::contains);
    }
}
