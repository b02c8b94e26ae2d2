package dev.zeitkammer.reference;

import java.time.LocalDate;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.IdentityHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/** A member: its versions in order, and what they share. */
final class Member {

    final List<Version> versions = new ArrayList<>();

    @Nullable
    String first;

    @Nullable
    String zone;

    @Nullable
    String former;

    String owner = "";
    long ownerKey;

    Version newest() {
        return versions.get(versions.size() - 1);
    }

    /** The moment of the latest statement; a deletion is one too. */
    LocalDate latest() {
        return newest().ended == null ? newest().stated : newest().ended;
    }

    /** When a row of a full extract brings it back, or did, which is older than its deletion; null: the row has nothing to do with that. */
    @Nullable
    LocalDate back(LocalDate row, LocalDate loadDate) {
        int returned = versions.size();
        while (returned > 0 && versions.get(returned - 1).ended == null) {
            returned--;
        }
        if (returned == 0) {
            return null;
        }
        LocalDate ended = Objects.requireNonNull(versions.get(returned - 1).ended);
        LocalDate back = returned == versions.size() ? loadDate : versions.get(returned).from;
        boolean isOlder = loadDate.isBefore(ended) || loadDate.isBefore(back);
        return row.isBefore(ended) && !isOlder ? back : null;
    }

    /** The last version that begins at or before a moment, or -1. */
    int holder(LocalDate at) {
        int holder = -1;
        for (int index = 0; index < versions.size(); index++) {
            if (!versions.get(index).from.isAfter(at)) {
                holder = index;
            }
        }
        return holder;
    }

    /** One statement of values of type 3 and of an owner of type 1. */
    void share(StagedRow row, Owners.Found found, boolean isFirst) {
        if (!isFirst && !Objects.equals(zone, row.zone())) {
            former = zone;
        }
        zone = row.zone();
        if (!owner.equals(found.member())) {
            owner = found.member();
            ownerKey = found.key();
        }
    }

    /** One statement of type 2 values, applied to what stands; returns its outcome. */
    String state(LocalDate at, List<@Nullable String> values, long key) {
        if (versions.isEmpty()) {
            versions.add(new Version(at, at, values, key));
            return "new";
        }
        int index = holder(at);
        if (index < 0) {
            return opened(0, at, values, key);
        }
        Version holder = versions.get(index);
        if (holder.ended != null && !at.isBefore(holder.ended)) {
            return opened(index + 1, at, values, key).equals("corrected") ? "corrected" : "returned";
        }
        if (holder.versioned.equals(values)) {
            holder.stated = holder.stated.isBefore(at) ? at : holder.stated;
            return "unchanged";
        }
        if (holder.stated.isAfter(at)) {
            comesBack(index);
        }
        if (at.equals(holder.from)) {
            holder.versioned = values;
            holder.owned(key);
            return "corrected";
        }
        if (at.equals(holder.stated)) {
            holder.stated = holder.from;
        }
        if (holder.ended != null) {
            Version until = new Version(at, at, values, key).beside(holder);
            until.ended = holder.ended;
            holder.ended = null;
            versions.add(index + 1, until);
            return "versioned";
        }
        return opened(index + 1, at, values, key);
    }

    /** Where a version was stated again later, its values come back in a version of their own. */
    private void comesBack(int index) {
        Version holder = versions.get(index);
        Version back = new Version(holder.stated, holder.stated, holder.versioned, holder.statedKey).beside(holder);
        back.ended = holder.ended;
        holder.ended = null;
        holder.stated = holder.from;
        holder.owned(holder.ownerKey);
        versions.add(index + 1, back);
    }

    /** A stretch that begins at a moment: the version after it begins earlier when it says the same, else a new version. */
    private String opened(int index, LocalDate at, List<@Nullable String> values, long key) {
        if (index < versions.size() && versions.get(index).versioned.equals(values)) {
            versions.get(index).from = at;
            versions.get(index).ownerKey = key;
            return "corrected";
        }
        Version neighbour = index > 0 ? versions.get(index - 1) : versions.isEmpty() ? null : versions.get(0);
        versions.add(index, new Version(at, at, values, key).beside(neighbour));
        return "versioned";
    }

    /** A deletion; where values are stated at its moment too, the member ends a day later. */
    String ended(LocalDate deleted, Set<LocalDate> delivered) {
        boolean stated = delivered.contains(deleted)
                || versions.stream()
                        .anyMatch(version -> version.from.equals(deleted) || version.stated.equals(deleted));
        LocalDate at = stated ? deleted.plusDays(1) : deleted;
        int index = holder(at.minusDays(1));
        if (index < 0) {
            return "unchanged";
        }
        Version holder = versions.get(index);
        if (holder.ended != null && !at.isBefore(holder.ended)) {
            return "unchanged";
        }
        if (!holder.stated.isBefore(at)) {
            comesBack(index);
        }
        holder.ended = at;
        return "closed";
    }

    /** The images of all versions, by version. */
    Map<Version, List<@Nullable Object>> images(boolean ownerIsShared) {
        Map<Version, List<@Nullable Object>> images = new IdentityHashMap<>();
        versions.forEach(version -> images.put(version, image(version, ownerIsShared)));
        return images;
    }

    /**
     * Everything of a version but the moment when it was last stated.
     *
     * @param ownerIsShared whether all versions have one owner
     */
    List<@Nullable Object> image(Version version, boolean ownerIsShared) {
        int number = versions.indexOf(version);
        boolean isNewest = number + 1 == versions.size();
        List<@Nullable Object> image = new ArrayList<>(version.versioned);
        image.addAll(Arrays.asList(zone, former, ownerIsShared ? ownerKey : 0));
        image.add(version.over);
        image.add(version.from);
        image.add(version.ended != null ? version.ended : isNewest ? LocalDate.MAX : versions.get(number + 1).from);
        image.add(number);
        image.add(isNewest);
        image.add(version.ended != null);
        return image;
    }
}
