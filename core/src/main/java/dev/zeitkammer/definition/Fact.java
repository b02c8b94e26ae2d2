package dev.zeitkammer.definition;

import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;

/**
 * A fact table as its definition states it.
 *
 * @param grain the columns, and the roles, that identify a row; empty: rows are appended
 * @param degenerate further columns of texts, numbers and dates
 * @param taken what columns of the grain and degenerates are taken from, where they are not staged under their names
 * @param onRepeat what becomes of a staged row whose grain is there already
 * @param feeds further inputs for rows that are there already
 * @param replaces the staged column of the period of a snapshot; within the delivered periods, rows that are no longer delivered
 *     are removed
 * @param deletions how facts are cancelled
 * @param terms what it says as any table may
 */
public record Fact(
        Word name,
        String table,
        Input source,
        List<Word> grain,
        List<Lookup> lookups,
        List<Word> degenerate,
        Taken taken,
        List<Measure> measures,
        OnRepeat onRepeat,
        List<Feed> feeds,
        Optional<Word> replaces,
        Optional<FactDeletions> deletions,
        Terms terms)
        implements Definition {

    /** That of the table's name: the one that the machine would make of so many parts takes longer than to read a definition. */
    @Override
    public int hashCode() {
        return table.hashCode();
    }

    /** What becomes of a staged row whose grain is there already. */
    public enum OnRepeat {
        UPDATE,
        IGNORE,
        REFUSE
    }

    public Fact {
        grain = List.copyOf(grain);
        lookups = List.copyOf(lookups);
        degenerate = List.copyOf(degenerate);
        measures = List.copyOf(measures);
        feeds = List.copyOf(feeds);
    }

    @Override
    public Fact loading(Input other) {
        return new Fact(
                name,
                table,
                other,
                grain,
                lookups,
                degenerate,
                taken,
                measures,
                onRepeat,
                List.of(),
                Optional.empty(),
                deletions,
                terms);
    }

    @Override
    public Optional<Input> from() {
        return Optional.of(source);
    }

    @Override
    public List<String> rowKey() {
        return grain.stream().map(this::grainColumn).toList();
    }

    /** The lookup that has a role. */
    public Optional<Lookup> lookup(String role) {
        return lookups.stream()
                .filter(lookup -> lookup.role().text().equals(role))
                .findFirst();
    }

    /** Where a staged column is stored: in the grain, or as a degenerate. */
    public Optional<Word> stored(Word staged) {
        return Stream.of(grain, degenerate)
                .flatMap(List::stream)
                .filter(column -> lookup(column.text()).isEmpty())
                .filter(column -> taken.of(column).text().equalsIgnoreCase(staged.text()))
                .findFirst();
    }

    /** The name of the column that a word of the grain stands for: a role's key, or a staged column. */
    public String grainColumn(Word word) {
        return lookup(word.text()).map(Lookup::keyColumn).orElse(word.text());
    }

    /** Whether a lookup's role is part of the grain. */
    public boolean isGrain(Lookup lookup) {
        return grain.stream().map(Word::text).anyMatch(lookup.role().text()::equals);
    }

    /** Whether a feed writes a lookup's key or a measure, so that the main input writes it on insert only. */
    public boolean isFed(String name) {
        return feeds.stream().anyMatch(feed -> feed.writes(name));
    }

    /** Whether cancelled facts stay, marked. */
    public boolean marksDeleted() {
        return deletions.filter(FactDeletions::marks).isPresent();
    }

    /**
     * Where the date of a lookup is stored in the fact: a staged column that is stored, or the role of a calendar that it is
     * matched with.
     */
    public Optional<Word> storedDate(Lookup lookup) {
        return lookup.asOf()
                .flatMap(asOf -> stored(asOf)
                        .or(() -> lookups.stream()
                                .filter(role -> role.dimension().kind() == Dimension.Kind.CALENDAR)
                                .filter(role -> role.match().get(0).text().equalsIgnoreCase(asOf.text()))
                                .map(Lookup::role)
                                .findFirst()));
    }

    @Override
    public Optional<String> formerName(String column) {
        return described().was(column);
    }

    @Override
    public List<String> dependsOn() {
        return lookups.stream()
                .map(Lookup::dimension)
                .filter(dimension -> !dimension.isOthers())
                .map(dimension -> dimension.name().text())
                .distinct()
                .toList();
    }
}
