package dev.zeitkammer.reference;

import java.time.LocalDate;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collections;
import java.util.Comparator;
import java.util.IdentityHashMap;
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

    private static final List<String> COUNTED = List.of(
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
            "waiting",
            "absent",
            "late");

    /** A member that a full extract does not deliver ends at the load date. */
    private static final StagedRow ABSENT =
            new StagedRow(null, null, LocalDate.MIN, null, null, null, null, null, null, null, true);

    private final Settings settings;
    final Map<List<String>, Member> members = new TreeMap<>(Comparator.comparing(Object::toString));
    private Map<String, Long> counts = Map.of();
    private Owners owners = new Owners();
    private List<Waiting<StagedRow>> waiting = new ArrayList<>();
    private Set<StagedRow> waited = Set.of();
    private LocalDate loadDate = LocalDate.MIN;
    private LocalDate newestDate = LocalDate.MIN;
    private long load;
    private boolean lacksOver;

    private @Nullable StagedRow adding;

    ReferenceDimension(Settings settings) {
        this.settings = settings;
    }

    /**
     * Loads a delivery and returns its counts.
     *
     * @param lacks whether it says nothing of the attribute of type 1
     */
    Map<String, Long> load(List<StagedRow> delivery, Owners known, LocalDate date, long number, boolean lacks) {
        lacksOver = lacks;
        owners = known;
        loadDate = date;
        newestDate = date.isAfter(newestDate) ? date : newestDate;
        load = number;
        counts = new LinkedHashMap<>();
        COUNTED.forEach(name -> counts.put(name, 0L));
        if (settings.owned() == 1) {
            counts.put("followed", 0L);
        }
        counts.put("staged", (long) delivery.size() + waiting.size());
        OneAMoment values = new OneAMoment(settings, this::count);
        OneAMoment deletions = new OneAMoment(settings, this::count);
        Set<List<String>> told = new LinkedHashSet<>();
        waiting.forEach(waited -> {
            StagedRow row = waited.row();
            told.add(List.of(row.code(), row.part()));
            (row.deletes() ? deletions : values).add(List.of(row.code(), row.part()), moment(row), waited);
        });
        waiting = new ArrayList<>();
        waited = Collections.newSetFromMap(new IdentityHashMap<>());
        Set<List<String>> present = new LinkedHashSet<>();
        boolean readable = true;
        for (StagedRow row : delivery) {
            readable &= !row.hasBlankKey();
            if (!row.hasBlankKey()) {
                present.add(List.of(row.code(), row.part()));
            }
            if (row.hasBadNumber() || row.hasBlankKey()) {
                count("setAside");
                continue;
            }
            (row.deletes() ? deletions : values)
                    .add(List.of(row.code(), row.part()), moment(row), Waiting.delivered(row));
        }
        told.addAll(present);
        Set<List<String>> absent = settings.full() && readable && !isOlder() ? undeleted() : new LinkedHashSet<>();
        absent.removeAll(present);
        told.addAll(absent);
        for (List<String> key : told) {
            TreeMap<LocalDate, Waiting<StagedRow>> ends = deletions.of(key);
            TreeMap<LocalDate, Waiting<StagedRow>> says = values.of(key);
            adding = members.containsKey(key) ? null : adding(says, ends);
            TreeMap<LocalDate, StagedRow> ending = left(ends);
            if (absent.contains(key)) {
                ending.put(loadDate, ABSENT);
            }
            member(key, left(says), ending);
        }
        members.values().forEach(this::follow);
        return counts;
    }

    /** Keys of type 1 are those of the newest versions of owners, in all versions of a member. */
    private void follow(Member member) {
        long newest = owners.newest(member.owner, member.ownerKey);
        if (settings.owned() == 1 && newest != member.ownerKey) {
            member.ownerKey = newest;
            member.versions.forEach(version -> version.updatedBy = load);
            counts.merge("followed", (long) member.versions.size(), Long::sum);
        }
    }

    /** An extract that is older than the newest one does not know who came or ended since. */
    private boolean isOlder() {
        return settings.full() && loadDate.isBefore(newestDate);
    }

    private LocalDate moment(StagedRow row) {
        return settings.effective() ? row.effective() : loadDate;
    }

    private void count(String name) {
        counts.merge(name, 1L, Long::sum);
    }

    private Set<List<String>> undeleted() {
        Set<List<String>> undeleted = new LinkedHashSet<>();
        members.forEach((key, member) -> {
            if (member.newest().ended == null) {
                undeleted.add(key);
            }
        });
        return undeleted;
    }

    /** Of what ends a member, {@link #ABSENT} is counted beside the sum. */
    private void countEnd(StagedRow ends, String outcome) {
        if (ends != ABSENT) {
            count(outcome);
        } else if (outcome.equals("closed")) {
            count("absent");
        }
    }

    /** The row that ends a member of whom nothing was known, and adds it: its first one, or without history its latest. */
    private @Nullable StagedRow adding(
            TreeMap<LocalDate, Waiting<StagedRow>> says, TreeMap<LocalDate, Waiting<StagedRow>> ends) {
        if (!settings.adds() || ends.isEmpty()) {
            return null;
        }
        if (settings.history()) {
            boolean isFirst = says.isEmpty() || ends.firstKey().isBefore(says.firstKey());
            return isFirst ? ends.firstEntry().getValue().row() : null;
        }
        boolean isLatest = says.isEmpty() || !ends.lastKey().isBefore(says.lastKey());
        return isLatest ? ends.lastEntry().getValue().row() : null;
    }

    private static String closed(Version version) {
        if (version.ended != null) {
            return "unchanged";
        }
        version.ended = LocalDate.MIN;
        return "closed";
    }

    /** The rows that are loaded, though their owner may be nobody. */
    private TreeMap<LocalDate, StagedRow> left(TreeMap<LocalDate, Waiting<StagedRow>> chosen) {
        TreeMap<LocalDate, StagedRow> left = new TreeMap<>();
        chosen.forEach((at, row) -> {
            boolean isNobodys = settings.owned() > 0
                    && (!row.row().deletes() || row.row() == adding)
                    && owner(row.row()).member().equals("unknown");
            if (isNobodys && settings.unowned().equals("wait")) {
                count("waiting");
                waiting.add(row.from(load));
            } else if (isNobodys && settings.unowned().equals("set-aside")) {
                count("setAside");
            } else {
                left.put(at, row.row());
                if (!row.isDelivered()) {
                    waited.add(row.row());
                }
            }
        });
        return left;
    }

    private void member(List<String> key, TreeMap<LocalDate, StagedRow> rows, TreeMap<LocalDate, StagedRow> deletions) {
        Member member = members.getOrDefault(key, new Member());
        if (settings.effective() && settings.history() && settings.late().equals("set-aside")) {
            setLateAside(member, rows);
        }
        if (rows.isEmpty() && deletions.isEmpty()) {
            return;
        }
        if (settings.history()) {
            withHistory(member, rows, deletions);
        } else {
            withoutHistory(member, rows, deletions);
        }
        if (!member.versions.isEmpty()) {
            members.put(key, member);
        }
    }

    private void setLateAside(Member member, TreeMap<LocalDate, StagedRow> rows) {
        if (member.versions.isEmpty()) {
            return;
        }
        LocalDate latest = member.latest();
        rows.entrySet().removeIf(entry -> {
            int holder = member.holder(entry.getKey());
            boolean changes =
                    holder < 0 || !member.versions.get(holder).versioned.equals(versioned(entry.getValue()));
            boolean aside = entry.getKey().isBefore(latest) && changes;
            if (aside) {
                count("setAside");
            }
            return aside;
        });
    }

    private Owners.Found owner(StagedRow row) {
        return owners.find(row.owner(), settings.owned() == 1 ? LocalDate.MAX : moment(row));
    }

    /** The values that open versions when they change. */
    private List<@Nullable String> versioned(StagedRow row) {
        return settings.owned() == 2
                ? Arrays.asList(row.text(), row.number(), owner(row).member())
                : Arrays.asList(row.text(), row.number());
    }

    private void withoutHistory(
            Member member, TreeMap<LocalDate, StagedRow> rows, TreeMap<LocalDate, StagedRow> deletions) {
        for (int superseded = 1; superseded < rows.size() + deletions.size(); superseded++) {
            count("unchanged");
        }
        boolean isAbsent = deletions.containsValue(ABSENT);
        boolean deletes = isAbsent
                || rows.isEmpty()
                || (!deletions.isEmpty() && !deletions.lastKey().isBefore(rows.lastKey()));
        if (deletes && !(member.versions.isEmpty() && deletions.lastEntry().getValue() == adding)) {
            String outcome = member.versions.isEmpty() ? "unchanged" : closed(member.newest());
            if (outcome.equals("closed")) {
                member.newest().updatedBy = load;
            }
            countEnd(deletions.lastEntry().getValue(), outcome);
            return;
        }
        StagedRow row = (deletes ? deletions : rows).lastEntry().getValue();
        if (member.versions.isEmpty()) {
            Version version = new Version(LocalDate.MIN, LocalDate.MIN, versioned(row), 0);
            version.over = row.over();
            version.ended = deletes ? LocalDate.MIN : null;
            version.insertedBy = load;
            version.updatedBy = load;
            member.versions.add(version);
            member.first = row.first();
            member.share(row, owner(row), true);
            count("new");
            return;
        }
        Version version = member.newest();
        List<@Nullable Object> before = member.image(version, settings.owned() == 1);
        boolean returns = version.ended != null;
        if (returns && isOlder()) {
            count("unchanged");
            return;
        }
        version.over = lacksOver ? version.over : row.over();
        version.versioned = versioned(row);
        version.ended = null;
        member.share(row, owner(row), false);
        boolean same = before.equals(member.image(version, settings.owned() == 1));
        count(returns ? "returned" : same ? "unchanged" : "overwritten");
        version.updatedBy = same ? version.updatedBy : load;
    }

    private void withHistory(
            Member member, TreeMap<LocalDate, StagedRow> delivered, TreeMap<LocalDate, StagedRow> deletions) {
        boolean known = !member.versions.isEmpty();
        // of a version that stands no other key is known than the one that it stores
        member.versions.forEach(version -> version.owned(version.ownerKey));
        Map<Version, List<@Nullable Object>> before = member.images(settings.owned() == 1);
        LocalDate latest = known ? member.latest() : LocalDate.MIN;
        boolean canBeLate = known && settings.effective();
        TreeMap<LocalDate, StagedRow> rows = returning(member, delivered, deletions);
        deletions.forEach((at, row) -> {
            if (row == adding) {
                rows.put(at, row);
            }
        });
        member.versions.forEach(version -> version.overBefore = version.over);
        @Nullable List<@Nullable Object> sharedBefore = known ? shared(member) : null;
        TreeSet<LocalDate> moments = new TreeSet<>(rows.keySet());
        moments.addAll(deletions.keySet());
        Map<StagedRow, String> outcomes = new IdentityHashMap<>();
        Map<Version, StagedRow> suppliers = new IdentityHashMap<>();
        @Nullable StagedRow newest = null;
        for (LocalDate at : moments) {
            StagedRow row = rows.get(at);
            if (row != null) {
                String outcome = member.state(at, versioned(row), owner(row).key());
                outcomes.put(row, outcome);
                if (!known || !at.isBefore(latest)) {
                    Version holder = member.versions.get(member.holder(at));
                    supply(member, row, holder, sharedBefore == null);
                    boolean isItsOwn = !before.containsKey(holder) && at.equals(holder.from);
                    if (isItsOwn && !lacksOver && !outcome.equals("unchanged")) {
                        holder.overBefore = row.over();
                    }
                    sharedBefore = sharedBefore == null ? shared(member) : sharedBefore;
                    suppliers.put(holder, row);
                    newest = row;
                }
            }
            if (deletions.containsKey(at)) {
                String outcome = member.ended(at, rows.keySet());
                if (deletions.get(at) == adding) {
                    continue;
                }
                countEnd(deletions.get(at), outcome);
                countLate(canBeLate && at.isBefore(latest) && deletions.get(at) != ABSENT, outcome);
            }
        }
        overwritten(member, outcomes, suppliers, newest, sharedBefore);
        outcomes.values().forEach(this::count);
        delivered.forEach((at, row) -> countLate(canBeLate && at.isBefore(latest), outcomes.get(row)));
        stamp(member, before);
    }

    /** A row that came late and changed nothing is nothing to look at. */
    private void countLate(boolean isLate, String outcome) {
        if (isLate && !outcome.equals("unchanged")) {
            count("late");
        }
    }

    /** A row that is not late supplies the values that are overwritten. */
    private void supply(Member member, StagedRow row, Version holder, boolean isFirst) {
        if (isFirst) {
            member.first = row.first();
        }
        member.share(row, owner(row), isFirst);
        if (lacksOver) {
            return;
        }
        if (settings.currentOnly()) {
            holder.over = row.over();
        } else {
            member.versions.forEach(version -> version.over = row.over());
        }
    }

    private List<@Nullable Object> shared(Member member) {
        List<@Nullable Object> shared =
                new ArrayList<>(Arrays.asList(member.zone, member.former, settings.owned() == 1 ? member.ownerKey : 0));
        if (!settings.currentOnly() && !member.versions.isEmpty()) {
            shared.add(member.newest().over);
        }
        return shared;
    }

    private void overwritten(
            Member member,
            Map<StagedRow, String> outcomes,
            Map<Version, StagedRow> suppliers,
            @Nullable StagedRow newest,
            @Nullable List<@Nullable Object> sharedBefore) {
        if (newest != null && sharedBefore != null && !sharedBefore.equals(shared(member))) {
            outcomes.replace(newest, "unchanged", "overwritten");
        }
        if (settings.currentOnly()) {
            suppliers.forEach((version, row) -> {
                if (!Objects.equals(version.over, version.overBefore)) {
                    outcomes.replace(row, "unchanged", "overwritten");
                }
            });
        }
    }

    /** The stamps of the versions that are new or changed. */
    private void stamp(Member member, Map<Version, List<@Nullable Object>> before) {
        for (Version version : member.versions) {
            if (!before.containsKey(version)) {
                version.insertedBy = load;
                version.updatedBy = load;
            } else if (!before.get(version).equals(member.image(version, settings.owned() == 1))) {
                version.updatedBy = load;
            }
        }
    }

    /**
     * In a full extract a deleted member returns from the load date, when its effective is older, unless its newest row deletes it;
     * from then on a newest row that is older than the deletion holds from the return. A row that waited brings nobody back.
     */
    private TreeMap<LocalDate, StagedRow> returning(
            Member member, TreeMap<LocalDate, StagedRow> delivered, TreeMap<LocalDate, StagedRow> deletions) {
        TreeMap<LocalDate, StagedRow> rows = new TreeMap<>(delivered);
        TreeMap<LocalDate, StagedRow> extract = new TreeMap<>(delivered);
        extract.values().removeIf(waited::contains);
        if (!settings.full() || member.versions.isEmpty() || extract.isEmpty()) {
            return rows;
        }
        if (!deletions.isEmpty() && !deletions.lastKey().isBefore(extract.lastKey())) {
            return rows;
        }
        @Nullable LocalDate back = member.back(rows.lastKey(), loadDate);
        if (back != null) {
            rows.put(back, rows.remove(extract.lastKey()));
        }
        return rows;
    }
}
