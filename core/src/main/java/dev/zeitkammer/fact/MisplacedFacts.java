package dev.zeitkammer.fact;

import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Lookup;
import dev.zeitkammer.engine.BookChange;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.fact.DatedLookups.Dated;
import dev.zeitkammer.step.Change;
import dev.zeitkammer.step.Step;

/**
 * Facts of a table that others made whose key is not that of the version valid at their date. What stands stays: they are noted
 * in the books before the first load goes on with them, and follow the history only where another version than the one noted has
 * become the valid one (docs/rules.md, "Following").
 */
final class MisplacedFacts {

    private final FactTable table;
    private final Warehouse warehouse;
    private final String book;

    /** @param book the table of the books, quoted */
    MisplacedFacts(FactTable table, Warehouse warehouse, String book) {
        this.table = table;
        this.warehouse = warehouse;
        this.book = book;
    }

    /** The condition that a fact, alias {@code t}, with the valid key {@code t.zk_key}, is noted in a role. */
    String isNoted(Lookup lookup) {
        return Sql.of("""
                exists (select 1 from ${book} as m where m.table_name = ${table} and m.role = ${role}
                    and m.grain = t.zk_grain and m.valid_key = t.zk_key)""")
                .with("book", book)
                .with("table", warehouse.dialect().text(table.definition().table()))
                .with("role", warehouse.dialect().text(lookup.role().text()))
                .text();
    }

    /** The condition that a load has made the version of a key. */
    String isMadeBy(long load, Lookup lookup, String key) {
        Dimension dimension = lookup.dimension();
        return Sql.of(
                        "exists (select 1 from ${dimension} as zk_v where ${version} = ${key} and ${inserted_by} = ${load})")
                .with("dimension", warehouse.table(dimension.table()))
                .with("version", warehouse.dialect().column("zk_v", dimension.keyColumn()))
                .with("key", key)
                .with(
                        "inserted_by",
                        warehouse
                                .dialect()
                                .column("zk_v", dimension.conventions().column(AuditColumn.INSERTED_BY)))
                .with("load", load)
                .text();
    }

    /**
     * Notes the facts of a role, but for those whose valid version this load has made.
     *
     * @param misplaced a query of their {@code grain}, {@code stored_key} and {@code valid_key}
     */
    Change<BookChange> noting(Dated dated, String misplaced, long load) {
        Lookup lookup = dated.lookup().lookup();
        String query = Sql.of("""
                select ${load}, ${table}, ${role}, m.grain, m.stored_key, m.valid_key
                from (
                  ${misplaced}
                ) as m
                where not ${is_made_now}""")
                .with("load", load)
                .with("table", warehouse.dialect().text(table.definition().table()))
                .with("role", warehouse.dialect().text(lookup.role().text()))
                .with("misplaced", misplaced)
                .with("is_made_now", isMadeBy(load, lookup, "m.valid_key"))
                .text();
        return Change.of(new BookChange.Insert(
                Step.caption(
                        "facts at another version, lookup " + lookup.role(),
                        "Facts that others made stay at the version where they stand, and are noted."),
                book,
                "load, table_name, role, grain, stored_key, valid_key",
                query));
    }
}
