package dev.zeitkammer.lineage;

import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Dimension.Kind;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Lookup;
import dev.zeitkammer.definition.Lookup.Unmatched;
import dev.zeitkammer.lineage.Flow.Part;
import java.util.List;

/** What decides the keys that a lookup finds: the keys of members, what is matched with them, and the date. */
final class LookupLineage {

    private final Collected collected;
    private final InputLineage inputs;

    LookupLineage(Collected collected, InputLineage inputs) {
        this.collected = collected;
        this.inputs = inputs;
    }

    /** The columns that keys of a lookup stand in, and what decides them. */
    void found(Input input, Lookup lookup, List<Field> keys) {
        Dimension other = lookup.dimension();
        Dataset table = DefinitionLineage.dataset(other);
        for (int place = 0; place < keys.size(); place++) {
            String column = place == 0 ? other.keyColumn() : other.memberKeyColumn();
            collected.flow(new Field(table, column), keys.get(place), Part.VALUE);
        }
        for (int place = 0; place < lookup.match().size(); place++) {
            List<Field> matched = inputs.taken(input, lookup.match().get(place));
            keys.forEach(key -> collected.flow(matched, key, Part.KEY));
            if (lookup.unmatched() == Unmatched.PLACEHOLDER || isMadeByFacts(other)) {
                Field business = new Field(table, other.key().get(place).text());
                collected.flow(matched, business, isMadeByFacts(other) ? Part.VALUE : Part.PLACEHOLDER);
            }
        }
        lookup.asOf()
                .ifPresent(asOf ->
                        keys.forEach(key -> collected.flow(inputs.column(input, asOf.text()), key, Part.MOMENT)));
    }

    private static boolean isMadeByFacts(Dimension dimension) {
        return dimension.kind() == Kind.COMBINATION && dimension.from().isEmpty();
    }
}
