package dev.zeitkammer.definition;

import dev.zeitkammer.definition.History.Overwrite;
import java.util.List;
import java.util.Optional;

/**
 * A dimension as its definition states it.
 *
 * @param table the table's name in the warehouse
 * @param kind where its members come from
 * @param from the input that delivers its members; empty where it makes its own
 * @param key the staged columns of the business key; of a combination, all its attributes
 * @param attributes what describes its members; of a combination, how the columns of its key are made
 * @param allOthers what to do with every other staged column; empty: they are not loaded
 * @param deletions how members end
 * @param lastBy the staged column by whose greatest value one of several rows of a key and moment is chosen; empty: rows that
 *     contradict each other are set aside
 * @param taken what the columns of the key are taken from, where they are not staged under their names
 * @param surrogate its surrogate key
 * @param hasMemberKey whether a column holds a key that is the same in all versions of a member
 * @param reserved its stand-in members, the one for a value that matches nobody first, the one for no value second
 * @param lookups the keys of other dimensions that it stores
 * @param isVersioned whether an attribute or a lookup is of type 2
 * @param calendar the days of a calendar; empty for every other dimension
 * @param othersLoad how its rows are known where others load it; empty where the project does
 * @param terms what it says as any table may
 */
public record Dimension(
        Word name,
        String table,
        Kind kind,
        Optional<Input> from,
        List<Word> key,
        Taken taken,
        List<Attribute> attributes,
        Optional<ChangeType> allOthers,
        History history,
        Deletions deletions,
        Optional<Word> lastBy,
        SurrogateKey surrogate,
        boolean hasMemberKey,
        List<MemberLookup> lookups,
        boolean isVersioned,
        Optional<CalendarDays> calendar,
        List<ReservedMember> reserved,
        Views views,
        Optional<OthersLoad> othersLoad,
        Terms terms)
        implements Definition {

    /** That of the table's name: the one that the machine would make of so many parts takes longer than to read a definition. */
    @Override
    public int hashCode() {
        return table.hashCode();
    }

    /** Where members come from. */
    public enum Kind {
        /** An input delivers them. */
        MEMBERS,
        /** They are the days of a span. */
        CALENDAR,
        /** They are the minutes of a day. */
        MINUTES,
        /** They are the distinct combinations of some attributes. */
        COMBINATION
    }

    public Dimension {
        key = List.copyOf(key);
        attributes = List.copyOf(attributes);
        lookups = List.copyOf(lookups);
        reserved = List.copyOf(reserved);
    }

    /** The same dimension with its lookups, which can be read only when every dimension is known by name. */
    public Dimension with(List<MemberLookup> found, Described beside) {
        return new Dimension(
                name,
                table,
                kind,
                from,
                key,
                taken,
                attributes,
                allOthers,
                history,
                deletions,
                lastBy,
                surrogate,
                hasMemberKey,
                found,
                isVersioned,
                calendar,
                reserved,
                views,
                othersLoad,
                terms.describing(beside));
    }

    @Override
    public Dimension loading(Input other) {
        return new Dimension(
                name,
                table,
                kind,
                Optional.of(other),
                key,
                taken,
                attributes,
                allOthers,
                history,
                new Deletions(deletions.when(), false, deletions.unknown(), deletions.limit()),
                lastBy,
                surrogate,
                hasMemberKey,
                lookups,
                isVersioned,
                calendar,
                reserved,
                views,
                othersLoad,
                terms);
    }

    @Override
    public List<String> rowKey() {
        return List.of(keyColumn());
    }

    /** The name of the column with the surrogate key. */
    public String keyColumn() {
        return surrogate.column();
    }

    /** The name of the column with the key that is the same in all versions of a member. */
    public String memberKeyColumn() {
        return name + "_member_key";
    }

    /** What a staged row must have for the business key: for each column of it, a staged column or an expression. */
    public List<Word> keyTaken() {
        return taken.of(key);
    }

    /**
     * SQL: whether a surrogate key is that of a reserved member. Those of members are 0 and more, or more than 0 where a reserved
     * member has the key 0.
     */
    public String isReserved(String key) {
        return key + (hasReservedZero() ? " <= 0" : " < 0");
    }

    /** SQL: whether a surrogate key is that of a member, see {@link #isReserved}. */
    public String isMember(String key) {
        return key + (hasReservedZero() ? " > 0" : " >= 0");
    }

    private boolean hasReservedZero() {
        return reserved.stream().anyMatch(member -> member.key() == 0);
    }

    /** A reserved member by its name. */
    public Optional<ReservedMember> reserved(String named) {
        return reserved.stream().filter(member -> member.name().equals(named)).findFirst();
    }

    /** Whether others load it, so that it is only looked up. */
    public boolean isOthers() {
        return othersLoad.isPresent();
    }

    /** Whether members have versions. */
    public boolean hasHistory() {
        return isVersioned;
    }

    /** Whether a delivery holds every member, so that a missing one means something. */
    public boolean isDeliveredWhole() {
        return from.map(Input::extract).filter(Input.Extract.FULL::equals).isPresent();
    }

    /** Whether statements are ordered by a staged column, so that rows can come late. */
    public boolean hasEffective() {
        return history.effective().isPresent();
    }

    /** Whether type 1 values are written on the current version only. */
    public boolean overwritesCurrentOnly() {
        return history.overwrite() == Overwrite.CURRENT;
    }

    /** The lookup that keeps a bridge table of ancestors. */
    public Optional<MemberLookup> hierarchy() {
        return lookups.stream().filter(MemberLookup::hierarchy).findFirst();
    }

    /** The name of the bridge table of its hierarchy. */
    public String bridgeTable() {
        return "bridge_" + name;
    }

    @Override
    public Optional<String> formerName(String column) {
        return attributes.stream()
                .filter(attribute -> attribute.name().text().equals(column))
                .flatMap(attribute -> attribute.was().stream())
                .map(Word::text)
                .findFirst()
                .or(() -> described().was(column));
    }

    @Override
    public List<String> dependsOn() {
        return lookups.stream()
                .filter(lookup -> !lookup.isParentIn(this))
                .map(lookup -> lookup.lookup().dimension())
                .filter(dimension -> !dimension.isOthers())
                .map(dimension -> dimension.name().text())
                .distinct()
                .toList();
    }
}
