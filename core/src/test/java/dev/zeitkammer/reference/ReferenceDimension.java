package dev.zeitkammer.reference;

import java.time.LocalDate;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import org.jspecify.annotations.Nullable;

/** Loads deliveries as the rules say, statement by statement. */
final class ReferenceDimension {

    private final Settings settings;
    final Map<List<String>, List<Version>> members = new TreeMap<>(Comparator.comparing(Object::toString));

    ReferenceDimension(Settings settings) {
        this.settings = settings;
    }

    /** Loads a delivery and returns its counts. */
    Map<String, Long> load(List<StagedRow> delivery, LocalDate loadDate, long load) {
        Map<StagedRow, String> unused = new LinkedHashMap<>();
        Map<String, Long> counts = new LinkedHashMap<>();
        for (String name : List.of(
                "new",
                "versioned",
                "corrected",
                "completed",
                "overwritten",
                "returned",
                "closed",
                "unchanged",
                "repeated",
                "setAside",
                "absent",
                "late")) {
            counts.put(name, 0L);
        }
        counts.put("staged", (long) delivery.size());
        Map<List<String>, Map<LocalDate, List<StagedRow>>> values = new LinkedHashMap<>();
        Map<List<String>, Map<LocalDate, List<StagedRow>>> deletions = new LinkedHashMap<>();
        Set<List<String>> present = new LinkedHashSet<>();
        boolean readable = true;
        for (StagedRow row : delivery) {
            readable &= !row.hasBlankKey();
            if (!row.hasBlankKey()) {
                present.add(List.of(row.code(), row.part()));
            }
            if (row.hasBadNumber() || row.hasBlankKey()) {
                count(counts, "setAside");
                continue;
            }
            LocalDate at = settings.effective() ? row.effective() : loadDate;
            (row.deletes() ? deletions : values)
                    .computeIfAbsent(List.of(row.code(), row.part()), key -> new TreeMap<>())
                    .computeIfAbsent(at, moment -> new ArrayList<>())
                    .add(row);
        }
        for (List<String> key : present) {
            member(
                    key,
                    distinct(values.getOrDefault(key, Map.of()), counts),
                    distinct(deletions.getOrDefault(key, Map.of()), counts),
                    counts,
                    loadDate,
                    load);
        }
        if (settings.full() && readable) {
            absent(present, counts, loadDate, load);
        }
        return counts;
    }

    private void absent(Set<List<String>> present, Map<String, Long> counts, LocalDate loadDate, long load) {
        members.forEach((key, versions) -> {
            boolean there = versions.get(versions.size() - 1).ended == null;
            if (!present.contains(key) && there) {
                Map<Version, List<@Nullable Object>> before = images(versions);
                String outcome = settings.history() ? ended(versions, loadDate, Set.of()) : closed(versions.get(0));
                if (outcome.equals("closed")) {
                    count(counts, "absent");
                }
                carry(versions, before, versions.get(0).first, versions.get(0).over, load);
            }
        });
    }

    private static String closed(Version version) {
        if (version.ended != null) {
            return "unchanged";
        }
        version.ended = LocalDate.MIN;
        return "closed";
    }

    private static void count(Map<String, Long> counts, String name) {
        counts.merge(name, 1L, Long::sum);
    }

    private static TreeMap<LocalDate, StagedRow> distinct(
            Map<LocalDate, List<StagedRow>> rows, Map<String, Long> counts) {
        TreeMap<LocalDate, StagedRow> distinct = new TreeMap<>();
        rows.forEach((at, same) -> {
            boolean equal = same.stream().map(StagedRow::loaded).distinct().count() == 1;
            for (int index = 0; index < same.size(); index++) {
                if (!equal) {
                    count(counts, "setAside");
                } else if (index > 0) {
                    count(counts, "repeated");
                } else {
                    distinct.put(at, same.get(0));
                }
            }
        });
        return distinct;
    }

    private void member(
            List<String> key,
            TreeMap<LocalDate, StagedRow> rows,
            TreeMap<LocalDate, StagedRow> deletions,
            Map<String, Long> counts,
            LocalDate loadDate,
            long load) {
        List<Version> versions = members.getOrDefault(key, new ArrayList<>());
        if (settings.effective() && settings.history() && settings.late().equals("set-aside")) {
            setLateAside(versions, rows, counts);
        }
        if (rows.isEmpty() && deletions.isEmpty()) {
            return;
        }
        if (settings.history()) {
            withHistory(versions, rows, deletions, counts, loadDate, load);
        } else {
            withoutHistory(versions, rows, deletions, counts, load);
        }
        if (!versions.isEmpty()) {
            members.put(key, versions);
        }
    }

    private static void setLateAside(
            List<Version> versions, TreeMap<LocalDate, StagedRow> rows, Map<String, Long> counts) {
        if (versions.isEmpty()) {
            return;
        }
        LocalDate latest = latest(versions);
        rows.entrySet().removeIf(entry -> {
            int holder = holder(versions, entry.getKey());
            boolean changes = holder < 0
                    || !versions.get(holder).versioned.equals(entry.getValue().versioned());
            boolean aside = entry.getKey().isBefore(latest) && changes;
            if (aside) {
                count(counts, "setAside");
            }
            return aside;
        });
    }

    private static LocalDate latest(List<Version> versions) {
        Version last = versions.get(versions.size() - 1);
        return last.ended == null ? last.stated : last.ended;
    }

    private static void withoutHistory(
            List<Version> versions,
            TreeMap<LocalDate, StagedRow> rows,
            TreeMap<LocalDate, StagedRow> deletions,
            Map<String, Long> counts,
            long load) {
        for (int superseded = 1; superseded < rows.size() + deletions.size(); superseded++) {
            count(counts, "unchanged");
        }
        boolean deletes =
                rows.isEmpty() || (!deletions.isEmpty() && !deletions.lastKey().isBefore(rows.lastKey()));
        if (deletes) {
            String outcome = versions.isEmpty() ? "unchanged" : closed(versions.get(0));
            if (outcome.equals("closed")) {
                versions.get(0).updatedBy = load;
            }
            count(counts, outcome);
            return;
        }
        StagedRow row = rows.lastEntry().getValue();
        if (versions.isEmpty()) {
            Version version = new Version(LocalDate.MIN, LocalDate.MIN, row.versioned());
            version.first = row.first();
            version.over = row.over();
            version.insertedBy = load;
            version.updatedBy = load;
            versions.add(version);
            count(counts, "new");
            return;
        }
        Version version = versions.get(0);
        boolean same = Objects.equals(version.over, row.over()) && version.versioned.equals(row.versioned());
        boolean returns = version.ended != null;
        count(counts, returns ? "returned" : same ? "unchanged" : "overwritten");
        version.over = row.over();
        version.versioned = row.versioned();
        version.ended = null;
        version.updatedBy = same && !returns ? version.updatedBy : load;
    }

    private void withHistory(
            List<Version> versions,
            TreeMap<LocalDate, StagedRow> delivered,
            TreeMap<LocalDate, StagedRow> deletions,
            Map<String, Long> counts,
            LocalDate loadDate,
            long load) {
        boolean known = !versions.isEmpty();
        Map<Version, List<@Nullable Object>> before = images(versions);
        LocalDate latest = known ? latest(versions) : LocalDate.MIN;
        if (known && settings.effective()) {
            delivered.keySet().stream().filter(at -> at.isBefore(latest)).forEach(at -> count(counts, "late"));
            deletions.keySet().stream().filter(at -> at.isBefore(latest)).forEach(at -> count(counts, "late"));
        }
        TreeMap<LocalDate, StagedRow> rows = returning(versions, delivered, loadDate);
        boolean supplies = !rows.isEmpty() && (!known || !rows.lastKey().isBefore(latest));
        @Nullable StagedRow newest = rows.isEmpty() ? null : rows.lastEntry().getValue();
        @Nullable
        String overBefore = known
                ? versions.get(0).over
                : newest == null ? null : rows.firstEntry().getValue().over();
        @Nullable
        String first = known
                ? versions.get(0).first
                : newest == null ? null : rows.firstEntry().getValue().first();
        TreeSet<LocalDate> moments = new TreeSet<>(rows.keySet());
        moments.addAll(deletions.keySet());
        for (LocalDate at : moments) {
            StagedRow row = rows.get(at);
            if (row != null) {
                String outcome = state(versions, at, row.versioned());
                boolean overwrites = row == newest && supplies && !Objects.equals(overBefore, row.over());
                count(counts, outcome.equals("unchanged") && overwrites ? "overwritten" : outcome);
            }
            if (deletions.containsKey(at)) {
                count(counts, ended(versions, at, rows.keySet()));
            }
        }
        carry(versions, before, first, supplies ? newest.over() : overBefore, load);
    }

    /** What all versions share, and the stamps of those that are new or changed. */
    private static void carry(
            List<Version> versions,
            Map<Version, List<@Nullable Object>> before,
            @Nullable String first,
            @Nullable String over,
            long load) {
        for (Version version : versions) {
            version.first = first;
            version.over = over;
            if (!before.containsKey(version)) {
                version.insertedBy = load;
                version.updatedBy = load;
            } else if (!before.get(version).equals(image(versions, version))) {
                version.updatedBy = load;
            }
        }
    }

    /** In a full extract a deleted member that is delivered returns from the load date, when its effective is older. */
    private TreeMap<LocalDate, StagedRow> returning(
            List<Version> versions, TreeMap<LocalDate, StagedRow> delivered, LocalDate loadDate) {
        TreeMap<LocalDate, StagedRow> rows = new TreeMap<>(delivered);
        if (!settings.full() || versions.isEmpty() || rows.isEmpty()) {
            return rows;
        }
        @Nullable LocalDate ended = versions.get(versions.size() - 1).ended;
        if (ended != null && rows.lastKey().isBefore(ended) && !loadDate.isBefore(ended)) {
            rows.put(loadDate, rows.pollLastEntry().getValue());
        }
        return rows;
    }

    private static Map<Version, List<@Nullable Object>> images(List<Version> versions) {
        Map<Version, List<@Nullable Object>> images = new LinkedHashMap<>();
        versions.forEach(version -> images.put(version, image(versions, version)));
        return images;
    }

    /** Everything of a version but the moment when it was last stated. */
    private static List<@Nullable Object> image(List<Version> versions, Version version) {
        int number = versions.indexOf(version);
        LocalDate next = number + 1 < versions.size() ? versions.get(number + 1).from : LocalDate.MAX;
        List<@Nullable Object> image = new ArrayList<>(version.versioned);
        image.add(version.over);
        image.add(version.from);
        image.add(version.ended == null ? next : version.ended);
        image.add(number);
        image.add(number + 1 == versions.size());
        image.add(version.ended != null);
        return image;
    }

    /** The last version that begins at or before a moment, or -1. */
    private static int holder(List<Version> versions, LocalDate at) {
        int holder = -1;
        for (int index = 0; index < versions.size(); index++) {
            if (!versions.get(index).from.isAfter(at)) {
                holder = index;
            }
        }
        return holder;
    }

    /** One statement of type 2 values, applied to what stands; returns its outcome. */
    private static String state(List<Version> versions, LocalDate at, List<@Nullable String> values) {
        if (versions.isEmpty()) {
            versions.add(new Version(at, at, values));
            return "new";
        }
        int index = holder(versions, at);
        if (index < 0) {
            return opened(versions, 0, at, values);
        }
        Version holder = versions.get(index);
        if (holder.ended != null && !at.isBefore(holder.ended)) {
            return opened(versions, index + 1, at, values).equals("corrected") ? "corrected" : "returned";
        }
        if (holder.versioned.equals(values)) {
            holder.stated = holder.stated.isBefore(at) ? at : holder.stated;
            return "unchanged";
        }
        if (holder.stated.isAfter(at)) {
            comesBack(versions, index);
        }
        if (at.equals(holder.from)) {
            holder.versioned = values;
            return "corrected";
        }
        if (at.equals(holder.stated)) {
            holder.stated = holder.from;
        }
        if (holder.ended != null) {
            Version until = new Version(at, at, values);
            until.ended = holder.ended;
            holder.ended = null;
            versions.add(index + 1, until);
            return "versioned";
        }
        return opened(versions, index + 1, at, values);
    }

    /** Where a version was stated again later, its values come back in a version of their own. */
    private static void comesBack(List<Version> versions, int index) {
        Version holder = versions.get(index);
        Version back = new Version(holder.stated, holder.stated, holder.versioned);
        back.ended = holder.ended;
        holder.ended = null;
        holder.stated = holder.from;
        versions.add(index + 1, back);
    }

    /** A deletion; where values are stated at its moment too, the member ends a day later. */
    private static String ended(List<Version> versions, LocalDate deleted, Set<LocalDate> delivered) {
        boolean stated = delivered.contains(deleted)
                || versions.stream()
                        .anyMatch(version -> version.from.equals(deleted) || version.stated.equals(deleted));
        LocalDate at = stated ? deleted.plusDays(1) : deleted;
        int index = holder(versions, at.minusDays(1));
        if (index < 0) {
            return "unchanged";
        }
        Version holder = versions.get(index);
        if (holder.ended != null && !at.isBefore(holder.ended)) {
            return "unchanged";
        }
        if (!holder.stated.isBefore(at)) {
            comesBack(versions, index);
        }
        holder.ended = at;
        return "closed";
    }

    /** A stretch that begins at a moment: the version after it begins earlier when it says the same, else a new version. */
    private static String opened(List<Version> versions, int index, LocalDate at, List<@Nullable String> values) {
        if (index < versions.size() && versions.get(index).versioned.equals(values)) {
            versions.get(index).from = at;
            return "corrected";
        }
        versions.add(index, new Version(at, at, values));
        return "versioned";
    }
}
