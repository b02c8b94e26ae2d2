package dev.zeitkammer.reference;

import dev.zeitkammer.load.TestStar;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** Huts and guests as they stood when a load looked them up, and the placeholders that it made. */
final class StoredMembers {

    /** What a lookup finds: a word of its counts, and the key. */
    record Found(String word, long key) {}

    /** A version, and when its member was deleted, if it was. */
    private record Since(LocalDate from, long key, @Nullable LocalDate ended) {}

    private final Map<String, List<Since>> huts = new HashMap<>();
    private final Map<String, Long> made = new HashMap<>();
    private final Map<Long, Long> memberKeys = new HashMap<>();
    private final Map<Integer, Long> guests = new HashMap<>();

    StoredMembers(TestStar star, FactSettings settings, long load) {
        for (String row : star.rows(
                "select code, valid_from, hut_key, row_origin, inserted_by, case when is_deleted then valid_to end, member_key from "
                        + settings.huts() + " where hut_key > 0 order by code, valid_from")) {
            String[] values = row.split("\\|");
            memberKeys.put(Long.valueOf(values[2]), Long.valueOf(values[6]));
            if (values[3].equals("placeholder") && Long.parseLong(values[4]) == load) {
                made.put(values[0], Long.parseLong(values[2]));
            } else {
                huts.computeIfAbsent(values[0], code -> new ArrayList<>())
                        .add(new Since(
                                settings.days().of(values[1]),
                                Long.parseLong(values[2]),
                                values[5].equals("null")
                                        ? null
                                        : settings.days().of(values[5])));
            }
        }
        for (String row : star.rows("select guest_no, guest_key from dim_guest where guest_key > 0")) {
            String[] values = row.split("\\|");
            guests.put(Integer.valueOf(values[0]), Long.parseLong(values[1]));
        }
    }

    Found hut(@Nullable String code, LocalDate night) {
        if (code == null) {
            return new Found("blank", -2);
        }
        List<Since> versions = huts.get(code);
        if (versions == null) {
            Long placeholder = made.get(code);
            return placeholder == null ? new Found("unmatched", -1) : new Found("placeholders", placeholder);
        }
        if (night.isBefore(versions.get(0).from())) {
            return new Found("early", versions.get(0).key());
        }
        Since valid = versions.get(0);
        for (Since version : versions) {
            valid = version.from().isAfter(night) ? valid : version;
        }
        boolean ended = valid.ended() != null && !night.isBefore(valid.ended());
        return new Found(ended ? "ended" : "matched", valid.key());
    }

    /** The key that all versions of a member share, by the key of one of them; a reserved member has one version. */
    long memberKey(long key) {
        return memberKeys.getOrDefault(key, key);
    }

    Found guest(@Nullable Integer guest) {
        if (guest == null) {
            return new Found("blank", -2);
        }
        Long key = guests.get(guest);
        return key == null ? new Found("unmatched", -1) : new Found("matched", key);
    }
}
