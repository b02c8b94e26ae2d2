package dev.zeitkammer.definition;

import java.time.LocalDate;
import java.util.Map;
import java.util.Optional;

/**
 * The conventions of a project's tables.
 *
 * @param openEnd the end of the version that is open; empty: null
 * @param inclusive whether valid_to is the last day of a version rather than the instant the next one begins
 * @param unknown the key of the reserved member for a value that matches nobody
 * @param notApplicable the key of the reserved member for no value
 * @param columns other names of housekeeping columns, by their standard names
 */
public record Conventions(
        Optional<LocalDate> openEnd, boolean inclusive, long unknown, long notApplicable, Map<String, String> columns) {

    public static final Conventions STANDARD =
            new Conventions(Optional.of(LocalDate.of(9999, 12, 31)), false, -1, -2, Map.of());

    public Conventions {
        columns = Map.copyOf(columns);
    }

    /** The name of a housekeeping column in this project. */
    public String column(AuditColumn housekeeping) {
        return columns.getOrDefault(housekeeping.columnName(), housekeeping.columnName());
    }
}
