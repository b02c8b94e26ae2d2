package dev.zeitkammer.reference;

import java.time.LocalDate;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** A version of a member: what it stands for, and which load wrote it. */
final class Version {

    LocalDate from;
    LocalDate stated;
    List<@Nullable String> versioned;
    /** The instant at which the member ended in this version; null: it did not. */
    @Nullable
    LocalDate ended;

    @Nullable
    String over;

    @Nullable
    String first;

    long insertedBy;
    long updatedBy;
    long key;

    Version(LocalDate from, LocalDate stated, List<@Nullable String> versioned) {
        this.from = from;
        this.stated = stated;
        this.versioned = versioned;
    }
}
