package dev.zeitkammer.staging;

import dev.zeitkammer.definition.DefinitionException;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Input.Joined;
import dev.zeitkammer.definition.Input.Match;
import dev.zeitkammer.definition.Nearest;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Counted;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Stager;
import dev.zeitkammer.staging.StagedRows.Waits;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/**
 * The rows of one input, each with the columns of its partners in others. A row keeps the place at which it stands in the
 * first input. Where two inputs have a column of one name, that of the later one is called {@code <input>_<column>}.
 */
final class JoinedRows extends Source {

    /** The number of the row in the first input. */
    private static final String FROM = "zk_from";

    private final Input input;
    private final Input.Join join;
    private final List<Source> parts;
    private final Stager stager;
    private final Staging staging;
    private final List<ComputedKeys> computed;
    private final Map<String, Origin> columns = new LinkedHashMap<>();
    private final List<StagedRows> staged = new ArrayList<>();
    private final List<String> notes = new ArrayList<>();
    private final Map<Long, String> alone = new TreeMap<>();
    private final Map<Long, String> waits = new TreeMap<>();
    private @Nullable List<WaitingRow> waiting;

    /** The input, by its number in the join, and the column of it that a column of the join is. */
    private record Origin(int part, String column) {}

    JoinedRows(Input input, Input.Join join, List<Source> parts, Stager stager, Staging staging) {
        this.input = input;
        this.join = join;
        this.parts = parts;
        this.stager = stager;
        this.staging = staging;
        this.computed = ComputedKeys.of(join, parts, stager);
        for (int part = 0; part < parts.size(); part++) {
            for (String column : parts.get(part).header()) {
                if (!isMatched(part, column)) {
                    columns.put(name(part, column), new Origin(part, column));
                }
            }
        }
        join.with()
                .forEach(joined -> joined.by().forEach(match -> {
                    compared(match.earlier(), match.column());
                    compared(joined.input(), match.joinedColumn());
                }));
    }

    /** The column of an input that a match compares: its own, or the one of what is computed of a row. */
    private String compared(Input of, Word key) {
        ComputedKeys keys = computed.get(number(of));
        return keys.holds(key) ? keys.column(key) : matched(of, key);
    }

    private SqlType type(Input of, Word key) {
        int part = number(of);
        return computed.get(part).holds(key)
                ? computed.get(part).type(key, relation(part))
                : staged.get(part).type(matched(of, key)).orElse(SqlType.VARCHAR);
    }

    private String shown(Input of, Word key) {
        return computed.get(number(of)).holds(key) ? key.text() : of.name() + "." + matched(of, key);
    }

    /** A joined column of the same name as the one it equals is there once. */
    private boolean isMatched(int part, String column) {
        return part > 0
                && join.with().get(part - 1).by().stream()
                        .anyMatch(match -> match.joinedColumn().text().equalsIgnoreCase(column)
                                && match.column().text().equalsIgnoreCase(column));
    }

    private String name(int part, String column) {
        boolean taken = columns.keySet().stream().anyMatch(column::equalsIgnoreCase);
        return taken ? parts.get(part).input().name() + "_" + column : column;
    }

    private String matched(Input of, Word column) {
        Source part = parts.get(number(of));
        return part.column(column.text())
                .orElseThrow(() -> new DefinitionException(
                        column.place(),
                        "the join needs the column \"" + column + "\" of \"" + of.name() + "\", and " + part.shown()
                                + " has no such column; " + Nearest.hint(column.text(), part.header())));
    }

    private int number(Input of) {
        return parts.stream().map(Source::input).toList().indexOf(of);
    }

    @Override
    public Input input() {
        return input;
    }

    @Override
    public List<String> header() {
        return List.copyOf(columns.keySet());
    }

    @Override
    public String shown() {
        return parts.stream().map(Source::shown).collect(Collectors.joining(" joined with "));
    }

    @Override
    public boolean isDelivered() {
        return parts.get(0).isDelivered();
    }

    @Override
    boolean holds(String file) {
        return parts.stream().anyMatch(part -> part.holds(file));
    }

    @Override
    public RowForm form(String file) {
        return parts.stream()
                .filter(part -> part.holds(file))
                .findFirst()
                .orElse(parts.get(0))
                .form(file);
    }

    @Override
    Optional<SqlType> type(String column) {
        Origin origin = columns.get(column);
        return staged.isEmpty() ? Optional.empty() : staged.get(origin.part()).type(origin.column());
    }

    @Override
    List<String> extras() {
        return List.of(FROM);
    }

    @Override
    boolean knowsBadValues() {
        return true;
    }

    @Override
    String query(Map<String, Optional<SqlType>> wanted, Earlier earlier) {
        staged.clear();
        for (int part = 0; part < parts.size(); part++) {
            staged.add(stage(part, wanted, earlier));
        }
        Dialect dialect = stager.dialect();
        String values = wanted.keySet().stream()
                .map(name -> dialect.column(
                                alias(columns.get(name).part()),
                                columns.get(name).column()) + " as " + dialect.quote(name) + ", ")
                .collect(Collectors.joining());
        String query = "select " + values
                + "p0.zk_file, p0.zk_row as zk_from, " + computed.get(0).bad("p0") + " as zk_was_bad_column,"
                + " p0.zk_bad_text as zk_was_bad_text\nfrom " + rows(0) + " as p0" + partners("left join")
                + inner();
        withoutPartner();
        for (int part = 1; part < parts.size(); part++) {
            computed.get(part).notComputed(relation(part)).ifPresent(notes::add);
        }
        return query;
    }

    private String partners(String kind) {
        return join.with().stream().map(joined -> partner(joined, kind)).collect(Collectors.joining());
    }

    private String partner(Joined joined, String kind) {
        int part = number(joined.input());
        String on = joined.by().stream()
                .map(match -> equation(match, joined.input(), part))
                .collect(Collectors.joining(" and "));
        return "\n" + kind + " " + rows(part) + " as " + alias(part) + " on " + on;
    }

    private String equation(Match match, Input later, int part) {
        SqlType left = type(match.earlier(), match.column());
        SqlType right = type(later, match.joinedColumn());
        if (left.isText() != right.isText()) {
            throw new DefinitionException(
                    match.column().place(),
                    "cannot join " + shown(match.earlier(), match.column()) + " (" + left + ") with "
                            + shown(later, match.joinedColumn()) + " (" + right
                            + "); list the same type under columns: in both inputs");
        }
        Dialect dialect = stager.dialect();
        return dialect.column(alias(number(match.earlier())), compared(match.earlier(), match.column())) + " = "
                + dialect.column(alias(part), compared(later, match.joinedColumn()));
    }

    /** Rows without a partner are left out where there must be one, but for those whose own values are bad. */
    private String inner() {
        String needed = join.with().stream()
                .filter(joined -> !joined.optional())
                .map(joined -> alias(number(joined.input())) + ".zk_row is not null")
                .collect(Collectors.joining(" and "));
        return needed.isEmpty() ? "" : "\nwhere " + computed.get(0).bad("p0") + " is not null or (" + needed + ")";
    }

    /** Rows of the first input that lack a partner they need, each with the first input in which it is missing. */
    private void withoutPartner() {
        notes.clear();
        alone.clear();
        waits.clear();
        waiting = null;
        Set<Long> leftOut = new HashSet<>();
        for (Joined joined : join.with()) {
            if (joined.optional()) {
                continue;
            }
            Map<Long, Boolean> blank = lacking(joined);
            Set<Long> rows = blank.keySet();
            String lacking = joined.input().name().text();
            switch (joined.withoutPartner()) {
                case SET_ASIDE -> rows.forEach(row -> alone.putIfAbsent(row, lacking));
                case WAIT -> blank.forEach((row, isBlank) -> (isBlank ? alone : waits).putIfAbsent(row, lacking));
                case LEAVE_OUT -> {
                    leftOut.addAll(rows);
                    noteLeftOut(rows.size(), lacking);
                }
            }
        }
        alone.keySet().removeAll(leftOut);
        waits.keySet().removeAll(leftOut);
        waits.keySet().removeAll(alone.keySet());
    }

    /** The rows of the first input that lack a partner in another one, and whether they name none: nobody can come for a null. */
    private Map<Long, Boolean> lacking(Joined joined) {
        Dialect dialect = stager.dialect();
        String blank = joined.by().stream()
                .map(match -> {
                    String earlier = alias(number(match.earlier()));
                    return earlier + ".zk_row is not null and "
                            + dialect.column(earlier, compared(match.earlier(), match.column())) + " is null";
                })
                .collect(Collectors.joining(" or "));
        Map<Long, Boolean> rows = new LinkedHashMap<>();
        stager.query(
                "select p0.zk_row, min(case when " + blank + " then 1 else 0 end) from " + rows(0) + " as p0"
                        + partners("left join") + "\nwhere " + computed.get(0).bad("p0") + " is null and "
                        + alias(number(joined.input())) + ".zk_row is null group by p0.zk_row order by 1",
                row -> rows.put(row.number(1), row.number(2) > 0));
        return rows;
    }

    private void noteLeftOut(int rows, String lacking) {
        if (rows > 0) {
            notes.add(Counted.rowsHave(rows) + " no partner in " + lacking + " and " + (rows == 1 ? "is" : "are")
                    + " left out of " + join.from().name());
        }
    }

    private List<Unusable> setAside() {
        return alone.isEmpty()
                ? List.of()
                : Locator.locate(staged.get(0), relation(0), alone.keySet()).stream()
                        .map(place -> new Unusable(
                                WaitingRow.NO_PARTNER,
                                alone.get(place.row()),
                                null,
                                place.file(),
                                place.line(),
                                place.text()))
                        .toList();
    }

    @Override
    String rowNumber() {
        return staged.get(0).hasWaited()
                ? "case when " + WaitingRow.hasWaited(FROM) + " then " + WaitingRow.joined(FROM, "rowid")
                        + " else rowid end"
                : "rowid";
    }

    @Override
    List<WaitingRow> waited() {
        return staged.get(0).waited();
    }

    /** Found once: for each row its place in its file is looked for. */
    @Override
    List<WaitingRow> waiting() {
        if (waiting == null) {
            Map<Long, Waits> reasons = new TreeMap<>();
            waits.forEach((row, lacking) -> reasons.put(row, new Waits(WaitingRow.NO_PARTNER, lacking, null)));
            waiting = staged.get(0).waiting(reasons, relation(0));
        }
        return waiting;
    }

    private static String alias(int part) {
        return "p" + part;
    }

    private String relation(int part) {
        return Staging.relationOf(parts.get(part).input());
    }

    /** The rows of an input for which its condition holds; of the joined ones only those without a bad value. */
    private String rows(int part) {
        String where = parts.get(part).input().where().map(Word::text).orElse("true");
        if (part == 0) {
            return computed.get(0)
                    .beside("(select * from " + relation(part) + " where (" + where
                            + ") or (zk_bad_column is not null and (" + where + ") is null))");
        }
        String rows = "(select * from " + relation(part) + " where zk_bad_column is null and (" + where + "))";
        return computed.get(part).isAny()
                ? "(select * from " + computed.get(part).beside(rows) + " as s where zk_by_bad is null)"
                : rows;
    }

    /** What is new in the first input is what is new in the join; its rows that lacked a partner are staged with it. */
    private Earlier ofFirst(Earlier earlier) {
        String mark = earlier.marks().get(input.name().text());
        Map<String, String> marks =
                mark == null ? earlier.marks() : Map.of(join.from().name().text(), mark);
        return earlier.with(marks).inside(input.name().text());
    }

    private StagedRows stage(int part, Map<String, Optional<SqlType>> wanted, Earlier earlier) {
        Source source = parts.get(part);
        Wanted needed = new Wanted(source);
        wanted.forEach((name, type) -> {
            if (columns.get(name).part() == part) {
                needed.column(columns.get(name).column(), type);
            }
        });
        join.with()
                .forEach(joined -> joined.by().forEach(match -> {
                    ComputedKeys keys = computed.get(part);
                    if (number(match.earlier()) == part && !keys.holds(match.column())) {
                        needed.column(matched(match.earlier(), match.column()), Optional.empty());
                    }
                    if (number(joined.input()) == part && !keys.holds(match.joinedColumn())) {
                        needed.column(matched(joined.input(), match.joinedColumn()), Optional.empty());
                    }
                }));
        computed.get(part).want(needed);
        source.input().where().ifPresent(needed::expression);
        return staging.stage(source, needed, part == 0 ? ofFirst(earlier) : earlier.withoutWaiting(), relation(part));
    }

    @Override
    List<Unusable> unusable(String relation) {
        List<Unusable> unusable = new ArrayList<>(staged.get(0).unusable());
        unusable.addAll(setAside());
        staged.subList(1, staged.size()).forEach(part -> unusable.addAll(TypedRows.lost(part)));
        return unusable;
    }

    @Override
    List<String> notes(String relation) {
        List<String> all = new ArrayList<>();
        staged.forEach(part -> all.addAll(part.notes()));
        all.addAll(notes);
        return all;
    }

    @Override
    List<String> statements() {
        return staged.stream().flatMap(part -> part.statements().stream()).toList();
    }

    @Override
    Map<String, Map<String, SqlType>> inferred() {
        Map<String, Map<String, SqlType>> inferred = new HashMap<>();
        staged.forEach(part -> inferred.putAll(part.inferred()));
        return inferred;
    }

    @Override
    List<Locator.Located> locate(String relation, Collection<Long> rows) {
        return TypedRows.located(stager, relation, FROM, rows, staged.get(0), relation(0));
    }
}
