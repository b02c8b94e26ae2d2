package dev.zeitkammer.verify;

import dev.zeitkammer.calendar.CalendarLoad;
import dev.zeitkammer.calendar.MinutesLoad;
import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.ChangeType;
import dev.zeitkammer.definition.Conventions;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Dimension.Kind;
import dev.zeitkammer.definition.MemberLookup;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.dimension.members.HierarchyBridge;
import dev.zeitkammer.dimension.table.StandingVersions;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;

/** What must hold for a dimension. */
final class DimensionProofs {

    private final Dimension dimension;
    private final Conventions conventions;
    private final Warehouse warehouse;
    private final Dialect dialect;
    private final String table;
    private final String key;
    private final List<String> members;
    private final boolean isAligned;

    DimensionProofs(Dimension dimension, Warehouse warehouse) {
        this.dimension = dimension;
        this.conventions = dimension.conventions();
        this.warehouse = warehouse;
        this.dialect = warehouse.dialect();
        List<Column> columns = warehouse.columns(dimension.table());
        this.table = new StandingVersions(dimension, warehouse).rows(columns);
        this.isAligned = Verifier.isStamped(dimension, columns);
        this.key = dialect.quote(dimension.keyColumn());
        this.members = dimension.key().stream().map(Word::text).toList();
    }

    List<Proof> all() {
        List<Proof> proofs = new ArrayList<>();
        proofs.add(new Proof(
                "surrogate keys are unique and never null",
                "select %s, count(*) as times from %s as t group by 1 having count(*) > 1 or %s is null"
                        .formatted(key, table, key)));
        if (isAligned) {
            proofs.add(new Proof(
                    "the reserved members are there",
                    "select r.k as missing_key from (%s) as r where r.k not in (select %s from %s as t)"
                            .formatted(
                                    dimension.reserved().stream()
                                            .map(member -> "select " + member.key() + " as k")
                                            .collect(Collectors.joining(" union all ")),
                                    key,
                                    table)));
        }
        if (dimension.kind() != Kind.COMBINATION) {
            proofs.add(new Proof(
                    "only reserved members have no business key",
                    "select * from %s as t where %s and (%s)".formatted(table, ofMembers(), anyKeyNull())));
        }
        proofs.add(oneCurrentRow());
        if (dimension.hasHistory()) {
            proofs.addAll(versions());
            sharedValues().ifPresent(proofs::add);
        }
        computed()
                .ifPresent(damage ->
                        proofs.add(new Proof("what is said of a " + members.get(0) + " follows from it", damage)));
        dimension.lookups().forEach(lookup -> proofs.add(pointsAtMember(lookup)));
        if (isAligned && warehouse.has(dimension.bridgeTable())) {
            HierarchyBridge.standing(dimension, warehouse)
                    .ifPresent(bridge -> proofs.add(new Proof(
                            dimension.bridgeTable() + " has every version with its ancestors", bridge.damage())));
        }
        return proofs;
    }

    private Optional<String> computed() {
        if (conventions.standing()) {
            return Optional.empty();
        }
        return switch (dimension.kind()) {
            case CALENDAR -> Optional.of(new CalendarLoad(dimension, warehouse).damage());
            case MINUTES -> Optional.of(new MinutesLoad(dimension, warehouse).damage());
            default -> Optional.empty();
        };
    }

    private Proof pointsAtMember(MemberLookup lookup) {
        Dimension other = lookup.lookup().dimension();
        return new Proof(
                lookup.column() + " is in " + other.table(),
                Sql.of(
                                "select zk_t.${key}, ${t_key} from ${table} as zk_t where not exists (select 1 from ${other} as d where d.${other_key} = ${t_key})")
                        .with("key", key)
                        .with("t_key", dialect.column("zk_t", lookup.column()))
                        .with("table", table)
                        .with("other", warehouse.table(other.table()))
                        .with("other_key", dialect.quote(other.keyColumn()))
                        .text());
    }

    private String ofMembers() {
        return column(AuditColumn.ROW_ORIGIN) + " <> 'reserved'";
    }

    private String column(AuditColumn housekeeping) {
        return dialect.quote(conventions.column(housekeeping));
    }

    private String holds(AuditColumn audit) {
        return conventions.holds(dialect, audit);
    }

    private String anyKeyNull() {
        return String.join(
                " or ",
                members.stream().map(name -> dialect.quote(name) + " is null").toList());
    }

    private Proof oneCurrentRow() {
        String current = dimension.hasHistory()
                ? "count(case when " + holds(AuditColumn.IS_CURRENT) + " then 1 end)"
                : "count(*)";
        return new Proof(
                "a member has exactly one current row",
                Sql.of(
                                "select ${members}, ${current} as current_rows from ${table} as t where ${of_members} group by ${members} having ${current} <> 1")
                        .with("members", dialect.columns(members))
                        .with("current", current)
                        .with("table", table)
                        .with("of_members", ofMembers())
                        .text());
    }

    /** What is overwritten is so in all versions of a member; versions that others made are as they made them. */
    private Optional<Proof> sharedValues() {
        List<String> shared = dimension.attributes().stream()
                .filter(attribute -> attribute.change() == ChangeType.TYPE_1)
                .map(attribute -> dialect.asText(dialect.quote(attribute.name().text())))
                .toList();
        if (shared.isEmpty() || conventions.standing() || dimension.overwritesCurrentOnly()) {
            return Optional.empty();
        }
        String differing = shared.stream()
                .map(text -> "min(" + text + ") <> max(" + text + ") or count(" + text + ") not in (0, count(*))")
                .collect(Collectors.joining(" or "));
        return Optional.of(new Proof(
                "values of type 1 are the same in all versions of a member",
                "select %s, count(*) as versions from %s as t where %s group by %s having %s"
                        .formatted(dialect.columns(members), table, ofMembers(), dialect.columns(members), differing)));
    }

    /** What must hold of versions that others made, for a load to go on with them. */
    List<Proof> goingOn() {
        return dimension.hasHistory()
                ? List.of(
                        new Proof("a version has a beginning", ofSequence(column(AuditColumn.VALID_FROM) + " is null")),
                        newestIsCurrent(),
                        noOverlap())
                : List.of();
    }

    private Proof newestIsCurrent() {
        return new Proof(
                "the current version is the newest",
                ofSequence(holds(AuditColumn.IS_CURRENT) + " <> (zk_next is null)"));
    }

    private Proof noOverlap() {
        return new Proof("versions do not overlap", ofSequence("zk_ended > zk_next"));
    }

    private List<Proof> versions() {
        return List.of(
                newestIsCurrent(),
                noOverlap(),
                new Proof("versions end after they begin", ofSequence("zk_ended <= " + column(AuditColumn.VALID_FROM))),
                new Proof(
                        "gaps follow a deletion only",
                        ofSequence("zk_ended < zk_next and not " + holds(AuditColumn.IS_DELETED))),
                new Proof(
                        "the newest version is open, or its member is deleted",
                        ofSequence("zk_next is null and " + holds(AuditColumn.IS_DELETED) + " = " + isOpen())),
                new Proof(
                        "versions are numbered 1 to n in order",
                        ofSequence(dialect.differs(column(AuditColumn.VERSION), "zk_place"))));
    }

    private String isOpen() {
        String to = column(AuditColumn.VALID_TO);
        return conventions
                .openEnd()
                .map(end -> "(" + to + " = " + dialect.date(end) + ")")
                .orElse("(" + to + " is null)");
    }

    /** The versions for which a condition holds; they know when they end, and when the member's next one begins. */
    private String ofSequence(String condition) {
        String to = column(AuditColumn.VALID_TO);
        String ended = conventions.inclusive() ? dialect.nextMoment(to, SqlType.DATE) : to;
        String stillOpen =
                conventions.openEnd().map(end -> to + " = " + dialect.date(end)).orElse("false");
        return Sql.of("""
                select ${key}, ${members}, ${valid_from}, ${to}, ${is_current}, ${version}, ${is_deleted}
                from (
                  select *,
                    case when ${still_open} then null else ${ended} end as zk_ended,
                    lead(${valid_from}) over member as zk_next,
                    row_number() over member as zk_place
                  from ${table} as t
                  where ${of_members}
                  window member as (partition by ${members} order by ${valid_from})
                ) as sequence
                where ${condition}""")
                .with("key", key)
                .with("members", dialect.columns(members))
                .with("valid_from", column(AuditColumn.VALID_FROM))
                .with("to", to)
                .with("is_current", column(AuditColumn.IS_CURRENT))
                .with("version", column(AuditColumn.VERSION))
                .with("is_deleted", column(AuditColumn.IS_DELETED))
                .with("still_open", stillOpen)
                .with("ended", ended)
                .with("table", table)
                .with("of_members", ofMembers())
                .with("condition", condition)
                .text();
    }
}
