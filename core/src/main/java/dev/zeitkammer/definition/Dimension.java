package dev.zeitkammer.definition;

import java.util.List;
import java.util.Optional;

/**
 * A dimension as its definition states it.
 *
 * @param table the table's name in the warehouse
 * @param from the input that delivers its members; empty for a calendar
 * @param key the staged columns of the business key
 * @param allOthers what to do with every other staged column; empty: they are not loaded
 * @param deletions how members end
 * @param surrogate where surrogate keys come from
 * @param calendar the days of a calendar; empty for every other dimension
 */
public record Dimension(
        Word name,
        String table,
        Optional<Input> from,
        List<Word> key,
        List<Attribute> attributes,
        Optional<ChangeType> allOthers,
        History history,
        Deletions deletions,
        Surrogate surrogate,
        Optional<CalendarDays> calendar)
        implements Definition {

    /** Where surrogate keys come from. */
    public enum Surrogate {
        SEQUENCE,
        HASH
    }

    public Dimension {
        key = List.copyOf(key);
        attributes = List.copyOf(attributes);
    }

    /** Whether members have versions: an attribute is of type 2. */
    public boolean hasHistory() {
        return allOthers.filter(ChangeType.TYPE_2::equals).isPresent()
                || attributes.stream().anyMatch(attribute -> attribute.change() == ChangeType.TYPE_2);
    }

    /** Whether a delivery holds every member, so that a missing one means something. */
    public boolean isDeliveredWhole() {
        return from.map(Input::extract).filter(Input.Extract.FULL::equals).isPresent();
    }

    /** Whether statements are ordered by a staged column, so that rows can come late. */
    public boolean hasEffective() {
        return history.effective().isPresent();
    }
}
