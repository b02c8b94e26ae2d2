package dev.zeitkammer.verify;

import dev.zeitkammer.definition.Conventions;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Dimension.Kind;
import dev.zeitkammer.definition.Housekeeping;
import dev.zeitkammer.definition.MemberLookup;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import java.util.ArrayList;
import java.util.List;

/** What must hold for a dimension. */
final class DimensionProofs {

    private final Dimension dimension;
    private final Conventions conventions;
    private final Warehouse warehouse;
    private final Dialect dialect;
    private final String table;
    private final String key;
    private final List<String> members;

    DimensionProofs(Dimension dimension, Conventions conventions, Warehouse warehouse) {
        this.dimension = dimension;
        this.conventions = conventions;
        this.warehouse = warehouse;
        this.dialect = warehouse.dialect();
        this.table = warehouse.table(dimension.table());
        this.key = dialect.quote(dimension.keyColumn());
        this.members = dimension.key().stream().map(Word::text).toList();
    }

    List<Proof> all() {
        List<Proof> proofs = new ArrayList<>();
        proofs.add(new Proof(
                "surrogate keys are unique and never null",
                "select %s, count(*) as times from %s group by 1 having count(*) > 1 or %s is null"
                        .formatted(key, table, key)));
        proofs.add(new Proof(
                "the reserved members are there",
                "select r.k as missing_key from (select %d as k union all select %d) as r where r.k not in (select %s from %s)"
                        .formatted(conventions.unknown(), conventions.notApplicable(), key, table)));
        if (dimension.kind() != Kind.COMBINATION) {
            proofs.add(new Proof(
                    "only reserved members have no business key",
                    "select * from %s where %s and (%s)".formatted(table, ofMembers(), anyKeyNull())));
        }
        proofs.add(oneCurrentRow());
        if (dimension.hasHistory()) {
            proofs.addAll(versions());
        }
        dimension.lookups().forEach(lookup -> proofs.add(pointsAtMember(lookup)));
        return proofs;
    }

    private Proof pointsAtMember(MemberLookup lookup) {
        Dimension other = lookup.lookup().dimension();
        return new Proof(
                lookup.column() + " is in " + other.table(),
                "select t.%s, %s from %s as t where not exists (select 1 from %s as d where d.%s = %s)"
                        .formatted(
                                key,
                                dialect.column("t", lookup.column()),
                                table,
                                warehouse.table(other.table()),
                                dialect.quote(other.keyColumn()),
                                dialect.column("t", lookup.column())));
    }

    private String ofMembers() {
        return column(Housekeeping.ROW_ORIGIN) + " <> 'reserved'";
    }

    private String column(Housekeeping housekeeping) {
        return dialect.quote(conventions.column(housekeeping));
    }

    private String anyKeyNull() {
        return String.join(
                " or ",
                members.stream().map(name -> dialect.quote(name) + " is null").toList());
    }

    private Proof oneCurrentRow() {
        String current = dimension.hasHistory()
                ? "count(case when " + column(Housekeeping.IS_CURRENT) + " then 1 end)"
                : "count(*)";
        return new Proof(
                "a member has exactly one current row",
                "select %s, %s as current_rows from %s where %s group by %s having %s <> 1"
                        .formatted(
                                dialect.columns(members),
                                current,
                                table,
                                ofMembers(),
                                dialect.columns(members),
                                current));
    }

    private List<Proof> versions() {
        String current = column(Housekeeping.IS_CURRENT);
        return List.of(
                new Proof("the current version is the newest", ofSequence(current + " <> (zk_next is null)")),
                new Proof("versions do not overlap", ofSequence("zk_ended > zk_next")),
                new Proof(
                        "versions end after they begin", ofSequence("zk_ended <= " + column(Housekeeping.VALID_FROM))),
                new Proof(
                        "gaps follow a deletion only",
                        ofSequence("zk_ended < zk_next and not " + column(Housekeeping.IS_DELETED))),
                new Proof(
                        "the newest version is open, or its member is deleted",
                        ofSequence("zk_next is null and " + column(Housekeeping.IS_DELETED) + " = " + isOpen())),
                new Proof(
                        "versions are numbered 1 to n in order",
                        ofSequence(column(Housekeeping.VERSION) + " is distinct from zk_place")));
    }

    private String isOpen() {
        String to = column(Housekeeping.VALID_TO);
        return conventions
                .openEnd()
                .map(end -> "(" + to + " = " + dialect.date(end) + ")")
                .orElse("(" + to + " is null)");
    }

    /** The versions for which a condition holds; they know when they end, and when the member's next one begins. */
    private String ofSequence(String condition) {
        String to = column(Housekeeping.VALID_TO);
        String ended = conventions.inclusive() ? dialect.nextMoment(to, SqlType.DATE) : to;
        String stillOpen =
                conventions.openEnd().map(end -> to + " = " + dialect.date(end)).orElse("false");
        return """
                select %s, %s, %s, %s, %s, %s, %s
                from (
                  select *,
                    case when %s then null else %s end as zk_ended,
                    lead(%s) over member as zk_next,
                    row_number() over member as zk_place
                  from %s
                  where %s
                  window member as (partition by %s order by %s)
                ) as sequence
                where %s""".formatted(
                        key,
                        dialect.columns(members),
                        column(Housekeeping.VALID_FROM),
                        to,
                        column(Housekeeping.IS_CURRENT),
                        column(Housekeeping.VERSION),
                        column(Housekeeping.IS_DELETED),
                        stillOpen,
                        ended,
                        column(Housekeeping.VALID_FROM),
                        table,
                        ofMembers(),
                        dialect.columns(members),
                        column(Housekeeping.VALID_FROM),
                        condition);
    }
}
