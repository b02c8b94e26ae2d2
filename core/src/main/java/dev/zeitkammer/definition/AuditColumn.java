package dev.zeitkammer.definition;

import java.util.Collections;
import java.util.EnumSet;
import java.util.Locale;
import java.util.Set;

/** The columns that the program keeps in every table beside what the definition loads; names are in {@link Conventions}. */
public enum AuditColumn {
    VALID_FROM,
    VALID_TO,
    IS_CURRENT,
    VERSION,
    LAST_STATED,
    IS_DELETED,
    ROW_ORIGIN,
    INSERTED_AT,
    UPDATED_AT,
    INSERTED_BY,
    UPDATED_BY;

    /** The columns that say when and by which load a row was written; every table has them. */
    public static final Set<AuditColumn> STAMPS =
            Collections.unmodifiableSet(EnumSet.of(INSERTED_AT, UPDATED_AT, INSERTED_BY, UPDATED_BY));

    /** The standard name. */
    public String columnName() {
        return name().toLowerCase(Locale.ROOT);
    }
}
