package dev.zeitkammer.adopt;

import dev.zeitkammer.adopt.StandingTable.Held;
import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.engine.Counted;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.SqlType;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.EnumMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** What a dimension that others made looks like: its keys, how its versions end, its audit columns, its attributes. */
final class StandingDimension {

    private static final LocalDate FIRST_OPEN_END = LocalDate.of(2070, 1, 1);
    private static final int FLAG_VALUES = 2;
    private static final int MOST_PAIRED = 12;

    private final StandingTable table;
    private final Dialect dialect;
    private final Map<AuditColumn, Found> audit = new EnumMap<>(AuditColumn.class);
    private final List<String> key = new ArrayList<>();
    private String surrogate = "";
    private String openEnd = "";
    private long touching;
    private long adjacent;
    private long ended;

    /**
     * A column that is an audit column.
     *
     * @param yes the value that says yes, where it is one that says yes or no
     * @param why what tells so
     */
    record Found(
            String column, @Nullable String yes, @Nullable String no, String why) {}

    /** An attribute, and whether its values differ between versions of a member. */
    record Attribute(Held column, boolean isVersioned, String why) {}

    StandingDimension(StandingTable table) {
        this.table = table;
        this.dialect = table.dialect();
    }

    /** Looks at the table; whatever does not show itself stays unknown. */
    StandingDimension look() {
        surrogate = surrogateKey();
        validity();
        businessKey();
        if (hasVersions() && !key.isEmpty()) {
            endsOfVersions();
            current();
            versionNumber();
        }
        deleted();
        stamp(AuditColumn.INSERTED_AT, Likeness.INSERTED);
        stamp(AuditColumn.UPDATED_AT, Likeness.UPDATED);
        return this;
    }

    String surrogate() {
        return surrogate;
    }

    List<String> key() {
        return List.copyOf(key);
    }

    Map<AuditColumn, Found> audit() {
        return audit;
    }

    boolean hasVersions() {
        return audit.containsKey(AuditColumn.VALID_FROM);
    }

    /** Whether the least key is 0: keys that a database counts begin at 1, so that 0 is likely put in for nobody. */
    boolean hasReservedZero() {
        return table.column(surrogate)
                .filter(column -> "0".equals(column.least()))
                .isPresent();
    }

    /** The end of versions that are open, as a definition writes it: none, or a date; empty where none is open. */
    String openEnd() {
        return openEnd;
    }

    /** How many members have no open version: they ended, and a row of one brings it back. */
    long ended() {
        return ended;
    }

    /** Whether any version follows another, so that how they end can be seen. */
    boolean tellsItsEnds() {
        return touching + adjacent > 0;
    }

    /** Whether versions end the day before the next one begins. */
    boolean isInclusive() {
        return adjacent > touching;
    }

    /** On what {@link #isInclusive} is built, in words. */
    String whyInclusive() {
        if (!tellsItsEnds()) {
            return "no version follows another, so that nothing tells";
        }
        long ends = Math.max(touching, adjacent);
        String versions = ends + (ends == 1 ? " version ends " : " versions end ");
        return versions
                + (isInclusive() ? "the day before the next begins" : "where the next begins")
                + (Math.min(touching, adjacent) == 0 ? "" : ", " + Math.min(touching, adjacent) + " otherwise");
    }

    private String surrogateKey() {
        List<Held> unique = table.columns().stream()
                .filter(Held::isWhole)
                .filter(table::isUnique)
                .toList();
        return unique.stream()
                .filter(column -> String.valueOf(column.least()).startsWith("-"))
                .findFirst()
                .or(() -> unique.stream()
                        .filter(column -> Likeness.is(Likeness.SURROGATE, column.name()))
                        .findFirst())
                .or(() -> unique.stream().findFirst())
                .map(Held::name)
                .orElse("");
    }

    private void validity() {
        Optional<Held> from = moment(Likeness.BEGIN, "");
        Optional<Held> to = from.flatMap(found -> moment(Likeness.END, found.name()));
        if (to.isEmpty()) {
            return;
        }
        String wrong = table.table() + " where " + quoted(from.get().name()) + " > "
                + quoted(to.get().name());
        if (table.count(wrong) * 10 < table.rows()) {
            audit.put(AuditColumn.VALID_FROM, new Found(from.get().name(), null, null, "a version begins"));
            audit.put(AuditColumn.VALID_TO, new Found(to.get().name(), null, null, "a version ends"));
        }
    }

    private Optional<Held> moment(Pattern likeness, String but) {
        return table.columns().stream()
                .filter(Held::isMoment)
                .filter(column -> !column.name().equals(but))
                .filter(column -> Likeness.is(likeness, column.name()))
                .findFirst();
    }

    private void businessKey() {
        List<Held> candidates = table.columns().stream()
                .filter(column -> !column.name().equals(surrogate))
                .filter(column -> !column.isMoment())
                .filter(column -> column.distinct() > 1 || table.rows() <= 2)
                .filter(column ->
                        !Likeness.is(Likeness.CURRENT, column.name()) && !Likeness.is(Likeness.VERSION, column.name()))
                .sorted(Comparator.comparing(column -> !Likeness.is(Likeness.BUSINESS_KEY, column.name())))
                .limit(MOST_PAIRED)
                .toList();
        List<List<String>> tried = new ArrayList<>();
        candidates.forEach(column -> tried.add(List.of(column.name())));
        for (int first = 0; first < candidates.size(); first++) {
            for (int second = first + 1; second < candidates.size(); second++) {
                tried.add(List.of(
                        candidates.get(first).name(), candidates.get(second).name()));
            }
        }
        tried.stream()
                .filter(this::identifies)
                .findFirst()
                .ifPresent(found -> table.columns().stream()
                        .map(Held::name)
                        .filter(found::contains)
                        .forEach(key::add));
    }

    private boolean identifies(List<String> columns) {
        List<String> all = new ArrayList<>(columns);
        if (hasVersions()) {
            all.add(audit.get(AuditColumn.VALID_FROM).column());
        }
        return table.tellApart(all, members());
    }

    private String members() {
        return surrogate.isEmpty() ? "true" : quoted(surrogate) + (hasReservedZero() ? " > 0" : " >= 0");
    }

    private String quoted(String column) {
        return dialect.quote(column);
    }

    /** The versions with what follows them. */
    private String sequence() {
        return Sql.of("""
                (
                  select t.*,
                    row_number() over (partition by ${key} order by ${from}) as zk_version,
                    lead(${from}) over (partition by ${key} order by ${from}) as zk_next
                  from ${table} as t
                  where ${members}
                ) as s""")
                .with("key", dialect.columns(key))
                .with("from", quoted(audit.get(AuditColumn.VALID_FROM).column()))
                .with("table", table.table())
                .with("members", members())
                .text();
    }

    private void endsOfVersions() {
        Held to = table.column(audit.get(AuditColumn.VALID_TO).column()).orElseThrow();
        String end = quoted(to.name());
        String lastDay = dialect.cast(end, SqlType.DATE);
        touching = table.count(sequence() + " where zk_next = " + end);
        adjacent = table.count(sequence() + " where " + dialect.cast("zk_next", SqlType.DATE) + " = "
                + dialect.nextMoment(lastDay, SqlType.DATE) + " and zk_next <> " + end);
        if (to.filled() < table.rows()) {
            openEnd = "none";
        } else if (to.greatest() != null && to.greatest().length() >= 10) {
            LocalDate greatest = LocalDate.parse(to.greatest().substring(0, 10));
            openEnd = greatest.isBefore(FIRST_OPEN_END) ? "" : greatest.toString();
        }
        String isOpen = openEnd.isEmpty() || openEnd.equals("none")
                ? end + " is null"
                : lastDay + " = " + dialect.date(LocalDate.parse(openEnd));
        ended = table.count(sequence() + " where zk_next is null and not (" + isOpen + ")");
    }

    /** The flag that says yes for the newest version of each member: by its name, or because it does so everywhere. */
    private void current() {
        for (boolean named : List.of(true, false)) {
            for (Held column : table.columns()) {
                if (isFree(column.name()) && Likeness.is(Likeness.CURRENT, column.name()) == named) {
                    flag(column, "zk_next is null", named ? table.rows() : 0)
                            .ifPresent(found -> audit.putIfAbsent(AuditColumn.IS_CURRENT, found));
                }
            }
        }
    }

    private Optional<Found> flag(Held column, String condition, long most) {
        List<String> values = table.values(column, FLAG_VALUES);
        return Likeness.yesAndNo(values).flatMap(pair -> {
            String yes = dialect.asText(quoted(column.name())) + " = " + dialect.text(pair.get(0));
            long wrong = table.count(sequence() + " where (" + yes + ") <> (" + condition + ")");
            String why = wrong == 0
                    ? "yes for the newest version of each member"
                    : Counted.rows(wrong) + (wrong == 1 ? " is" : " are") + " otherwise: zeitkammer verify names "
                            + (wrong == 1 ? "it" : "them");
            return wrong <= most ? Optional.of(found(column, pair, why)) : Optional.empty();
        });
    }

    /** A boolean says yes and no by itself. */
    private static Found found(Held column, List<String> pair, String why) {
        boolean isBoolean = column.column().type().equals(SqlType.BOOLEAN);
        return new Found(column.name(), isBoolean ? null : pair.get(0), isBoolean ? null : pair.get(1), why);
    }

    private void versionNumber() {
        table.columns().stream()
                .filter(Held::isWhole)
                .filter(column -> isFree(column.name()))
                .filter(column -> Likeness.is(Likeness.VERSION, column.name()))
                .filter(column -> table.count(sequence() + " where " + quoted(column.name()) + " <> zk_version") == 0)
                .findFirst()
                .ifPresent(column -> audit.put(
                        AuditColumn.VERSION,
                        new Found(
                                column.name(),
                                null,
                                null,
                                "1 to n in order of "
                                        + audit.get(AuditColumn.VALID_FROM).column())));
    }

    private void deleted() {
        for (Held column : table.columns()) {
            if (isFree(column.name()) && Likeness.is(Likeness.DELETED, column.name()) && table.isFilled(column)) {
                Likeness.yesAndNo(table.values(column, FLAG_VALUES))
                        .ifPresent(
                                pair -> audit.putIfAbsent(AuditColumn.IS_DELETED, found(column, pair, "by its name")));
            }
        }
    }

    private void stamp(AuditColumn stamp, Pattern likeness) {
        table.columns().stream()
                .filter(column -> column.column().type().equals(SqlType.TIMESTAMP))
                .filter(table::isFilled)
                .filter(column -> isFree(column.name()))
                .filter(column -> Likeness.is(likeness, column.name()))
                .findFirst()
                .ifPresent(column -> audit.put(stamp, new Found(column.name(), null, null, "by its name")));
    }

    private boolean isFree(String column) {
        return !column.equals(surrogate)
                && !key.contains(column)
                && audit.values().stream().noneMatch(found -> found.column().equals(column));
    }

    /** The other columns: what describes members. */
    List<Attribute> attributes() {
        List<Held> rest =
                table.columns().stream().filter(column -> isFree(column.name())).toList();
        if (!hasVersions() || key.isEmpty()) {
            return rest.stream().map(column -> new Attribute(column, false, "")).toList();
        }
        boolean anySeveral = table.count(sequence() + " where zk_version > 1") > 0;
        List<Attribute> all =
                rest.stream().map(column -> attribute(column, anySeveral)).toList();
        boolean anyVersioned = all.stream().anyMatch(Attribute::isVersioned);
        return anyVersioned
                ? all
                : all.stream()
                        .map(each -> new Attribute(each.column(), true, "no two versions differ in anything"))
                        .toList();
    }

    private Attribute attribute(Held column, boolean anySeveral) {
        if (!anySeveral) {
            return new Attribute(column, true, "no member has two versions, so that nothing tells");
        }
        long differing = table.count("(select " + dialect.columns(key) + " from " + table.table() + " where "
                + members()
                + " group by " + dialect.columns(key) + " having count(distinct " + quoted(column.name())
                + ") + max(case when " + quoted(column.name()) + " is null then 1 else 0 end) > 1) as differing");
        return new Attribute(
                column,
                differing > 0,
                differing > 0
                        ? "differs between versions of " + differing + (differing == 1 ? " member" : " members")
                        : "the same in all versions of each member");
    }

    /** The audit columns that every such table has and this one lacks. */
    List<AuditColumn> lacking(boolean hasEffective) {
        return Stream.of(AuditColumn.values())
                .filter(column -> !audit.containsKey(column))
                .filter(column -> switch (column) {
                    case VALID_FROM, VALID_TO, IS_CURRENT, VERSION -> hasVersions();
                    case LAST_STATED -> hasVersions() && hasEffective;
                    default -> true;
                })
                .toList();
    }
}
