package dev.zeitkammer.fact;

import dev.zeitkammer.definition.Lookup;
import dev.zeitkammer.definition.Lookup.Unmatched;
import dev.zeitkammer.engine.BookChange;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Relation;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.lookup.FoundTally;
import dev.zeitkammer.lookup.LookupSql;
import dev.zeitkammer.lookup.LookupSql.Found;
import dev.zeitkammer.step.Change;
import dev.zeitkammer.step.Flag;
import dev.zeitkammer.step.Step;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.function.Function;
import java.util.stream.Collectors;
import java.util.stream.IntStream;

/**
 * Facts whose member has not come yet: the books keep their grain, the natural key and the date, so that a later load can find
 * the member for them.
 */
final class WaitingFacts {

    private static final int MOST_COLUMNS = 8;
    private static final Relation WAITED_FOR = Relation.of("zk_waited_for", "A fact that waits for a member.");

    private final FactTable table;
    private final Dialect dialect;
    private final String waiting;
    private final long load;

    WaitingFacts(FactLoading loading) {
        this.table = loading.table();
        this.dialect = loading.dialect();
        this.waiting = loading.books().waiting();
        this.load = loading.stamp().load();
    }

    /** Whether the facts of a lookup wait: what finds nobody is the unknown member, and may be somebody later. */
    static boolean isFor(FactTable table, Lookup lookup) {
        return lookup.unmatched() == Unmatched.STAND_IN
                && lookup.match().size() <= MOST_COLUMNS
                && !table.definition().isGrain(lookup)
                && !table.isAppended();
    }

    private String own(LookupSql lookup) {
        return "table_name = " + dialect.text(table.definition().table()) + " and role = "
                + dialect.text(lookup.lookup().role().text());
    }

    /**
     * Notes what waits among the rows of a relation, and forgets what these rows' facts waited for before.
     *
     * @param told a query of the staged rows, with {@code zk_grain} and what they found in a lookup
     */
    List<Change<BookChange>> noting(List<LookupSql> lookups, Function<LookupSql, String> told) {
        List<Change<BookChange>> steps = new ArrayList<>();
        for (LookupSql lookup : lookups) {
            if (isFor(table, lookup.lookup())) {
                String relation = told.apply(lookup);
                steps.add(forget(lookup, relation));
                steps.add(note(lookup, relation));
            }
        }
        return steps;
    }

    private Change<BookChange> forget(LookupSql lookup, String relation) {
        return Change.of(
                new BookChange.Remove(
                        Step.caption(
                                "no longer waiting, lookup " + lookup.lookup().role(),
                                "What is delivered anew does not wait for what it named before."),
                        waiting,
                        own(lookup) + " and "
                                + dialect.isAmong("grain", "select zk_grain from (" + relation + "\n) as told")),
                any(lookup));
    }

    /** Whether any fact waits for a lookup. */
    Flag any(LookupSql lookup) {
        return Flag.exists("select 1 from " + waiting + " where " + own(lookup));
    }

    private Change<BookChange> note(LookupSql lookup, String relation) {
        List<String> matches = lookup.matches();
        String columns =
                dialect.list(IntStream.rangeClosed(1, matches.size()).boxed().toList(), position -> "key_" + position);
        String asOf =
                lookup.lookup().asOf().isPresent() ? dialect.cast(lookup.judged(), SqlType.VARCHAR) : dialect.noText();
        return Change.of(
                new BookChange.Insert(
                        Step.caption(
                                "waiting, lookup " + lookup.lookup().role(),
                                "Facts whose member is not there yet wait for it."),
                        waiting,
                        "table_name, role, grain, as_of, noted_by, " + columns,
                        "select " + dialect.text(table.definition().table()) + ", "
                                + dialect.text(lookup.lookup().role().text()) + ", d.zk_grain, " + asOf + ", " + load
                                + ", "
                                + dialect.list(matches, match -> dialect.cast("d." + match, SqlType.VARCHAR))
                                + "\nfrom (" + relation + "\n) as d\nwhere d." + lookup.found() + " = "
                                + Found.UNMATCHED.sql()
                                + (lookup.lookup().asOf().isPresent()
                                        ? " and d." + lookup.asOf() + " is not null"
                                        : "")),
                FoundTally.anyFound(lookup, Found.UNMATCHED));
    }

    /** Lays out what waits for some lookups, so that a server knows how much it is. */
    List<Step> laidOut(List<LookupSql> lookups) {
        Optional<Flag> any = lookups.stream().map(this::any).reduce(Flag::or);
        return any.isEmpty()
                ? List.of()
                : List.of(new Step.Keep(
                        Step.caption(
                                "waiting facts",
                                "The facts that wait, laid out apart, so that the engine knows how many they are."),
                        WAITED_FOR,
                        "select * from " + waiting + " where "
                                + lookups.stream().map(this::own).collect(Collectors.joining(" or ")),
                        any));
    }

    /** A relation of what was laid out, in the types that the lookup wants: alias d of its join. */
    String typed(LookupSql lookup, List<SqlType> keyTypes) {
        List<String> columns = new ArrayList<>(List.of("w.grain as zk_grain"));
        for (int position = 0; position < keyTypes.size(); position++) {
            columns.add(
                    dialect.cast("w.key_" + (position + 1), keyTypes.get(position)) + " as " + lookup.match(position));
        }
        if (lookup.lookup().asOf().isPresent()) {
            columns.add(dialect.cast(dialect.cast("w.as_of", SqlType.TIMESTAMP), lookup.momentType()) + " as "
                    + lookup.asOf());
        }
        return "(select " + String.join(", ", columns) + " from " + WAITED_FOR + " as w where role = "
                + dialect.text(lookup.lookup().role().text()) + ") as d";
    }

    /** Who was found waits no more. */
    Change<BookChange> found(LookupSql lookup, Flag anyFound) {
        String role = dialect.text(lookup.lookup().role().text());
        return Change.of(
                new BookChange.Remove(
                        Step.caption(
                                "found, lookup " + lookup.lookup().role(),
                                "Facts that found their member wait no more."),
                        waiting,
                        own(lookup) + " and "
                                + dialect.isAmong(
                                        "grain",
                                        "select zk_grain from " + LateArrivingMembers.MOVED
                                                + " where zk_why = 'healed' and zk_role = " + role)),
                anyFound);
    }
}
