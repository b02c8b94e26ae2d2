package dev.zeitkammer.staging;

import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.LostRowsException;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Stager;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.staging.conversion.Conversion;
import dev.zeitkammer.staging.conversion.PlainCast;
import dev.zeitkammer.staging.conversion.PlainCast.Plain;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import java.util.stream.Collectors;

/**
 * Stages rows that lie in the warehouse there, by the warehouse's own SQL. Values whose type fits are taken as they are, others are
 * cast where they are written plainly. Only rows with a value that is not go to the embedded engine, which looks at them as closely as
 * at texts of files, and back.
 */
final class LyingRows {

    private static final String DOUBTED = "zk_doubted";

    /** The most columns of the program's own beside those of a row. */
    private static final int OWN_COLUMNS = 10;

    private final Warehouse warehouse;
    private final Dialect dialect;
    private final PlainCast plain;
    private final Source source;
    private final List<Lying> columns;
    private final String relation;
    private final List<String> statements;

    private LyingRows(Warehouse warehouse, Source source, List<Lying> columns, String relation) {
        this.warehouse = warehouse;
        this.dialect = warehouse.dialect();
        this.plain = new PlainCast(dialect);
        this.source = source;
        this.columns = columns;
        this.relation = relation;
        this.statements = new ArrayList<>(source.statements());
    }

    /**
     * A column on its way.
     *
     * @param own the type that it has
     * @param type the type that it is wanted with
     */
    private record Lying(int number, String name, SqlType own, SqlType type) {

        boolean fits() {
            return own.fitsIn(type);
        }

        /** The column that holds the value as it came, of those that are converted. */
        String raw() {
            return "zk_t" + number;
        }

        String value() {
            return "zk_v" + number;
        }
    }

    /**
     * Stages the rows of a source in a scratch relation of the warehouse; empty, with nothing done, for rows that lie elsewhere, or that
     * need the closer look all together: where inference decides a type, a type cannot be cast, or rows that waited come beside them.
     */
    static Optional<StagedRows> stage(
            Warehouse warehouse, Source source, Wanted wanted, Earlier earlier, String relation) {
        Stager stager = warehouse.stager();
        WaitedRows waited = new WaitedRows(stager, source.input(), earlier);
        if (stager == warehouse || (waited.any() && !source.remembers())) {
            return Optional.empty();
        }
        return columns(source, wanted.inOrder(), wanted.moments())
                .map(columns -> new LyingRows(warehouse, source, columns, relation))
                .filter(LyingRows::canBeCast)
                .flatMap(
                        rows -> source.inWarehouse(wanted.inOrder().keySet()).map(query -> rows.staged(query, waited)));
    }

    /** The columns with their types; empty where one of them needs to be looked into. */
    private static Optional<List<Lying>> columns(
            Source source, Map<String, Optional<SqlType>> wanted, Set<String> moments) {
        List<Lying> columns = new ArrayList<>();
        for (Map.Entry<String, Optional<SqlType>> column : wanted.entrySet()) {
            Optional<SqlType> own = source.type(column.getKey());
            Optional<SqlType> type = column.getValue().or(() -> own);
            boolean isLooked = moments.contains(column.getKey())
                    && type.filter(SqlType::isMoment).isEmpty();
            if (type.isEmpty() || isLooked) {
                return Optional.empty();
            }
            columns.add(new Lying(columns.size(), column.getKey(), own.orElse(SqlType.VARCHAR), type.get()));
        }
        return Optional.of(columns);
    }

    private boolean canBeCast() {
        List<Lying> converted =
                columns.stream().filter(column -> !column.fits()).toList();
        return columns.size() + converted.size() < dialect.mostColumns() - OWN_COLUMNS
                && converted.stream().allMatch(column -> plain(column).isPresent());
    }

    private Optional<Plain> plain(Lying column) {
        return plain.of(given(column), column.own(), column.type());
    }

    /** A value as it is given, of an input that takes spaces off without them. */
    private String given(Lying column) {
        String name = dialect.quote(column.name());
        return source.input().trim() && column.own().isText() ? "nullif(trim(" + name + "), '')" : name;
    }

    private StagedRows staged(String query, WaitedRows waited) {
        if (columns.stream().allMatch(Lying::fits)) {
            keep(relation, asTheyCame(query));
        } else {
            convert(query);
        }
        source.stagedThere();
        return new StagedRows(
                warehouse,
                source,
                typed(),
                source.inferred(),
                source.unusable(relation),
                source.notes(relation),
                statements,
                waited);
    }

    private List<Column> typed() {
        return columns.stream()
                .map(column -> new Column(column.name(), column.type()))
                .toList();
    }

    private String asTheyCame(String query) {
        return Sql.of("""
                select ${number} as zk_row, ${values}${more}, ${nothing} as zk_bad_column, ${nothing} as zk_bad_text
                from (
                ${rows}
                ) as r""")
                .with("number", dialect.anyNumber())
                .with("values", each(columns, this::fitting))
                .with("more", more())
                .with("nothing", dialect.noText())
                .with("rows", query)
                .text();
    }

    private void convert(String query) {
        String read = Staging.readInto(relation);
        keep(read, cast(query));
        long doubtful = warehouse.number("select count(*) from " + read + " where zk_is_doubtful");
        String sound = Sql.of(
                        "select zk_row, ${names}${more}, ${nothing} as zk_bad_column, ${nothing} as zk_bad_text from ${read}")
                .with("names", each(columns, column -> dialect.quote(column.name())))
                .with("more", more())
                .with("nothing", dialect.noText())
                .with("read", read)
                .text();
        String all =
                doubtful == 0 ? sound : sound + " where not zk_is_doubtful\nunion all\n" + lookedAt(read, doubtful);
        statements.add(dialect.name(relation, all));
        warehouse.name(relation, all);
    }

    /**
     * The rows with what could be cast. Of what could not, the value stands beside it as it came. The number of a row keeps engines
     * from writing the casts into everything that reads them.
     */
    private String cast(String query) {
        List<Lying> converted =
                columns.stream().filter(column -> !column.fits()).toList();
        return Sql.of("""
                select zk_row, ${values}${raw}${more}, ${doubtful} as zk_is_doubtful
                from (
                  select ${number} as zk_row, ${casts}${more}
                  from (
                ${rows}
                  ) as r
                ) as plain""")
                .with(
                        "values",
                        each(
                                columns,
                                column -> column.fits()
                                        ? dialect.quote(column.name())
                                        : column.value() + " as " + dialect.quote(column.name())))
                .with(
                        "raw",
                        each(
                                converted,
                                column -> "case when %s is null then %s end as %s"
                                        .formatted(column.value(), column.raw(), column.raw())))
                .with(
                        "doubtful",
                        converted.stream().map(this::isDoubtful).collect(Collectors.joining(" or ", "(", ")")))
                .with("number", dialect.anyNumber())
                .with("casts", each(columns, column -> column.fits() ? fitting(column) : plainly(column)))
                .with("more", more())
                .with("rows", query)
                .text();
    }

    private String fitting(Lying column) {
        String given = given(column);
        return (column.own().equals(column.type()) ? given : dialect.cast(given, column.type())) + " as "
                + dialect.quote(column.name());
    }

    private String plainly(Lying column) {
        Plain cast = plain(column).orElseThrow();
        return "%s as %s, case when %s then %s end as %s"
                .formatted(given(column), column.raw(), cast.isPlain(), cast.cast(), column.value());
    }

    /** A blank text is no value. */
    private String isDoubtful(Lying column) {
        return column.value() + " is null and " + column.raw() + " is not null"
                + (column.own().isText() ? " and trim(" + column.raw() + ") <> ''" : "");
    }

    /** A query of the doubtful rows as the embedded engine converts them, to which they are handed over for it. */
    private String lookedAt(String read, long doubtful) {
        String looked = relation + "_doubtful";
        Stager stager = warehouse.stager();
        warehouse.handOver(
                "select zk_row, " + each(columns, this::asItCame) + more() + " from " + read + " where zk_is_doubtful",
                DOUBTED);
        List<String> carried = new ArrayList<>(source.extras());
        carried.add("zk_row");
        Conversion conversion = new Conversion(stager.dialect(), source.csv());
        String strict = new ConvertedRows(conversion, source, stager.dialect())
                .sql("select * from " + DOUBTED, typed(), carried);
        statements.add("-- Rows with a value that cannot be cast just so go to the embedded engine and back\n"
                + stager.dialect().keep(looked, strict));
        stager.keep(looked, strict);
        long back = stager.number("select count(*) from " + looked);
        if (back != doubtful) {
            throw new LostRowsException("of " + doubtful + " staged rows it handed over " + back);
        }
        warehouse.receive(looked);
        return "select zk_row, " + each(columns, column -> dialect.quote(column.name())) + more()
                + ", zk_bad_column, zk_bad_text from " + looked;
    }

    private String asItCame(Lying column) {
        String name = dialect.quote(column.name());
        return column.fits()
                ? name
                : dialect.cast("coalesce(" + column.raw() + ", " + dialect.cast(name, column.own()) + ")", column.own())
                        + " as " + name;
    }

    /** What is carried along with every row. */
    private String more() {
        return source.extras().stream().map(extra -> extra + ", ").collect(Collectors.joining()) + "zk_file";
    }

    private static String each(List<Lying> columns, Function<Lying, String> written) {
        return columns.stream().map(column -> written.apply(column) + ", ").collect(Collectors.joining());
    }

    private void keep(String scratch, String query) {
        statements.add(dialect.keep(scratch, query));
        Staging.read(source, () -> warehouse.keep(scratch, query));
    }
}
