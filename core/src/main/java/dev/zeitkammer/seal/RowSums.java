package dev.zeitkammer.seal;

import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import java.util.List;

/**
 * SQL for sums over rows: each row is hashed twice, with all its columns, to 64 bits, and the four halves are added up. The sums do
 * not depend on the order of rows, and follow from what is added and taken away.
 */
final class RowSums {

    /** Any two numbers that differ. */
    private static final int FIRST = 17;

    private static final int SECOND = 4711;

    private final Dialect dialect;
    private final List<Column> columns;
    private final String writtenBy;

    RowSums(Definition definition, Warehouse warehouse) {
        this.dialect = warehouse.dialect();
        this.columns = warehouse.columns(definition.table());
        this.writtenBy = definition.conventions().column(AuditColumn.UPDATED_BY);
    }

    /** Whether rows tell which load wrote them last. */
    boolean isStamped() {
        return columns.stream().anyMatch(column -> column.name().equalsIgnoreCase(writtenBy));
    }

    /** The load that wrote a row last, of an alias. */
    String writtenBy(String alias) {
        return dialect.column(alias, writtenBy);
    }

    /** The columns of the table, of an alias. */
    String columns(String alias) {
        return dialect.list(columns.stream().map(Column::name).toList(), name -> dialect.column(alias, name));
    }

    /**
     * A query of written_by, table_rows and part_1 to part_4.
     *
     * @param rows what follows {@code from}, with the alias t for the rows
     */
    String of(String rows) {
        return of(rows, "1");
    }

    /**
     * A query of zk_sign, written_by, table_rows and part_1 to part_4.
     *
     * @param rows what follows {@code from}, with the alias t for the rows
     * @param sign SQL that says of a row whether it is added or taken away
     */
    String of(String rows, String sign) {
        List<String> hashed = columns.stream()
                .map(column -> {
                    String name = dialect.column("t", column.name());
                    return column.type().isText() ? dialect.cast(name, SqlType.VARCHAR) : name;
                })
                .toList();
        String each = Sql.of("""
                select ${sign} as zk_sign, ${written_by} as written_by, ${first} as zk_h1, ${second} as zk_h2
                from ${rows}""")
                .with("sign", sign)
                .with("written_by", writtenBy("t"))
                .with("first", dialect.rowHash(hashed, FIRST))
                .with("second", dialect.rowHash(hashed, SECOND))
                .with("rows", rows)
                .text();
        return Sql.of("""
                select zk_sign, written_by, count(*) as table_rows,
                  ${first_upper} as part_1, ${first_lower} as part_2, ${second_upper} as part_3, ${second_lower} as part_4
                from (
                ${each}
                ) as hashed
                group by zk_sign, written_by""")
                .with("first_upper", sum(dialect.upperHalf("zk_h1")))
                .with("first_lower", sum(dialect.lowerHalf("zk_h1")))
                .with("second_upper", sum(dialect.upperHalf("zk_h2")))
                .with("second_lower", sum(dialect.lowerHalf("zk_h2")))
                .with("each", dialect.once(each))
                .text();
    }

    private String sum(String number) {
        return dialect.cast("sum(" + number + ")", SqlType.BIGINT);
    }
}
