package dev.zeitkammer.reference;

import java.time.LocalDate;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** A version of a member: what it stands for, and which load wrote it. */
final class Version {

    LocalDate from;
    LocalDate stated;
    /** Values of type 2; of an owner, who it is. */
    List<@Nullable String> versioned;
    /** The key of the owner, where the owner is of type 2. */
    long ownerKey;
    /** The key with which the version was last stated: it stays where the version begins earlier, and comes back with it. */
    long statedKey;
    /** The instant at which the member ended in this version; null: it did not. */
    @Nullable
    LocalDate ended;

    @Nullable
    String over;

    /** The value of type 1 with which the version came into this delivery, or was made. */
    @Nullable
    String overBefore;

    long insertedBy;
    long updatedBy;
    long key;

    Version(LocalDate from, LocalDate stated, List<@Nullable String> versioned, long ownerKey) {
        this.from = from;
        this.stated = stated;
        this.versioned = versioned;
        owned(ownerKey);
    }

    /** The version is stated with a key of its owner. */
    final void owned(long key) {
        ownerKey = key;
        statedKey = key;
    }

    /** Takes from another version what late rows do not change. */
    Version beside(@Nullable Version neighbour) {
        if (neighbour != null) {
            over = neighbour.over;
            overBefore = neighbour.over;
        }
        return this;
    }
}
