package dev.zeitkammer.fact;

import dev.zeitkammer.definition.Housekeeping;
import dev.zeitkammer.definition.Lookup;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlText;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.fact.DatedLookups.Dated;
import dev.zeitkammer.lookup.LookupSource;
import dev.zeitkammer.lookup.LookupSql;
import dev.zeitkammer.lookup.LookupSql.Found;
import dev.zeitkammer.step.Counting;
import dev.zeitkammer.step.Differences;
import dev.zeitkammer.step.Plan;
import dev.zeitkammer.step.Stamp;
import dev.zeitkammer.step.Step;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/**
 * Keeps facts right that are there already: those that wait for a member find it when it has come (healed), and those whose
 * date falls into a version that came late move to it (followed). Only members that changed since the fact's last load are
 * looked at.
 */
final class Upkeep {

    private static final String HEALED = "zk_healed";
    private static final String FOLLOWED = "zk_followed";
    private static final String NOTHING = "select cast('' as varchar) as zk_grain, cast('' as varchar) as zk_role,"
            + " cast(0 as bigint) as zk_key where false";

    private final FactTable table;
    private final Warehouse warehouse;
    private final Dialect dialect;
    private final String target;
    private final LookupSource source;
    private final DatedLookups dated;
    private final FactBooks books;
    private final Waiting waiting;
    private final Stamp stamp;

    Upkeep(FactTable table, Warehouse warehouse, LookupSource source, FactBooks books, Stamp stamp) {
        this.table = table;
        this.warehouse = warehouse;
        this.dialect = warehouse.dialect();
        this.target = warehouse.table(table.definition().table());
        this.source = source;
        this.dated = new DatedLookups(table, warehouse, source);
        this.books = books;
        this.waiting = new Waiting(table, warehouse, books);
        this.stamp = stamp;
    }

    /** What there is to do; empty where no fact can wait or follow. */
    Optional<Plan> plan() {
        List<LookupSql> healing = healing();
        List<Dated> following = dated.following();
        if (table.isAppended() || (healing.isEmpty() && following.isEmpty())) {
            return Optional.empty();
        }
        List<Step> steps = new ArrayList<>();
        steps.add(new Step.Write("nobody healed", "Most loads heal nobody.", dialect.keep(HEALED, NOTHING)));
        healing.forEach(lookup -> {
            steps.add(waiting.laidOut(lookup));
            steps.add(new Step.Write(
                    "members that came, lookup " + lookup.lookup().role(),
                    "Facts that wait for a member that has come since.",
                    "insert into " + HEALED + "\n" + healed(lookup),
                    Optional.of(waiting.any(lookup))));
        });
        steps.add(new Step.Write("nobody followed", "Most loads move nobody.", dialect.keep(FOLLOWED, NOTHING)));
        following.forEach(each -> steps.add(new Step.Write(
                "versions that came late, lookup " + each.lookup().lookup().role(),
                "Facts whose date falls into another version of a member that changed since the last load.",
                "insert into " + FOLLOWED + "\n" + followed(each),
                Optional.of(anyChanged(each.lookup())))));
        List<Step> application = new ArrayList<>();
        healing.forEach(lookup -> application.add(move(lookup, HEALED, "heal")));
        healing.forEach(lookup -> application.add(waiting.found(lookup, HEALED)));
        following.forEach(each -> application.add(move(each.lookup(), FOLLOWED, "follow")));
        String counted = "select 0, 0, 0, 0, 0, 0, 0, 0, 0, (select count(distinct zk_grain) from " + HEALED
                + "), (select count(distinct zk_grain) from " + FOLLOWED + ")";
        String written = "select 0, (select count(distinct zk_grain) from (select zk_grain from " + HEALED
                + " union all select zk_grain from " + FOLLOWED + ") as moved)";
        return Optional.of(new Plan(
                steps,
                application,
                Differences.NONE,
                List.of(new Counting(FactLoad.COUNTED, counted)),
                written,
                Plan.NOTHING.setAside(),
                Optional.empty()));
    }

    private List<LookupSql> healing() {
        List<LookupSql> lookups = new ArrayList<>();
        for (Lookup lookup : table.definition().lookups()) {
            if (Waiting.isFor(table, lookup)) {
                lookups.add(source.ofStored(lookups.size(), lookup, Optional.empty()));
            }
        }
        return lookups;
    }

    private String key(LookupSql lookup, String alias) {
        return dialect.column(alias, FactTable.keyName(lookup.lookup()));
    }

    private String healed(LookupSql lookup) {
        return """
                select t.zk_grain, %s as zk_role, t.zk_key
                from (
                  select d.zk_grain, %s as zk_key, %s as zk_found
                  from %s
                  %s
                ) as t
                where t.zk_found not in (%s, %s)
                  and exists (select 1 from %s as f where %s = %d and %s = t.zk_grain)""".formatted(
                        dialect.text(lookup.lookup().role().text()),
                        lookup.keyExpression(),
                        lookup.foundExpression(),
                        waiting.typed(lookup, source.keyTypes(lookup.lookup())),
                        lookup.join(),
                        Found.UNMATCHED.sql(),
                        Found.BLANK.sql(),
                        target,
                        key(lookup, "f"),
                        table.conventions().unknown(),
                        table.grainText(dialect, "f"));
    }

    private String followed(Dated each) {
        LookupSql lookup = each.lookup();
        return """
                select t.zk_grain, %s as zk_role, t.zk_key
                from (
                  select d.zk_grain, d.zk_old, %s as zk_key, %s as zk_found
                  from (
                %s
                  ) as d
                  %s
                ) as t
                where t.zk_found not in (%s, %s) and t.zk_key <> t.zk_old""".formatted(
                        dialect.text(lookup.lookup().role().text()),
                        lookup.keyExpression(),
                        lookup.foundExpression(),
                        SqlText.indented(dated.stored(each, changed(lookup) + " and " + wasThere()), 4),
                        lookup.join(),
                        Found.UNMATCHED.sql(),
                        Found.BLANK.sql());
    }

    private String anyChanged(LookupSql lookup) {
        return "select count(*) from (select 1 from "
                + warehouse.table(lookup.lookup().dimension().table()) + " where "
                + dialect.quote(table.stamp(Housekeeping.UPDATED_BY)) + " > " + books.lastLoad()
                + " limit 1) as any_row";
    }

    /** Members of which a version was written since the fact's last load. */
    private String changed(LookupSql lookup) {
        List<String> keys =
                lookup.lookup().dimension().key().stream().map(Word::text).toList();
        return "exists (select 1 from "
                + warehouse.table(lookup.lookup().dimension().table()) + " as v where "
                + dialect.allEqual(keys, "v", "o") + " and v."
                + dialect.quote(table.stamp(Housekeeping.UPDATED_BY)) + " > " + books.lastLoad() + ")";
    }

    /** A fact that this load added has found its version already. */
    private String wasThere() {
        return dialect.column("f", table.stamp(Housekeeping.INSERTED_BY)) + " <> " + stamp.load();
    }

    private Step move(LookupSql lookup, String moved, String name) {
        String sql = """
                update %s as f
                set %s = m.zk_key, %s = %s, %s = %d
                from %s as m
                where m.zk_role = %s and m.zk_grain = %s""".formatted(
                        target,
                        dialect.quote(FactTable.keyName(lookup.lookup())),
                        dialect.quote(table.stamp(Housekeeping.UPDATED_AT)),
                        dialect.timestamp(stamp.at()),
                        dialect.quote(table.stamp(Housekeeping.UPDATED_BY)),
                        stamp.load(),
                        moved,
                        dialect.text(lookup.lookup().role().text()),
                        table.grainText(dialect, "f"));
        return new Step.Write(
                name + ", lookup " + lookup.lookup().role(), "These facts get their key.", sql, Step.any(moved));
    }
}
