package dev.zeitkammer.dimension;

import static dev.zeitkammer.dimension.Scratch.CHANGES;
import static dev.zeitkammer.dimension.Scratch.KEYS;
import static dev.zeitkammer.dimension.Scratch.MATCH;

import dev.zeitkammer.dimension.DimensionColumn.Role;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlText;
import dev.zeitkammer.step.Stamp;
import dev.zeitkammer.step.Step;
import java.util.Optional;

/**
 * Keys for new rows, and the rows of members that did not exist. Such a row is its staged row with a key and the stamps of the
 * load, so it goes from the delivery to the table without being kept in the change table, which matters in a first load.
 */
final class NewMembers {

    private final DimensionTable table;
    private final Dialect dialect;
    private final String target;
    private final NewKeys newKeys;
    private final Moments moments;
    private final Stamp stamp;
    private final LookedUp lookedUp;

    NewMembers(DimensionTable table, Dialect dialect, String target, NewKeys newKeys, Stamp stamp, LookedUp lookedUp) {
        this.table = table;
        this.dialect = dialect;
        this.target = target;
        this.newKeys = newKeys;
        this.moments = new Moments(table, dialect);
        this.stamp = stamp;
        this.lookedUp = lookedUp;
    }

    /** Numbers the rows that become new rows of the table. */
    Step keys() {
        String rows = newKeys.readsRows()
                ? "\njoin %s as r on r.zk_row = m.zk_row\nleft join %s as c on %s = m.zk_key"
                        .formatted(
                                lookedUp.rows(), lookedUp.standing(), dialect.column("c", table.name(Role.SURROGATE)))
                : "";
        String sql = """
                select m.zk_row, m.zk_outcome = %s as zk_is_member,
                  %s as zk_new_key
                from %s as m%s
                where m.zk_outcome in (%s, %s)""".formatted(
                Outcome.NEW.sql(), newKeys.ofMatched(), MATCH, rows, Outcome.NEW.sql(), Outcome.VERSIONED.sql());
        return new Step.Write(
                "new keys", "The surrogate keys of new members and new versions.", dialect.keep(KEYS, sql));
    }

    /** Adds the rows of new members. */
    Step rows() {
        Images images = Images.inserted(table, dialect, moments, stamp)
                .with(Role.SURROGATE, "k.zk_new_key")
                .from(Role.KEY, "r")
                .from(Role.TYPE_0, "r")
                .from(Role.TYPE_1, "r")
                .from(Role.TYPE_2, "r")
                .from(Role.TYPE_3, "r")
                .withEach(Role.PREVIOUS, column -> dialect.cast("null", column.type()))
                .with(Role.VALID_FROM, "r.zk_effective")
                .with(Role.VERSION, "1")
                .with(Role.LAST_STATED, "r.zk_effective");
        String sql = """
                insert into %s (%s)
                select
                  %s
                from %s as r
                join %s as k on k.zk_row = r.zk_row
                where k.zk_is_member""".formatted(
                        target,
                        dialect.list(table.columns(), column -> dialect.quote(column.name())),
                        images.selectList(),
                        lookedUp.rows(),
                        KEYS);
        return new Step.Write("insert rows", "New members are added.", sql, Step.any(KEYS));
    }

    /** The condition that rows were added or changed. */
    static Optional<String> anyWritten() {
        return Step.any("(select zk_row from " + CHANGES + " union all select zk_row from " + KEYS + ") as written");
    }

    /** The keys of the rows to insert, under the name {@code zk_new_key}. */
    private String given() {
        return "select zk_new_key from " + KEYS + " where zk_is_member\nunion all\nselect "
                + dialect.quote(table.name(Role.SURROGATE)) + " from " + CHANGES + " where zk_change = 'insert'";
    }

    /** A query of the highest key given, or 0. */
    String highest() {
        return "select coalesce(max(zk_new_key), 0) from (\n" + given() + "\n) as given";
    }

    /** Refuses keys that were given before, where that can happen. */
    Optional<Step> guard() {
        if (!newKeys.canCollide()) {
            return Optional.empty();
        }
        String sql = """
                select zk_new_key
                from (
                %s
                ) as given
                group by zk_new_key
                having count(*) > 1 or exists (select 1 from %s as t where t.%s = given.zk_new_key)
                limit 1""".formatted(SqlText.indented(given(), 2), target, dialect.quote(table.name(Role.SURROGATE)));
        return Optional.of(new Step.Guard(
                "given keys",
                "A new row's surrogate key must not have been given to another row.",
                sql,
                anyWritten(),
                Optional.empty(),
                row -> "The surrogate key " + row.number(1) + " of "
                        + table.definition().table()
                        + " would be given a second time; a surrogate key is never reused, so nothing was loaded"));
    }

    /** SQL for the number of new members. */
    static String count() {
        return "(select count(*) from " + KEYS + " where zk_is_member)";
    }
}
