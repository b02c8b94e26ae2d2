package dev.zeitkammer.lookup;

import dev.zeitkammer.definition.Lookup;
import dev.zeitkammer.definition.Lookup.Ended;
import dev.zeitkammer.lookup.LookupSql.Found;
import java.util.EnumMap;
import java.util.HashSet;
import java.util.Map;
import java.util.stream.Collectors;

/** What the key that a fact stores for a lookup tells of what was found. */
record StoredKey(LookupSql lookup) {

    private Lookup definition() {
        return lookup.lookup();
    }

    /**
     * Whether it tells all: no date is at work, and each word that finds nobody has a reserved key of its own, which no member has.
     */
    boolean tells() {
        Map<Found, Long> reserved = reserved();
        return definition().asOf().isEmpty()
                && !lookup.within()
                && !lookup.combines()
                && !lookup.conventions().standing()
                && new HashSet<>(reserved.values()).size() == reserved.size();
    }

    /** The words of {@link Found} for which a reserved key is stored, with that key. */
    private Map<Found, Long> reserved() {
        Map<Found, Long> reserved = new EnumMap<>(Found.class);
        reserved.put(Found.UNMATCHED, definition().standIns().unmatched());
        reserved.put(Found.BLANK, definition().standIns().blank());
        if (definition().ended() == Ended.STAND_IN) {
            reserved.put(Found.ENDED, definition().standIns().ended());
        }
        return reserved;
    }

    private String counted(Found word) {
        return "zk_n" + lookup.number() + "_" + word.ordinal();
    }

    /** Further columns of a query of the facts: how many have each of the reserved keys. */
    String counted(String alias) {
        String key = lookup.dialect().column(alias, definition().keyColumn());
        return reserved().entrySet().stream()
                .map(reserved -> ", count(case when " + key + " = " + reserved.getValue() + " then 1 end) as "
                        + counted(reserved.getKey()))
                .collect(Collectors.joining());
    }

    /** How many rows found each word, in SQL over what {@link #counted(String)} counts beside all facts, {@code zk_rows}. */
    Map<Found, String> told() {
        Map<Found, String> told = new EnumMap<>(Found.class);
        reserved().keySet().forEach(word -> told.put(word, counted(word)));
        told.put(Found.MATCHED, "zk_rows - " + String.join(" - ", told.values()));
        return told;
    }
}
