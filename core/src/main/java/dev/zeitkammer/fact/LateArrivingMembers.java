package dev.zeitkammer.fact;

import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Lookup;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.BookChange;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Relation;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.TableChange;
import dev.zeitkammer.engine.TableChange.Matching;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.fact.DatedLookups.Dated;
import dev.zeitkammer.lookup.LookupSource;
import dev.zeitkammer.lookup.LookupSql;
import dev.zeitkammer.step.Change;
import dev.zeitkammer.step.Counting;
import dev.zeitkammer.step.Flag;
import dev.zeitkammer.step.Plan;
import dev.zeitkammer.step.Stamp;
import dev.zeitkammer.step.Step;
import dev.zeitkammer.step.Step.Gather.Part;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Stream;

/**
 * Keeps facts right that are there already: those that wait for a member find it when it has come (healed), and those whose
 * date falls into a version that came late move to it (followed). Only members that changed since the fact's last load are
 * looked at.
 */
final class LateArrivingMembers {

    static final Relation MOVED = Relation.of(
            "zk_moved_facts",
            "A fact that gets another key in a role, since a member or a version has come.",
            "zk_grain",
            "zk_role",
            "zk_key",
            "zk_why",
            "zk_member");

    private final FactTable table;
    private final Warehouse warehouse;
    private final Dialect dialect;
    private final String target;
    private final LookupSource source;
    private final DatedLookups dated;
    private final FactBooks books;
    private final WaitingFacts waiting;
    private final MisplacedFacts misplaced;
    private final Stamp stamp;

    LateArrivingMembers(FactLoading loading, LookupSource source) {
        this.table = loading.table();
        this.warehouse = loading.warehouse();
        this.dialect = loading.dialect();
        this.target = loading.target();
        this.source = source;
        this.dated = new DatedLookups(table, warehouse, source);
        this.books = loading.books();
        this.waiting = new WaitingFacts(loading);
        this.misplaced = new MisplacedFacts(table, warehouse, loading.books().misplaced());
        this.stamp = loading.stamp();
    }

    /** What there is to do; empty where no fact can wait or follow. */
    Optional<Plan> plan() {
        List<LookupSql> healing = healing();
        List<Dated> following = dated.following();
        if (table.isAppended() || (healing.isEmpty() && following.isEmpty())) {
            return Optional.empty();
        }
        List<Part> moved = new ArrayList<>();
        healing.forEach(lookup -> moved.add(
                new Part("members that came, lookup " + lookup.lookup().role(), healed(lookup), waiting.any(lookup))));
        following.forEach(each -> moved.add(new Part(
                "versions that came late, lookup " + each.lookup().lookup().role(),
                followed(each),
                anyChanged(each.lookup()))));
        List<Step> steps = new ArrayList<>(waiting.laidOut(healing));
        steps.add(new Step.Gather(
                Step.caption(
                        "facts that move",
                        "Facts that wait for a member that has come since, and facts whose date falls into another version of"
                                + " a member that changed since the last load."),
                MOVED,
                moved));
        List<Change<TableChange>> changes = new ArrayList<>();
        List<Change<BookChange>> noted = new ArrayList<>();
        healing.forEach(lookup -> changes.add(move(lookup, "healed")));
        healing.forEach(lookup -> noted.add(waiting.found(lookup, isAny(lookup, "healed"))));
        following.forEach(each -> changes.add(move(each.lookup(), "followed")));
        if (isFirstOfStanding()) {
            following.forEach(each -> noted.add(misplaced.noting(each, dated.misplaced(each), stamp.load())));
        }
        List<Lookup> moving = Stream.concat(healing.stream(), following.stream().map(Dated::lookup))
                .map(LookupSql::lookup)
                .distinct()
                .toList();
        return Optional.of(new Plan(Step.asking(steps), changes, noted, reading(moving)));
    }

    private Plan.Reading reading(List<Lookup> moving) {
        String counted =
                "select 0, 0, 0, 0, 0, 0, 0, 0, 0, count(distinct case when zk_why = 'healed' then zk_grain end),"
                        + " count(distinct case when zk_why = 'followed' then zk_grain end) from " + MOVED;
        return new Plan.Reading(
                new FactDifferences(table, dialect, target).moved(moving),
                List.of(new Counting(FactLoad.COUNTED, counted)),
                "select 0, count(distinct zk_grain) from " + MOVED,
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.of(Flag.any(MOVED)),
                Optional.empty());
    }

    private List<LookupSql> healing() {
        List<LookupSql> lookups = new ArrayList<>();
        for (Lookup lookup : table.definition().lookups()) {
            if (WaitingFacts.isFor(table, lookup)) {
                lookups.add(source.ofStored(lookups.size(), lookup, Optional.empty()));
            }
        }
        return lookups;
    }

    private String key(LookupSql lookup, String alias) {
        return dialect.column(alias, FactTable.keyName(lookup.lookup()));
    }

    private String healed(LookupSql lookup) {
        return Sql.of("""
                select zk_t.zk_grain, ${role} as zk_role, zk_t.zk_key, 'healed' as zk_why, zk_t.zk_member
                from (
                  select d.zk_grain, ${key_expression} as zk_key, ${member_key} as zk_member, ${found_expression} as zk_found
                  from ${waiting_facts}
                  ${join}
                ) as zk_t
                where zk_t.zk_found not in (${nobody})
                  and exists (select 1 from ${target} as f where ${fact_key} = ${unknown} and ${grain_text} = zk_t.zk_grain)""")
                .with("role", dialect.text(lookup.lookup().role().text()))
                .with("key_expression", lookup.keyExpression())
                .with("member_key", memberKey(lookup))
                .with("found_expression", lookup.foundExpression())
                .with("waiting_facts", waiting.typed(lookup, source.keyTypes(lookup.lookup())))
                .with("join", lookup.join())
                .with("nobody", lookup.nobody())
                .with("target", target)
                .with("fact_key", key(lookup, "f"))
                .with("unknown", lookup.lookup().standIns().unmatched())
                .with("grain_text", table.grainText(dialect, "f"))
                .text();
    }

    private String followed(Dated each) {
        LookupSql lookup = each.lookup();
        return Sql.of("""
                select t.zk_grain, ${role} as zk_role, t.zk_key, 'followed' as zk_why, t.zk_member
                from (
                  select d.zk_grain, d.zk_old, ${key_expression} as zk_key, ${member_key} as zk_member, ${found_expression} as zk_found
                  from (
                    ${stored_facts}
                  ) as d
                  ${join}
                ) as t
                where t.zk_found not in (${nobody}) and t.zk_key <> t.zk_old and ${concerns}""")
                .with("concerns", concerns(lookup.lookup()))
                .with("role", dialect.text(lookup.lookup().role().text()))
                .with("key_expression", lookup.keyExpression())
                .with("member_key", memberKey(lookup))
                .with("found_expression", lookup.foundExpression())
                .with("stored_facts", dated.stored(each, changed(lookup) + " and " + wasThere()))
                .with("join", lookup.join())
                .with("nobody", lookup.nobody())
                .text();
    }

    /** What others left at another version stays there until a version that comes later is the valid one. */
    private String concerns(Lookup lookup) {
        return isFirstOfStanding()
                ? misplaced.isMadeBy(stamp.load(), lookup, "t.zk_key")
                : "not " + misplaced.isNoted(lookup);
    }

    private boolean isFirstOfStanding() {
        return table.definition().conventions().standing() && !books.isLoaded();
    }

    private String memberKey(LookupSql lookup) {
        return lookup.memberKeyExpression().orElseGet(() -> dialect.cast("null", SqlType.BIGINT));
    }

    private Flag anyChanged(LookupSql lookup) {
        return Flag.exists("select 1 from "
                + warehouse.table(lookup.lookup().dimension().table()) + " as v where v."
                + dialect.quote(lookup.lookup().dimension().conventions().column(AuditColumn.UPDATED_BY))
                + " > " + books.lastLoad());
    }

    /** Members of which a version was written since the fact's last load. */
    private String changed(LookupSql lookup) {
        List<String> keys =
                lookup.lookup().dimension().key().stream().map(Word::text).toList();
        return "exists (select 1 from "
                + warehouse.table(lookup.lookup().dimension().table()) + " as v where "
                + dialect.allEqual(keys, "v", "zk_o") + " and v."
                + dialect.quote(lookup.lookup().dimension().conventions().column(AuditColumn.UPDATED_BY))
                + " > " + books.lastLoad() + ")";
    }

    /** A fact that this load added has found its version already. */
    private String wasThere() {
        return dialect.column("f", table.stamp(AuditColumn.INSERTED_BY)) + " <> " + stamp.load();
    }

    private String isMoved(LookupSql lookup, String why) {
        return "zk_why = '" + why + "' and zk_role = "
                + dialect.text(lookup.lookup().role().text());
    }

    private Flag isAny(LookupSql lookup, String why) {
        return Flag.any(MOVED, isMoved(lookup, why));
    }

    private Change<TableChange> move(LookupSql lookup, String why) {
        Map<String, String> set = new LinkedHashMap<>();
        set.put(FactTable.keyName(lookup.lookup()), "c.zk_key");
        lookup.lookup().memberColumn().ifPresent(name -> set.put(name, "coalesce(c.zk_member, c.zk_key)"));
        set.put(table.stamp(AuditColumn.UPDATED_AT), dialect.timestamp(stamp.at()));
        set.put(table.stamp(AuditColumn.UPDATED_BY), String.valueOf(stamp.load()));
        String on = isMoved(lookup, why) + " and c.zk_grain = " + table.grainText(dialect, "t");
        return Change.of(
                new TableChange.Rewrite(
                        Step.caption(why + ", lookup " + lookup.lookup().role(), "These facts get their key."),
                        target,
                        new Matching(MOVED, on),
                        set),
                isAny(lookup, why));
    }
}
