package dev.zeitkammer.profile;

import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.staging.Delivery;
import dev.zeitkammer.staging.Earlier;
import dev.zeitkammer.staging.StagedRows;
import dev.zeitkammer.staging.Staging;
import dev.zeitkammer.staging.Wanted;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/** Profiles the newest delivery of an input. */
public final class Profiler {

    private static final int AT_ONCE = 6;
    private static final int FEW = 8;
    private static final int MANY = 250;
    private static final String PART = "zk_part";
    private static final double MOST = 0.9;

    /** Of so many rows one may lack the date of its change. */
    private static final int SOME = 20;

    private final Project project;
    private final Warehouse warehouse;

    public Profiler(Project project, Warehouse warehouse) {
        this.project = project;
        this.warehouse = warehouse;
    }

    /** The profile of what an input has waiting; empty when there is no delivery. */
    public Optional<Profile> of(Input input) {
        Staging staging = new Staging(warehouse, project.folder());
        return staging.newest(input, Earlier.NOTHING).map(delivery -> profile(staging, delivery));
    }

    private Profile profile(Staging staging, Delivery delivery) {
        Wanted wanted = new Wanted(delivery);
        delivery.header().forEach(column -> wanted.column(column, Optional.empty()));
        StagedRows staged = staging.stage(delivery, wanted, Earlier.NOTHING);
        long rows = warehouse.number("select count(*) from " + StagedRows.TABLE);
        List<ColumnProfile> columns =
                parts(staged.columns(), MANY).stream().flatMap(this::narrow).toList();
        Optional<String> effective = columns.stream()
                .filter(column -> column.type().isMoment()
                        && column.nulls() * SOME <= rows
                        && Guess.isDateOfChange(column.name()))
                .map(ColumnProfile::name)
                .findFirst();
        return new Profile(
                delivery.shown(),
                rows,
                columns,
                new KeySearch(warehouse, rows, columns).candidates(),
                effective,
                columns.stream()
                        .flatMap(column -> Guess.deletion(column).stream())
                        .findFirst(),
                members(columns));
    }

    private static List<List<Column>> parts(List<Column> columns, int size) {
        List<List<Column>> parts = new ArrayList<>();
        for (int from = 0; from < columns.size(); from += size) {
            parts.add(columns.subList(from, Math.min(columns.size(), from + size)));
        }
        return parts;
    }

    /** A query is planned in the time of all the columns of its table, so that those of a wide one are looked at apart. */
    private Stream<ColumnProfile> narrow(List<Column> some) {
        Dialect dialect = warehouse.dialect();
        warehouse.keep(
                PART,
                "select " + dialect.list(some, column -> dialect.quote(column.name())) + " from " + StagedRows.TABLE);
        List<ColumnProfile> profiles = new ArrayList<>();
        parts(some, AT_ONCE).forEach(few -> profiles.addAll(columns(few)));
        warehouse.dropScratch(PART);
        return profiles.stream();
    }

    private List<ColumnProfile> columns(List<Column> some) {
        Dialect dialect = warehouse.dialect();
        String measures = some.stream()
                .map(column -> {
                    String name = dialect.quote(column.name());
                    String text = dialect.asText(name);
                    String ordered = column.type().equals(SqlType.BOOLEAN) ? text : name;
                    return Sql.of(
                                    "count(*) - count(${name}), count(distinct ${name}), min(length(${text})), max(length(${text})), ${least}, ${greatest}")
                            .with("name", name)
                            .with("text", text)
                            .with("least", dialect.asText("min(" + ordered + ")"))
                            .with("greatest", dialect.asText("max(" + ordered + ")"))
                            .text();
                })
                .collect(Collectors.joining(",\n  "));
        List<ColumnProfile> profiles = new ArrayList<>();
        warehouse.query("select " + measures + "\nfrom " + PART, row -> {
            int next = 1;
            for (Column column : some) {
                profiles.add(new ColumnProfile(
                        column.name(),
                        column.type(),
                        row.number(next++),
                        row.number(next++),
                        row.number(next++),
                        row.number(next++),
                        row.text(next++),
                        row.text(next++),
                        List.of()));
            }
            return true;
        });
        return profiles.stream().map(this::withFew).toList();
    }

    private ColumnProfile withFew(ColumnProfile column) {
        if (column.distinct() == 0 || column.distinct() > FEW) {
            return column;
        }
        String name = warehouse.dialect().quote(column.name());
        List<String> few = warehouse.query(
                "select distinct " + warehouse.dialect().asText(name) + " from " + PART + " where " + name
                        + " is not null order by 1",
                row -> String.valueOf(row.text(1)));
        return new ColumnProfile(
                column.name(),
                column.type(),
                column.nulls(),
                column.distinct(),
                column.shortest(),
                column.longest(),
                column.least(),
                column.greatest(),
                few);
    }

    /** The dimensions whose single business key the values of columns are: by name, or since most of them are members. */
    private Map<String, String> members(List<ColumnProfile> columns) {
        Map<String, String> members = new LinkedHashMap<>();
        for (Dimension dimension : project.dimensions()) {
            if (dimension.kind() != Dimension.Kind.MEMBERS || dimension.key().size() != 1) {
                continue;
            }
            String key = dimension.key().get(0).text();
            for (ColumnProfile column : columns) {
                boolean named = column.name().toLowerCase(Locale.ROOT).endsWith(key.toLowerCase(Locale.ROOT));
                if (named || (column.distinct() > FEW && areMembers(column, dimension, key))) {
                    members.putIfAbsent(column.name(), dimension.name().text());
                }
            }
        }
        return members;
    }

    private boolean areMembers(ColumnProfile column, Dimension dimension, String key) {
        Optional<SqlType> type = warehouse.columns(dimension.table()).stream()
                .filter(known -> known.name().equalsIgnoreCase(key))
                .map(Column::type)
                .findFirst();
        if (type.isEmpty()
                || type.get().isText() != column.type().isText()
                || column.type().isMoment()) {
            return false;
        }
        Dialect dialect = warehouse.dialect();
        long found = warehouse.number(Sql.of(
                        "select count(distinct s.${column}) from ${staged} as s where s.${column} in (select ${key} from ${dimension})")
                .with("staged", StagedRows.TABLE)
                .with("column", dialect.quote(column.name()))
                .with("key", dialect.quote(key))
                .with("dimension", warehouse.table(dimension.table()))
                .text());
        return found >= MOST * column.distinct();
    }
}
