package dev.zeitkammer.definition;

import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.StoredFlag;
import java.time.LocalDate;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;

/**
 * The conventions of a project's tables, or of one of them.
 *
 * @param openEnd the end of the version that is open; empty: null
 * @param inclusive whether valid_to is the last day of a version rather than the instant the next one begins
 * @param unknown the key of the reserved member for a value that matches nobody
 * @param notApplicable the key of the reserved member for no value
 * @param columns other names of audit columns, by their standard names
 * @param flags how audit columns that are yes or no are stored, by their standard names
 * @param standing whether the table was made by others: what it lacks is added, and what stands stays as it is
 */
public record Conventions(
        Optional<LocalDate> openEnd,
        boolean inclusive,
        long unknown,
        long notApplicable,
        Map<String, String> columns,
        Map<String, StoredFlag> flags,
        boolean standing) {

    public static final Conventions STANDARD =
            new Conventions(Optional.of(LocalDate.of(9999, 12, 31)), false, -1, -2, Map.of(), Map.of(), false);

    public Conventions {
        columns = Collections.unmodifiableMap(new LinkedHashMap<>(columns));
        flags = Collections.unmodifiableMap(new LinkedHashMap<>(flags));
    }

    /** The name of an audit column. */
    public String column(AuditColumn audit) {
        return columns.getOrDefault(audit.columnName(), audit.columnName());
    }

    /** How an audit column that is yes or no is stored. */
    public StoredFlag flag(AuditColumn audit) {
        return flags.getOrDefault(audit.columnName(), StoredFlag.BOOLEAN);
    }

    /** The condition that a row under an alias is, say, current. */
    public String holds(Dialect dialect, String alias, AuditColumn audit) {
        return flag(audit).holds(dialect, dialect.column(alias, column(audit)));
    }

    /** The same where the row has no alias. */
    public String holds(Dialect dialect, AuditColumn audit) {
        return flag(audit).holds(dialect, dialect.quote(column(audit)));
    }

    /** The same for a table that was made by others, or by this program. */
    public Conventions standing(boolean byOthers) {
        return new Conventions(openEnd, inclusive, unknown, notApplicable, columns, flags, byOthers);
    }
}
