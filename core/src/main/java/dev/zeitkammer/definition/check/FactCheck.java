package dev.zeitkammer.definition.check;

import dev.zeitkammer.definition.Dimension.Kind;
import dev.zeitkammer.definition.Fact;
import dev.zeitkammer.definition.Feed;
import dev.zeitkammer.definition.History.Facts;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Lookup;
import dev.zeitkammer.definition.Nearest;
import dev.zeitkammer.definition.Problems;
import dev.zeitkammer.definition.Word;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;

/** Checks what a fact's keywords say against each other, and against the dimensions it looks up. */
final class FactCheck {

    private final Fact fact;
    private final Problems problems;

    FactCheck(Fact fact, Problems problems) {
        this.fact = fact;
        this.problems = problems;
    }

    void check() {
        fact.grain().forEach(this::grain);
        fact.feeds().forEach(this::feed);
        fact.replaces().ifPresent(this::period);
        fact.lookups().forEach(this::lookup);
    }

    /** A role may stand in the grain if its dimension has no versions, so that its key never changes. */
    private void grain(Word word) {
        fact.lookup(word.text())
                .filter(lookup -> lookup.dimension().hasHistory())
                .ifPresent(
                        lookup -> problems.add(
                                word.place(),
                                "the role \"" + word + "\" cannot be part of the grain: \""
                                        + lookup.dimension().name()
                                        + "\" has versions, so that a member has many keys; use the columns of its business key"));
    }

    private void feed(Feed feed) {
        List<String> writable = new ArrayList<>();
        fact.lookups().stream()
                .filter(lookup -> !fact.isGrain(lookup))
                .forEach(lookup -> writable.add(lookup.role().text()));
        fact.degenerate().forEach(word -> writable.add(word.text()));
        fact.measures().forEach(measure -> writable.add(measure.name().text()));
        for (Word update : feed.updates()) {
            boolean inGrain = fact.grain().stream().anyMatch(word -> word.text().equals(update.text()));
            if (inGrain) {
                problems.add(
                        update.place(),
                        "\"" + update + "\" is part of the grain, which identifies a row and is never updated");
            } else if (!writable.contains(update.text())) {
                problems.add(
                        update.place(),
                        "\"" + update + "\" is no role, degenerate or measure of \"" + fact.name() + "\"; "
                                + Nearest.hint(update.text(), writable));
            }
        }
        List<String> stored = storedColumns();
        for (Word column : feed.stored()) {
            if (!stored.contains(column.text())) {
                problems.add(
                        column.place(),
                        "\"" + column + "\" is not stored in \"" + fact.name()
                                + "\"; a feed finds rows by columns of the" + " grain or degenerates: "
                                + Nearest.hint(column.text(), stored));
            }
        }
        fact.lookups().stream()
                .filter(lookup -> lookup.dimension().hasHistory() && !saysOfFacts(lookup, Facts.STAY))
                .forEach(lookup -> dated(feed, lookup));
    }

    /** Facts that follow a history stand at the version valid at their date, so a feed writes both of these or neither. */
    private void dated(Feed feed, Lookup lookup) {
        Optional<Word> date = fact.storedDate(lookup);
        if (date.isEmpty()) {
            return;
        }
        String role = lookup.role().text();
        String day = date.get().text();
        boolean isMatched = feed.stored().stream().map(Word::text).anyMatch(day::equals);
        String otherwise = "say facts: stay in \"" + lookup.dimension().name() + "\"";
        if (feed.writes(day) && !feed.writes(role)) {
            problems.add(
                    feed.update(day).place(),
                    "\"" + role + "\" is looked up at \"" + day
                            + "\": a fact that gets another date needs the version valid then;"
                            + " let the feed update \"" + role + "\" too, or " + otherwise);
        } else if (feed.writes(role) && !feed.writes(day) && !isMatched) {
            problems.add(
                    feed.update(role).place(),
                    "\"" + role
                            + "\" is looked up at the feed's own date, but its facts follow the history at the date that they"
                            + " store, \"" + day + "\": let the feed update \"" + day + "\" too, match by it, or "
                            + otherwise);
        }
    }

    private static boolean saysOfFacts(Lookup lookup, Facts facts) {
        return lookup.dimension().history().facts().filter(facts::equals).isPresent();
    }

    private List<String> storedColumns() {
        return Stream.concat(fact.grain().stream(), fact.degenerate().stream())
                .map(Word::text)
                .filter(column -> fact.lookup(column).isEmpty())
                .toList();
    }

    private void period(Word column) {
        boolean isStored = fact.stored(column).isPresent()
                || fact.lookups().stream()
                        .anyMatch(lookup -> lookup.dimension().kind() == Kind.CALENDAR
                                && lookup.match().get(0).text().equals(column.text()));
        if (!isStored) {
            problems.add(
                    column.place(),
                    "\"replaces\" names \"" + column + "\", which is not stored in \"" + fact.name()
                            + "\"; make it part of the grain, a degenerate, or the match of a calendar's role");
        }
        fact.from()
                .flatMap(Input::newer)
                .map(Input.Newer::column)
                .filter(mark -> !mark.text().equalsIgnoreCase(column.text()))
                .ifPresent(mark -> problems.add(
                        column.place(),
                        "\"replaces\" removes the facts of a period that are not delivered again, and by \"newer-than: "
                                + mark
                                + "\" only rows beyond the mark are staged: facts of the same period that were loaded before"
                                + " would go; leave out one of them, or let newer-than name \"" + column + "\" too"));
    }

    private void lookup(Lookup lookup) {
        if (saysOfFacts(lookup, Facts.FOLLOW)
                && lookup.asOf().isPresent()
                && fact.storedDate(lookup).isEmpty()) {
            problems.add(
                    lookup.asOf().get().place(),
                    "facts are to follow the history of \"" + lookup.dimension().name() + "\", but \""
                            + lookup.asOf().get() + "\" is not stored in \"" + fact.name()
                            + "\": store it in the grain or as a degenerate, look a calendar up with it, or say facts: stay");
        }
        if (lookup.unmatched() == Lookup.Unmatched.PLACEHOLDER
                && lookup.dimension().isOthers()) {
            problems.add(
                    lookup.role().place(),
                    "others load \"" + lookup.dimension().name()
                            + "\": no placeholder can be made there; say wait, or set-aside, or a row of theirs that stands in");
        } else if (lookup.unmatched() == Lookup.Unmatched.PLACEHOLDER
                && (lookup.dimension().kind() != Kind.MEMBERS
                        || lookup.dimension().surrogate().take().isPresent())) {
            problems.add(
                    lookup.role().place(),
                    "\"" + lookup.dimension().name() + "\" makes its own members; a placeholder cannot be one of them");
        }
    }
}
