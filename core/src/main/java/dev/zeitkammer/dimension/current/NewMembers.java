package dev.zeitkammer.dimension.current;

import static dev.zeitkammer.dimension.table.Scratch.CHANGES;
import static dev.zeitkammer.dimension.table.Scratch.KEYS;
import static dev.zeitkammer.dimension.table.Scratch.MATCH;

import dev.zeitkammer.dimension.table.DimensionColumn;
import dev.zeitkammer.dimension.table.DimensionColumn.Role;
import dev.zeitkammer.dimension.table.DimensionLoading;
import dev.zeitkammer.dimension.table.DimensionTable;
import dev.zeitkammer.dimension.table.Moments;
import dev.zeitkammer.dimension.table.Outcome;
import dev.zeitkammer.dimension.table.RowImage;
import dev.zeitkammer.dimension.table.StoredLookups;
import dev.zeitkammer.dimension.table.SurrogateKeys;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.SqlText;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.TableChange;
import dev.zeitkammer.step.Change;
import dev.zeitkammer.step.Flag;
import dev.zeitkammer.step.Stamp;
import dev.zeitkammer.step.Step;
import java.util.List;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.stream.Stream;

/**
 * Keys for new rows, and the rows of members that did not exist. Such a row is its staged row with a key and the stamps of the
 * load, so it goes from the delivery to the table without being kept in the change table, which matters in a first load.
 */
public final class NewMembers {

    private final DimensionTable table;
    private final Dialect dialect;
    private final String target;
    private final SurrogateKeys newKeys;
    private final Moments moments;
    private final Stamp stamp;
    private final StoredLookups lookedUp;

    public NewMembers(DimensionLoading loading, SurrogateKeys newKeys) {
        this.table = loading.table();
        this.dialect = loading.dialect();
        this.target = loading.target();
        this.newKeys = newKeys;
        this.moments = loading.moments();
        this.stamp = loading.stamp();
        this.lookedUp = loading.lookups();
    }

    /** Numbers the rows that become new rows of the table. */
    public Step keys(Flag any) {
        String rows = newKeys.readsRows()
                ? "\njoin %s as r on r.zk_row = m.zk_row\nleft join %s as c on %s = m.zk_key"
                        .formatted(
                                lookedUp.rows(), lookedUp.standing(), dialect.column("c", table.name(Role.SURROGATE)))
                : "";
        String sql = Sql.of("""
                select m.zk_row, m.zk_outcome = ${new} as zk_is_member,
                  ${of_matched} as zk_new_key
                from ${match} as m${joins}
                where m.zk_outcome in (${new}, ${versioned})""")
                .with(MATCH)
                .with("new", Outcome.NEW.sql())
                .with("of_matched", newKeys.ofMatched())
                .with("joins", rows)
                .with("versioned", Outcome.VERSIONED.sql())
                .text();
        return new Step.Keep(
                Step.caption("new keys", "The surrogate keys of new members and new versions."),
                KEYS,
                sql,
                Optional.of(any));
    }

    /** Adds the rows of new members. */
    public Change<TableChange> rows() {
        RowImage images = RowImage.inserted(table, dialect, moments, stamp)
                .with(Role.SURROGATE, "k.zk_new_key")
                .with(Role.MEMBER_KEY, "k.zk_new_key")
                .from(Role.KEY, "r")
                .from(Role.TYPE_0, "r")
                .from(Role.TYPE_1, "r")
                .from(Role.TYPE_2, "r")
                .from(Role.TYPE_3, "r")
                .withEach(Role.PREVIOUS, column -> dialect.cast("null", column.type()))
                .with(Role.VALID_FROM, "r.zk_effective")
                .with(Role.VERSION, "1")
                .with(Role.LAST_STATED, "r.zk_effective");
        if (table.definition().deletions().addsUnknown()) {
            images.with(Role.IS_DELETED, "r.zk_deletes");
        }
        String query = """
                select
                  %s
                from %s as r
                join %s as k on k.zk_row = r.zk_row
                where k.zk_is_member""".formatted(images.selectList(), lookedUp.rows(), KEYS);
        return Change.of(
                new TableChange.Insert(
                        Step.caption("insert rows", "New members are added."),
                        target,
                        table.columns().stream().map(DimensionColumn::name).toList(),
                        query),
                Flag.any(KEYS, "zk_is_member"));
    }

    /** The keys of the rows to insert, under the name {@code zk_new_key}. */
    private String given() {
        return "select zk_new_key from " + KEYS + " where zk_is_member\nunion all\nselect "
                + dialect.quote(table.name(Role.SURROGATE)) + " from " + CHANGES + " where zk_change = 'insert'";
    }

    /** A query of the highest key given, or 0. */
    public String highest() {
        return "select coalesce(max(zk_new_key), 0) from (\n" + given() + "\n) as given";
    }

    /** Refuses keys that were given before, where that can happen, and keys beyond those that a column which others made can hold. */
    public List<Step> guards(Flag any) {
        return Stream.of(beyond(any), twice(any)).flatMap(Optional::stream).toList();
    }

    private Optional<Step> beyond(Flag any) {
        DimensionColumn key = table.in(Role.SURROGATE).findFirst().orElseThrow();
        OptionalLong greatest = key.type().greatest();
        if (greatest.isEmpty()) {
            return Optional.empty();
        }
        String sql = "select * from (" + highest() + ") as zk_highest(zk_key) where zk_key > " + greatest.getAsLong();
        String name = table.definition().table();
        return Optional.of(new Step.Guard(
                        Step.caption("keys that fit", "A new row's surrogate key must fit its column."),
                        sql,
                        row -> "A new row would get the key " + row.number(1) + ", and " + key.name() + " of " + name
                                + " is " + key.type() + ", which ends at " + greatest.getAsLong()
                                + "; give it, and the keys of facts that point at it, a larger type:\n  "
                                + dialect.alterColumn(target, new Column(key.name(), SqlType.BIGINT)) + ";")
                .onlyIf(any));
    }

    private Optional<Step> twice(Flag any) {
        if (!newKeys.canCollide()) {
            return Optional.empty();
        }
        String sql = """
                select zk_new_key
                from (
                %s
                ) as zk_given
                group by zk_new_key
                having count(*) > 1 or exists (select 1 from %s as t where t.%s = zk_given.zk_new_key)
                limit 1""".formatted(SqlText.indented(given(), 2), target, dialect.quote(table.name(Role.SURROGATE)));
        return Optional.of(new Step.Guard(
                        Step.caption(
                                "given keys", "A new row's surrogate key must not have been given to another row."),
                        sql,
                        row -> SurrogateKeys.givenTwice(table.definition().table(), row.number(1)))
                .onlyIf(any));
    }

    /** SQL for the number of new members. */
    public static String count() {
        return "(select count(*) from " + KEYS + " where zk_is_member)";
    }
}
