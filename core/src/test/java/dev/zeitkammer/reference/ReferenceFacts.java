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

    private final FactSettings settings;
    private final Map<Integer, Row> facts = new TreeMap<>();
    private final Map<String, Long> counts = new TreeMap<>();
    private final Map<String, Map<String, Long>> lookups = new TreeMap<>();
    private StoredMembers members;
    private List<Waiting<StagedFact>> waiting = new ArrayList<>();
    private List<Waiting<StagedFact>> waitingCalls = new ArrayList<>();
    private final Set<String> made = new HashSet<>();
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

    /**
     * Rows that wait are tried again where nothing is delivered, too.
     *
     * @param stays nothing where nothing is delivered
     * @param ofFeed of the feed; nothing where nothing is delivered
     */
    void load(@Nullable List<StagedFact> stays, @Nullable List<StagedFact> ofFeed, StoredMembers known, long number) {
        List<StagedFact> delivery = stays == null && !waiting.isEmpty() ? List.<StagedFact>of() : stays;
        List<StagedFact> calls = ofFeed == null && !waitingCalls.isEmpty() ? List.<StagedFact>of() : ofFeed;
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
        List<String> called = settings.feedsHuts() ? List.of("hut", "guest") : List.of("guest");
        List<String> roles = delivery != null ? List.of("hut", "guest") : calls != null ? called : List.of();
        for (String role : roles) {
            Map<String, Long> found = new TreeMap<>();
            List.of("matched", "unmatched", "blank", "early", "ended", "placeholders")
                    .forEach(word -> found.put(word, 0L));
            lookups.put(role, found);
        }
        made.clear();
        if (delivery != null) {
            counts.merge("staged", (long) delivery.size() + waiting.size(), Long::sum);
            take(delivery);
        }
        if (calls != null) {
            counts.merge("staged", (long) calls.size() + waitingCalls.size(), Long::sum);
            call(calls);
        }
        keep();
    }

    private void count(String name) {
        counts.merge(name, 1L, Long::sum);
    }

    private void take(List<StagedFact> delivery) {
        Map<Integer, List<Waiting<StagedFact>>> byGrain = new LinkedHashMap<>();
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
                byGrain.computeIfAbsent(row.no(), no -> new ArrayList<>()).add(Waiting.delivered(row));
            }
        }
        Set<LocalDate> nights = new HashSet<>();
        String overtaken = settings.onRepeat().equals("ignore") ? "ignored" : "unchanged";
        byGrain.forEach((no, all) -> Waiting.chosen(all, row -> row.values(cancels(row)), this::count, overtaken)
                .ifPresent(row -> one(no, row, nights)));
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

    /** Rows of the feed: they write guests and payments over the facts that are there. */
    private void call(List<StagedFact> calls) {
        Map<Integer, List<Waiting<StagedFact>>> byFact = new LinkedHashMap<>();
        waitingCalls.forEach(waited -> byFact.computeIfAbsent(waited.row().no(), no -> new ArrayList<>())
                .add(waited));
        waitingCalls = new ArrayList<>();
        for (StagedFact row : calls) {
            if (row.no() == null || "much".equals(row.paid())) {
                count("setAside");
            } else {
                byFact.computeIfAbsent(row.no(), no -> new ArrayList<>()).add(Waiting.delivered(row));
            }
        }
        byFact.forEach((no, all) -> Waiting.chosen(all, row -> row.called(settings), this::count, "unchanged")
                .ifPresent(row -> called(row, facts.get(no))));
    }

    private void called(Waiting<StagedFact> call, @Nullable Row fact) {
        if (fact == null) {
            boolean waits = settings.feed().equals("wait");
            count(waits ? "waiting" : "setAside");
            if (waits) {
                waitingCalls.add(call.from(load));
            }
            return;
        }
        List<@Nullable Object> before = fact.values();
        if (settings.feedsHuts()) {
            @Nullable
            Found hut = hut(call.row().code(), call.row().night(), made, () -> waitingCalls.add(call.from(load)));
            if (hut == null) {
                return;
            }
            write(fact, hut, call.row().code(), call.row().night());
        }
        write(fact, call.row().guest(), call.row().paid());
        if (before.equals(fact.values())) {
            count("unchanged");
        } else {
            fact.updatedBy = load;
            count("updated");
        }
    }

    private void write(Row fact, @Nullable Integer named, @Nullable String paid) {
        Found guest = look(named);
        fact.guest = guest.key();
        fact.waitsForGuest = guest.word().equals("unmatched") ? named : null;
        fact.paid = paid;
    }

    private static void write(Row fact, Found hut, @Nullable String code, LocalDate night) {
        fact.hut = hut.key();
        fact.code = code;
        fact.waitsForHut = hut.word().equals("unmatched") ? code : null;
        fact.night = night;
    }

    /**
     * What a hut's lookup finds; null where the row is set aside, or waits.
     *
     * @param before the placeholders that were made before
     */
    private @Nullable Found hut(@Nullable String code, LocalDate night, Set<String> before, Runnable waits) {
        Found hut = settings.judged(members.hut(code, night));
        hut = hut.word().equals("placeholders") && before.contains(code) ? new Found("matched", hut.key()) : hut;
        lookups.get("hut").merge(hut.word(), 1L, Long::sum);
        if (hut.word().equals("unmatched") && settings.unmatched().equals("wait")) {
            count("waiting");
            waits.run();
            return null;
        }
        if (hut.word().equals("unmatched") && settings.unmatched().equals("set-aside")
                || hut.word().equals("ended") && settings.ended().equals("set-aside")) {
            count("setAside");
            return null;
        }
        return hut;
    }

    private Found look(@Nullable Integer named) {
        Found guest = members.guest(named);
        lookups.get("guest").merge(guest.word(), 1L, Long::sum);
        return guest;
    }

    private void one(int no, Waiting<StagedFact> staged, Set<LocalDate> nights) {
        StagedFact row = staged.row();
        @Nullable Row stands = facts.get(no);
        if (cancels(row)) {
            cancel(no, stands);
            return;
        }
        @Nullable Found hut = hut(row.code(), row.night(), Set.of(), () -> waiting.add(staged.from(load)));
        if (hut == null) {
            return;
        }
        if (hut.word().equals("placeholders")) {
            made.add(String.valueOf(row.code()));
        }
        if (stands != null && settings.onRepeat().equals("refuse")) {
            look(row.guest());
            count("setAside");
            return;
        }
        if (staged.isDelivered()) {
            nights.add(row.night());
        }
        if (stands != null && settings.onRepeat().equals("ignore")) {
            look(row.guest());
            count("ignored");
            return;
        }
        Row fact = stands == null ? new Row() : stands;
        List<@Nullable Object> before = fact.values();
        if (stands == null || !settings.isFed()) {
            write(fact, row.guest(), row.paid());
        } else {
            look(row.guest());
        }
        if (stands == null || !settings.areHutsFed()) {
            write(fact, hut, row.code(), row.night());
        }
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
