package dev.zeitkammer.reference;

import java.time.LocalDate;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.TreeMap;
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
        Map<List<String>, Map<LocalDate, List<StagedRow>>> byMember = new LinkedHashMap<>();
        for (StagedRow row : delivery) {
            if (row.hasBadNumber() || row.hasBlankKey()) {
                count(counts, "setAside");
                continue;
            }
            LocalDate at = settings.effective() ? row.effective() : loadDate;
            byMember.computeIfAbsent(List.of(row.code(), row.part()), key -> new TreeMap<>())
                    .computeIfAbsent(at, moment -> new ArrayList<>())
                    .add(row);
        }
        byMember.forEach((key, rows) -> member(key, distinct(rows, counts), counts, load));
        return counts;
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

    private void member(List<String> key, TreeMap<LocalDate, StagedRow> rows, Map<String, Long> counts, long load) {
        List<Version> versions = members.getOrDefault(key, new ArrayList<>());
        if (settings.effective() && settings.history() && settings.late().equals("set-aside")) {
            setLateAside(versions, rows, counts);
        }
        if (rows.isEmpty()) {
            return;
        }
        if (settings.history()) {
            withHistory(versions, rows, counts, load);
        } else {
            withoutHistory(versions, rows, counts, load);
        }
        members.put(key, versions);
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
        return versions.get(versions.size() - 1).stated;
    }

    private static void withoutHistory(
            List<Version> versions, TreeMap<LocalDate, StagedRow> rows, Map<String, Long> counts, long load) {
        StagedRow row = rows.lastEntry().getValue();
        for (int superseded = 1; superseded < rows.size(); superseded++) {
            count(counts, "unchanged");
        }
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
        count(counts, same ? "unchanged" : "overwritten");
        version.over = row.over();
        version.versioned = row.versioned();
        version.updatedBy = same ? version.updatedBy : load;
    }

    private void withHistory(
            List<Version> versions, TreeMap<LocalDate, StagedRow> rows, Map<String, Long> counts, long load) {
        boolean known = !versions.isEmpty();
        Map<Version, List<@Nullable Object>> before = new LinkedHashMap<>();
        versions.forEach(version -> before.put(version, image(versions, version)));
        LocalDate latest = known ? latest(versions) : LocalDate.MIN;
        StagedRow newest = rows.lastEntry().getValue();
        boolean supplies = !known || !rows.lastKey().isBefore(latest);
        @Nullable
        String overBefore =
                known ? versions.get(0).over : rows.firstEntry().getValue().over();
        @Nullable
        String first =
                known ? versions.get(0).first : rows.firstEntry().getValue().first();
        rows.forEach((at, row) -> {
            if (known && settings.effective() && at.isBefore(latest)) {
                count(counts, "late");
            }
            String outcome = state(versions, at, row.versioned());
            boolean overwrites = row == newest && supplies && !Objects.equals(overBefore, row.over());
            count(counts, outcome.equals("unchanged") && overwrites ? "overwritten" : outcome);
        });
        for (Version version : versions) {
            version.first = first;
            version.over = supplies ? newest.over() : overBefore;
            if (!before.containsKey(version)) {
                version.insertedBy = load;
                version.updatedBy = load;
            }
        }
        Set<Version> old = new HashSet<>(before.keySet());
        for (Version version : versions) {
            if (old.contains(version) && !before.get(version).equals(image(versions, version))) {
                version.updatedBy = load;
            }
        }
    }

    /** Everything of a version but the moment when it was last stated. */
    private static List<@Nullable Object> image(List<Version> versions, Version version) {
        int number = versions.indexOf(version);
        LocalDate next = number + 1 < versions.size() ? versions.get(number + 1).from : LocalDate.MAX;
        List<@Nullable Object> image = new ArrayList<>(version.versioned);
        image.add(version.over);
        image.add(version.from);
        image.add(next);
        image.add(number);
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
        if (holder.versioned.equals(values)) {
            holder.stated = holder.stated.isBefore(at) ? at : holder.stated;
            return "unchanged";
        }
        boolean statedLater = holder.stated.isAfter(at);
        if (statedLater) {
            versions.add(index + 1, new Version(holder.stated, holder.stated, holder.versioned));
            holder.stated = holder.from;
        }
        if (at.equals(holder.from)) {
            holder.versioned = values;
            return "corrected";
        }
        if (at.equals(holder.stated)) {
            holder.stated = holder.from;
        }
        return opened(versions, index + 1, at, values);
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
