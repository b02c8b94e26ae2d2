package dev.zeitkammer.definition;

import dev.zeitkammer.engine.DatabaseAddress;
import java.math.BigDecimal;
import java.util.Map;
import java.util.Optional;

/**
 * What the file of a project says for all its tables.
 *
 * @param name the project's name
 * @param warehouses by their names
 * @param use the warehouse to load into where none is named
 * @param databases operational databases that inputs read from
 * @param memory the most memory that the embedded engine may use, such as 2GB; empty: its own share of the machine
 * @param conventions what tables keep to that say nothing else
 * @param images for how many loads rows are kept as they were
 * @param tidyEvery after how many loads the files behind tables are put in order by themselves; 0: only by hand
 * @param events where open lineage events of loads go; empty: there are none
 * @param sealed what a load does about a table that somebody changed by hand; to look, it reads the whole table
 * @param metrics the file that is written after each load with what it came to, relative to the project; empty: there is none
 * @param setAsideLimit the most staged rows that may be set aside, in per cent, of tables that say nothing else; empty: any number
 */
public record Settings(
        String name,
        Map<String, DatabaseAddress> warehouses,
        String use,
        Map<String, DatabaseAddress> databases,
        Optional<String> memory,
        Conventions conventions,
        KeptImages images,
        int tidyEvery,
        Optional<Events> events,
        Optional<BigDecimal> setAsideLimit,
        Sealed sealed,
        Optional<Word> metrics) {

    /** What a load does about a table that somebody changed by hand. */
    public enum Sealed {
        /** It does not look. */
        IGNORE,
        /** It says so. */
        NOTE,
        /** It stops, before it writes. */
        STOP
    }

    /** The same, with another warehouse to load into. */
    Settings using(String warehouse) {
        return new Settings(
                name,
                warehouses,
                warehouse,
                databases,
                memory,
                conventions,
                images,
                tidyEvery,
                events,
                setAsideLimit,
                sealed,
                metrics);
    }

    public Settings {
        warehouses = Map.copyOf(warehouses);
        databases = Map.copyOf(databases);
    }
}
