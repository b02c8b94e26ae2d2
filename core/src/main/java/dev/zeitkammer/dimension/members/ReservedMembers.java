package dev.zeitkammer.dimension.members;

import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.DefinitionException;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Dimension.Kind;
import dev.zeitkammer.definition.Problem;
import dev.zeitkammer.definition.ReservedMember;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.dimension.table.DimensionColumn;
import dev.zeitkammer.dimension.table.DimensionColumn.Role;
import dev.zeitkammer.dimension.table.DimensionTable;
import dev.zeitkammer.dimension.table.Moments;
import dev.zeitkammer.dimension.table.RowOrigin;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.TableChange;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.step.Change;
import dev.zeitkammer.step.Flag;
import dev.zeitkammer.step.RowValidation;
import dev.zeitkammer.step.Stamp;
import dev.zeitkammer.step.Step;
import java.util.ArrayList;
import java.util.EnumMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
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
                where r.${key} not in (select ${key} from ${target} where ${is_reserved})""")
                .with("columns", columns)
                .with("members", rows)
                .with("key", key)
                .with("is_reserved", table.definition().isReserved(key))
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
                                given(column, member)
                                        .map(word -> dialect.text(cut(word.text(), column)))
                                        .orElseGet(() -> values.getOrDefault(column.role(), label(column, member))),
                                column.type())
                        + " as " + dialect.quote(column.name()))
                .collect(Collectors.joining(", ", "  select ", ""));
    }

    private String flag(AuditColumn audit, String condition) {
        return table.conventions().flag(audit).stored(warehouse.dialect(), condition);
    }

    private static Optional<Word> given(DimensionColumn column, ReservedMember member) {
        return member.values().entrySet().stream()
                .filter(each -> each.getKey().equalsIgnoreCase(column.name()))
                .map(Map.Entry::getValue)
                .findFirst();
    }

    private String label(DimensionColumn column, ReservedMember member) {
        return column.isLookedUp()
                ? String.valueOf(pointedAt(column, member))
                : labelled(column, member)
                        .map(text -> warehouse.dialect().text(cut(text, column)))
                        .orElse("null");
    }

    /** What a column of texts holds where the definition gives nothing for it; business keys hold nothing. */
    private Optional<String> labelled(DimensionColumn column, ReservedMember member) {
        boolean isNatural = column.role() == Role.KEY && table.definition().kind() != Kind.COMBINATION;
        boolean isLabelled = !isNatural && !column.isOwn() && column.type().isText();
        return isLabelled ? Optional.of(member.label()) : Optional.empty();
    }

    /** The member of the same name in the dimension that is looked up, or the unknown one there. */
    private long pointedAt(DimensionColumn column, ReservedMember member) {
        Dimension above = table.definition().lookups().stream()
                .filter(lookup -> lookup.column().equalsIgnoreCase(column.name()))
                .map(lookup -> lookup.lookup().dimension())
                .findFirst()
                .orElseThrow();
        return above.reserved(member.name())
                .or(() -> above.reserved(ReservedMember.UNKNOWN))
                .orElseThrow()
                .key();
    }

    /** As much of a text as the column takes; where the engine keeps no lengths, all of it. */
    private String cut(String text, DimensionColumn column) {
        int length = warehouse.dialect().stored(column.type()).length();
        return length == 0 || length >= text.length() ? text : text.substring(0, length);
    }

    /**
     * Refuses what is given for a column that cannot hold it.
     *
     * @throws DefinitionException with the place of each
     */
    public void refuseWhatDoesNotFit() {
        List<Problem> problems = new ArrayList<>();
        for (ReservedMember member : table.definition().reserved()) {
            for (DimensionColumn column : table.columns()) {
                given(column, member)
                        .filter(word -> !fits(word, column.type()))
                        .ifPresent(word -> problems.add(new Problem(
                                word.place(),
                                "\"" + word + "\" is given for " + column.name() + " of the reserved member \""
                                        + member.name() + "\", and " + column.name() + " is " + column.type())));
            }
        }
        if (!problems.isEmpty()) {
            throw new DefinitionException(problems.stream().sorted().toList());
        }
    }

    /** A row with the business key of a reserved member says nothing of a member, and what stands there is not touched: it is set aside. */
    public List<Step> settingAside() {
        if (!mayBeNamed()) {
            return List.of();
        }
        Dialect dialect = warehouse.dialect();
        String reserved = "select 1 from " + warehouse.table(table.definition().table()) + " as t where "
                + table.definition().isReserved(dialect.column("t", table.name(Role.SURROGATE)));
        String query = Sql.of("""
                select d.zk_row, 'setAside', 'reserved member', ${key_names}, ${key_text}
                from (${taking}) as d
                where exists (${reserved} and ${same_key})""")
                .with("key_names", dialect.text(String.join(", ", table.keys())))
                .with(
                        "key_text",
                        table.keys().stream()
                                .map(key -> dialect.asText(dialect.column("d", key)))
                                .collect(Collectors.joining(" || ', ' || ")))
                .with("taking", RowValidation.takingRows(dialect))
                .with("reserved", reserved)
                .with("same_key", dialect.allEqual(table.keys(), "t", "d"))
                .text();
        String named = table.keys().stream()
                .map(key -> " and " + dialect.column("t", key) + " is not null")
                .collect(Collectors.joining());
        return List.of(new Step.Append(
                Step.caption(
                        "rows of reserved members", "Rows with the business key of a reserved member are set aside."),
                RowValidation.OUT,
                query,
                Optional.of(Flag.exists(reserved + named))));
    }

    /** Whether one can have a business key: others gave it one, or the definition does. */
    private boolean mayBeNamed() {
        return table.definition().kind() == Kind.MEMBERS
                && (table.conventions().standing()
                        || table.definition().reserved().stream()
                                .anyMatch(member -> table.keys().stream().anyMatch(member::gives)));
    }

    /**
     * Refuses a column of a table that others made, which is never null and which the reserved members that are missing have nothing
     * for.
     *
     * @throws DefinitionException which says what to write
     */
    public void refuseGaps() {
        Set<String> required = new TreeSet<>(String.CASE_INSENSITIVE_ORDER);
        required.addAll(warehouse.required(table.definition().table()));
        for (DimensionColumn column : table.columns()) {
            if (column.isOwn() || !required.contains(column.name())) {
                continue;
            }
            List<String> gaps = table.definition().reserved().stream()
                    .filter(member -> given(column, member).isEmpty()
                            && labelled(column, member).isEmpty())
                    .filter(member -> isMissing(member.key()))
                    .map(ReservedMember::name)
                    .toList();
            if (!gaps.isEmpty()) {
                throw new DefinitionException(
                        table.definition().name().place(),
                        column.name() + " of " + table.definition().table()
                                + " is never null, and the reserved members that are put in have nothing for it; give them"
                                + " values that no member has: reserved: {"
                                + gaps.stream()
                                        .map(name -> name + ": {" + column.name() + ": …}")
                                        .collect(Collectors.joining(", "))
                                + "}, or let it be null there");
            }
        }
    }

    private boolean isMissing(long key) {
        return warehouse.number("select count(*) from "
                        + warehouse.table(table.definition().table()) + " where "
                        + warehouse.dialect().quote(table.name(Role.SURROGATE)) + " = " + key)
                == 0;
    }

    private boolean fits(Word given, SqlType type) {
        Dialect beside = warehouse.stager().dialect();
        return type.isText()
                || warehouse.stager().number("select count(" + beside.tryCast(beside.text(given.text()), type) + ")")
                        > 0;
    }

    /** Statements that complete the texts of reserved members which the program had cut, once their columns have got longer. */
    public List<String> completing(List<Column> before) {
        Dialect dialect = warehouse.dialect();
        List<String> statements = new ArrayList<>();
        for (DimensionColumn column : table.columns()) {
            Optional<Integer> length = before.stream()
                    .filter(was -> was.name().equalsIgnoreCase(column.name()))
                    .map(was -> was.type().length())
                    .filter(was -> was > 0
                            && (column.type().length() == 0 || column.type().length() > was))
                    .findFirst();
            for (ReservedMember member : table.definition().reserved()) {
                Optional<String> text = given(column, member).map(Word::text).or(() -> labelled(column, member));
                if (length.isPresent() && text.isPresent() && text.get().length() > length.get()) {
                    String cut = Sql.of("""
                            (select ${key} as zk_key from ${target}
                              where ${key} = ${reserved} and ${inserted_by} > 0 and ${column} = ${cut})""")
                            .with("key", dialect.quote(table.name(Role.SURROGATE)))
                            .with("target", warehouse.table(table.definition().table()))
                            .with("reserved", member.key())
                            .with("inserted_by", dialect.quote(table.name(Role.INSERTED_BY)))
                            .with("column", dialect.quote(column.name()))
                            .with("cut", dialect.text(text.get().substring(0, length.get())))
                            .text();
                    statements.add(dialect.rewrite(
                            warehouse.table(table.definition().table()),
                            cut,
                            dialect.column("t", table.name(Role.SURROGATE)) + " = c.zk_key",
                            Map.of(column.name(), dialect.text(cut(text.get(), column)))));
                }
            }
        }
        return statements;
    }
}
