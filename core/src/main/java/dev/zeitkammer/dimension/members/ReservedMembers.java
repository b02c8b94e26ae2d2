package dev.zeitkammer.dimension.members;

import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Dimension.Kind;
import dev.zeitkammer.definition.ReservedMember;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.dimension.table.DimensionColumn;
import dev.zeitkammer.dimension.table.DimensionColumn.Role;
import dev.zeitkammer.dimension.table.DimensionTable;
import dev.zeitkammer.dimension.table.Moments;
import dev.zeitkammer.dimension.table.RowOrigin;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.TableChange;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.step.Change;
import dev.zeitkammer.step.Flag;
import dev.zeitkammer.step.Stamp;
import dev.zeitkammer.step.Step;
import java.util.EnumMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/** The stand-in members that facts use when nothing matches; they are there before the first load and match no value. */
public final class ReservedMembers {

    private final DimensionTable table;
    private final Warehouse warehouse;
    private final Stamp stamp;

    public ReservedMembers(DimensionTable table, Warehouse warehouse, Stamp stamp) {
        this.table = table;
        this.warehouse = warehouse;
        this.stamp = stamp;
    }

    /** Puts in those that are missing; in a hierarchy, nobody stands above them. */
    public List<Change<TableChange>> changes() {
        Dialect dialect = warehouse.dialect();
        String target = warehouse.table(table.definition().table());
        String key = dialect.quote(table.name(Role.SURROGATE));
        String columns = dialect.list(table.columns(), column -> dialect.quote(column.name()));
        List<ReservedMember> members = table.definition().reserved();
        String rows = members.stream().map(this::member).collect(Collectors.joining("\n  union all\n"));
        String keys = dialect.list(members, member -> String.valueOf(member.key()));
        String query = Sql.of("""
                select ${columns}
                from (
                ${members}
                ) as r
                where r.${key} not in (select ${key} from ${target} where ${key} < 0)""")
                .with("columns", columns)
                .with("members", rows)
                .with("key", key)
                .with("target", target)
                .text();
        Flag missing = new Flag(
                "(select count(*) from " + target + " where " + key + " in (" + keys + ")) < " + members.size());
        TableChange insert = new TableChange.Insert(
                Step.caption(
                        "reserved members",
                        "The stand-in members ("
                                + members.stream()
                                        .map(member -> member.key() + " " + member.name())
                                        .collect(Collectors.joining(", "))
                                + ") are put in where they are missing."),
                target,
                table.columns().stream().map(DimensionColumn::name).toList(),
                query);
        Dimension dimension = table.definition();
        Optional<TableChange> bridge = dimension
                .hierarchy()
                .map(parent -> HierarchyBridge.alone(
                        dimension,
                        warehouse,
                        target + " where " + key + " in (" + keys + ") and " + key + " not in (select "
                                + HierarchyBridge.DESCENDANT + " from " + warehouse.table(dimension.bridgeTable())
                                + ")",
                        key));
        return Stream.concat(Stream.of(insert), bridge.stream())
                .map(change -> Change.of(change, missing))
                .toList();
    }

    private String member(ReservedMember member) {
        long key = member.key();
        Dialect dialect = warehouse.dialect();
        Moments moments = new Moments(table, dialect);
        Map<Role, String> values = new EnumMap<>(Role.class);
        values.put(Role.SURROGATE, String.valueOf(key));
        values.put(Role.VALID_FROM, moments.always());
        values.put(Role.VALID_TO, moments.openEnd());
        values.put(Role.MEMBER_KEY, String.valueOf(key));
        values.put(Role.IS_CURRENT, flag(AuditColumn.IS_CURRENT, "true"));
        values.put(Role.VERSION, "1");
        values.put(Role.LAST_STATED, moments.always());
        values.put(Role.IS_DELETED, flag(AuditColumn.IS_DELETED, "false"));
        values.put(Role.ROW_ORIGIN, dialect.text(RowOrigin.RESERVED.word()));
        values.put(Role.INSERTED_AT, dialect.timestamp(stamp.at()));
        values.put(Role.UPDATED_AT, dialect.timestamp(stamp.at()));
        values.put(Role.INSERTED_BY, String.valueOf(stamp.load()));
        values.put(Role.UPDATED_BY, String.valueOf(stamp.load()));
        return table.columns().stream()
                .map(column -> dialect.cast(
                                given(column, member.values())
                                        .orElseGet(() ->
                                                values.getOrDefault(column.role(), label(column, key, member.label()))),
                                column.type())
                        + " as " + dialect.quote(column.name()))
                .collect(Collectors.joining(", ", "  select ", ""));
    }

    private String flag(AuditColumn audit, String condition) {
        return table.conventions().flag(audit).stored(warehouse.dialect(), condition);
    }

    private Optional<String> given(DimensionColumn column, Map<String, Word> given) {
        return given.entrySet().stream()
                .filter(each -> each.getKey().equalsIgnoreCase(column.name()))
                .map(each -> warehouse.dialect().text(each.getValue().text()))
                .findFirst();
    }

    private String label(DimensionColumn column, long key, String text) {
        if (column.isLookedUp()) {
            return String.valueOf(key);
        }
        boolean isNatural = column.role() == Role.KEY && table.definition().kind() != Kind.COMBINATION;
        if (isNatural || !column.type().isText()) {
            return "null";
        }
        int length = column.type().length();
        return warehouse.dialect().text(length == 0 || length >= text.length() ? text : text.substring(0, length));
    }
}
