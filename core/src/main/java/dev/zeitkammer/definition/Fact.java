package dev.zeitkammer.definition;

import java.util.List;
import java.util.Optional;

/**
 * A fact table as its definition states it.
 *
 * @param grain the staged columns that identify a row; they are stored in the fact
 * @param degenerate further staged columns to store
 * @param onRepeat what becomes of a staged row whose grain is there already
 */
public record Fact(
        Word name,
        String table,
        Input source,
        List<Word> grain,
        List<Lookup> lookups,
        List<Word> degenerate,
        List<Measure> measures,
        OnRepeat onRepeat)
        implements Definition {

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
    }

    @Override
    public Optional<Input> from() {
        return Optional.of(source);
    }

    @Override
    public List<String> dependsOn() {
        return lookups.stream()
                .map(lookup -> lookup.dimension().name().text())
                .distinct()
                .toList();
    }
}
