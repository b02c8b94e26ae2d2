package dev.zeitkammer.fact;

import dev.zeitkammer.dimension.members.PlaceholderMembers;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.lookup.LookupSql;
import dev.zeitkammer.step.Stamp;
import java.util.List;
import java.util.stream.Collectors;

/**
 * What everything knows that takes part in loading a fact's table.
 *
 * @param stamp what the load writes into every row that it touches
 * @param books what the books know of the table
 */
record FactLoading(FactTable table, Warehouse warehouse, Stamp stamp, FactBooks books) {

    Dialect dialect() {
        return warehouse.dialect();
    }

    /** The table in SQL. */
    String target() {
        return warehouse.table(table.definition().table());
    }

    /** What makes members for values that these lookups do not find. */
    PlaceholderMembers placeholders(List<LookupSql> lookups) {
        return new PlaceholderMembers(warehouse, stamp, books.members(), lookups);
    }

    /** The keys that a fact stores of what its lookups found, alias {@code r}, and the words of what they found. */
    String storedKeys(List<LookupSql> lookups) {
        return lookups.stream()
                .map(lookup -> ",\n  " + lookup.stored("r") + " as "
                        + dialect().quote(FactTable.keyName(lookup.lookup())) + ", r." + lookup.found()
                        + lookup.lookup()
                                .memberColumn()
                                .map(name -> ", " + lookup.storedMember("r") + " as "
                                        + dialect().quote(name))
                                .orElse(""))
                .collect(Collectors.joining());
    }
}
