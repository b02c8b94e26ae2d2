package dev.zeitkammer.reference;

import java.time.LocalDate;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** The owners that members name: a dimension with history of its own. */
final class Owners {

    /** Who was found, and the key of the version valid then. */
    record Found(String member, long key) {}

    private record Since(LocalDate from, long key) {}

    private final Map<String, List<Since>> versions = new HashMap<>();

    /** Versions of an owner come in order. */
    void add(String owner, LocalDate from, long key) {
        versions.computeIfAbsent(owner, name -> new ArrayList<>()).add(new Since(from, key));
    }

    /** The key of a member's newest version, by what was found of it; of nobody the reserved one. */
    long newest(String found, long reserved) {
        List<Since> known = versions.get(found.substring(found.indexOf(' ') + 1));
        return known == null ? reserved : known.get(known.size() - 1).key();
    }

    Found find(@Nullable String owner, LocalDate at) {
        if (owner == null) {
            return new Found("nobody", -2);
        }
        List<Since> known = versions.get(owner);
        if (known == null) {
            return new Found("unknown", -1);
        }
        Since found = known.get(0);
        for (Since version : known) {
            if (!version.from().isAfter(at)) {
                found = version;
            }
        }
        return new Found("is " + owner, found.key());
    }
}
