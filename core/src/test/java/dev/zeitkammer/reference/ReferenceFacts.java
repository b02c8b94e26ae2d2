package dev.zeitkammer.reference;

import dev.zeitkammer.reference.StoredMembers.Found;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/** Loads facts as the rules say, row by row. */
final class ReferenceFacts {

    /** The numbers of facts that are alike are so far apart. */
    static final int APART = 1000;

    static final String HEADER = "no,code,guest_no,night_on,paid,status";

    private static final class Row {
        long hut;
        long guest;

        @Nullable
        String waitsForHut;

        @Nullable
        Integer waitsForGuest;

        @Nullable
        String code;

        LocalDate night = LocalDate.MIN;

        @Nullable
        String paid;

        boolean marked;
        long insertedBy;
        long updatedBy;

        List<@Nullable Object> values() {
            return Arrays.asList(hut, guest, night, paid, marked);
        }
    }

    /** A row that waits, and the load since which it does; what is delivered now is as of no load. */
    private record Waiting(StagedFact row, long since) {

        boolean isDelivered() {
            return since == NOW;
        }
    }

    private static final long NOW = Long.MAX_VALUE;

    private final FactSettings settings;
    private final Map<Integer, Row> facts = new TreeMap<>();
    private final Map<String, Long> counts = new TreeMap<>();
    private final Map<String, Map<String, Long>> lookups = new TreeMap<>();
    private StoredMembers members;
    private List<Waiting> waiting = new ArrayList<>();
    private long load;

    ReferenceFacts(FactSettings settings) {
        this.settings = settings;
    }

    Map<String, Long> counts() {
        return counts;
    }

    Map<String, Map<String, Long>> lookups() {
        return lookups;
    }

    long moved() {
        return counts.get("healed") + counts.get("followed");
    }

    /** @param copies how many facts there are of each that the reference knows */
    List<String> rows(int copies) {
        return facts.entrySet().stream()
                .map(entry -> {
                    Row row = entry.getValue();
                    return Arrays.asList(
                                    entry.getKey(),
                                    row.hut,
                                    members.memberKey(row.hut),
                                    row.guest,
                                    settings.days().stored(row.night),
                                    row.paid,
                                    row.marked,
                                    row.insertedBy,
                                    row.updatedBy,
                                    copies)
                            .stream()
                            .map(String::valueOf)
                            .collect(Collectors.joining("|"));
                })
                .toList();
    }

    private boolean cancels(StagedFact row) {
        return row.cancels() && !settings.cancelled().equals("none");
    }

    void load(List<StagedFact> delivery, boolean delivers, StoredMembers known, long number) {
        members = known;
        load = number;
        counts.clear();
        lookups.clear();
        for (String name : List.of(
                "staged",
                "new",
                "updated",
                "unchanged",
                "ignored",
                "repeated",
                "setAside",
                "waiting",
                "removed",
                "healed",
                "followed")) {
            counts.put(name, 0L);
        }
        for (String role : List.of("hut", "guest")) {
            Map<String, Long> found = new TreeMap<>();
            List.of("matched", "unmatched", "blank", "early", "ended", "placeholders")
                    .forEach(word -> found.put(word, 0L));
            lookups.put(role, found);
        }
        if (delivers) {
            counts.put("staged", (long) delivery.size() + waiting.size());
            take(delivery);
        }
        keep();
    }

    private void count(String name) {
        counts.merge(name, 1L, Long::sum);
    }

    private void take(List<StagedFact> delivery) {
        Map<Integer, List<Waiting>> byGrain = new LinkedHashMap<>();
        waiting.forEach(waited -> byGrain.computeIfAbsent(waited.row().no(), no -> new ArrayList<>())
                .add(waited));
        waiting = new ArrayList<>();
        Set<Integer> delivered = new HashSet<>(byGrain.keySet());
        boolean readable = true;
        for (StagedFact row : delivery) {
            readable &= row.no() != null;
            if (row.no() == null || "much".equals(row.paid())) {
                count("setAside");
            } else {
                byGrain.computeIfAbsent(row.no(), no -> new ArrayList<>()).add(new Waiting(row, NOW));
            }
        }
        Set<LocalDate> nights = new HashSet<>();
        byGrain.forEach((no, all) -> {
            long newest = all.stream().mapToLong(Waiting::since).max().orElseThrow();
            List<Waiting> same =
                    all.stream().filter(row -> row.since() == newest).toList();
            for (int index = same.size(); index < all.size(); index++) {
                count(settings.onRepeat().equals("ignore") ? "ignored" : "unchanged");
            }
            boolean equal = same.stream()
                            .map(row -> row.row().values(cancels(row.row())))
                            .distinct()
                            .count()
                    == 1;
            for (int index = 1; equal && index < same.size(); index++) {
                count("repeated");
            }
            if (equal) {
                one(no, same.get(0), nights);
            } else {
                same.forEach(row -> count("setAside"));
            }
        });
        if (settings.replaces() && readable) {
            delivery.forEach(row -> delivered.add(row.no()));
            List<Integer> gone = facts.entrySet().stream()
                    .filter(entry -> nights.contains(entry.getValue().night))
                    .map(Map.Entry::getKey)
                    .filter(no -> !delivered.contains(no))
                    .toList();
            gone.forEach(facts::remove);
            counts.merge("removed", (long) gone.size(), Long::sum);
        }
    }

    private void one(int no, Waiting staged, Set<LocalDate> nights) {
        StagedFact row = staged.row();
        @Nullable Row stands = facts.get(no);
        if (cancels(row)) {
            cancel(no, stands);
            return;
        }
        Found hut = settings.judged(members.hut(row.code(), row.night()));
        lookups.get("hut").merge(hut.word(), 1L, Long::sum);
        if (hut.word().equals("unmatched") && settings.unmatched().equals("set-aside")) {
            count("setAside");
            return;
        }
        if (hut.word().equals("unmatched") && settings.unmatched().equals("wait")) {
            count("waiting");
            waiting.add(staged.isDelivered() ? new Waiting(row, load) : staged);
            return;
        }
        if (hut.word().equals("ended") && settings.ended().equals("set-aside")) {
            count("setAside");
            return;
        }
        Found guest = members.guest(row.guest());
        lookups.get("guest").merge(guest.word(), 1L, Long::sum);
        if (stands != null && settings.onRepeat().equals("refuse")) {
            count("setAside");
            return;
        }
        if (staged.isDelivered()) {
            nights.add(row.night());
        }
        if (stands != null && settings.onRepeat().equals("ignore")) {
            count("ignored");
            return;
        }
        Row fact = stands == null ? new Row() : stands;
        List<@Nullable Object> before = fact.values();
        fact.hut = hut.key();
        fact.guest = guest.key();
        fact.code = row.code();
        fact.waitsForHut = hut.word().equals("unmatched") ? row.code() : null;
        fact.waitsForGuest = guest.word().equals("unmatched") ? row.guest() : null;
        fact.night = row.night();
        fact.paid = row.paid();
        fact.marked = false;
        if (stands == null) {
            fact.insertedBy = load;
            fact.updatedBy = load;
            facts.put(no, fact);
            count("new");
        } else if (before.equals(fact.values())) {
            count("unchanged");
        } else {
            fact.updatedBy = load;
            count("updated");
        }
    }

    private void cancel(int no, @Nullable Row stands) {
        if (stands == null || stands.marked) {
            count(settings.onRepeat().equals("ignore") ? "ignored" : "unchanged");
        } else if (settings.marks()) {
            stands.marked = true;
            stands.updatedBy = load;
            count("updated");
        } else {
            facts.remove(no);
            count("updated");
            count("removed");
        }
    }

    /** Facts that wait find their member, and facts follow versions that came late. */
    private void keep() {
        for (Row fact : facts.values()) {
            boolean healed = false;
            if (fact.waitsForHut != null && settings.heals()) {
                Found hut = settings.judged(members.hut(fact.waitsForHut, fact.night));
                if (hut.key() > 0) {
                    fact.hut = hut.key();
                    fact.waitsForHut = null;
                    healed = true;
                }
            }
            if (fact.waitsForGuest != null) {
                Found guest = members.guest(fact.waitsForGuest);
                if (guest.key() > 0) {
                    fact.guest = guest.key();
                    fact.waitsForGuest = null;
                    healed = true;
                }
            }
            boolean followed = false;
            if (settings.follows() && fact.hut > 0) {
                long hut = settings.judged(members.hut(fact.code, fact.night)).key();
                followed = hut > 0 && hut != fact.hut;
                fact.hut = hut > 0 ? hut : fact.hut;
            }
            if (healed) {
                count("healed");
            }
            if (followed) {
                count("followed");
            }
            fact.updatedBy = healed || followed ? load : fact.updatedBy;
        }
    }
}
