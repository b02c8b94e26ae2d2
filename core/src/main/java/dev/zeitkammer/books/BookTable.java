package dev.zeitkammer.books;

import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.SqlType;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;

/** The tables of the books. */
enum BookTable {
    LOADS("load bigint, load_date varchar, status varchar, started_at timestamp, ended_at timestamp"),
    TABLE_LOADS("load bigint, table_name varchar, kind varchar, status varchar, seconds double precision,"
            + " inserted bigint, updated bigint, error varchar"),
    COUNTS("load bigint, table_name varchar, role varchar, name varchar, staged_rows bigint"),
    SET_ASIDE("load bigint, table_name varchar, reason varchar, column_name varchar, bad_value varchar,"
            + " file varchar, line bigint, row_text varchar"),
    FORMS("load bigint, table_name varchar, file varchar, kind varchar, encoding varchar, header varchar"),
    HIGHEST_KEYS("table_name varchar, highest bigint"),
    STAGED_TYPES("input varchar, column_name varchar, type varchar"),
    ADDED_COLUMNS("table_name varchar, column_name varchar, load bigint"),
    PLACEHOLDERS("load bigint, table_name varchar, inserted bigint"),
    UNMATCHED("load bigint, table_name varchar, role varchar, found varchar, natural_key varchar, staged_rows bigint"),
    MARKS("table_name varchar, input varchar, column_name varchar, mark varchar"),
    WAITING_ROWS(
            "table_name varchar, input varchar, staged_row bigint, load bigint, reason varchar, column_name varchar,"
                    + " bad_value varchar, file varchar, line bigint, row_text varchar, staged_values varchar"),
    WAITING(
            "table_name varchar, role varchar, grain varchar, as_of varchar, key_1 varchar, key_2 varchar, key_3 varchar,"
                    + " key_4 varchar, key_5 varchar, key_6 varchar, key_7 varchar, key_8 varchar, noted_by bigint"),
    WAITED(
            "load bigint, table_name varchar, role varchar, grain varchar, as_of varchar, key_1 varchar, key_2 varchar,"
                    + " key_3 varchar, key_4 varchar, key_5 varchar, key_6 varchar, key_7 varchar, key_8 varchar, noted_by bigint"),

    IMAGES("table_name varchar, since bigint"),
    BEFORE_BOOKS("load bigint, table_name varchar, book varchar, is_row boolean, value_1 varchar, value_2 varchar,"
            + " value_3 varchar, value_4 varchar, value_5 varchar, value_6 varchar, value_7 varchar, value_8 varchar,"
            + " value_9 varchar, value_10 varchar, value_11 varchar, value_12 varchar"),
    ASSERTIONS("load bigint, table_name varchar, name varchar, asserted varchar, found varchar, broken bigint,"
            + " otherwise varchar, holds boolean"),
    RESOLVED("load bigint, table_name varchar, resolved_by bigint"),
    MISPLACED("load bigint, table_name varchar, role varchar, grain varchar, stored_key bigint, valid_key bigint"),
    EXTRA_STEPS("load bigint, name varchar, place varchar, status varchar, seconds double precision, output varchar"),
    UNDONE("load bigint, undone_at timestamp"),
    SEALS("load bigint, table_name varchar, written_by bigint, method varchar, table_rows bigint, part_1 bigint,"
            + " part_2 bigint, part_3 bigint, part_4 bigint"),
    ACCEPTED("table_name varchar, load bigint, inserted_by bigint, difference bigint, accepted_at timestamp,"
            + " accepted_by varchar, reason varchar"),
    READ_DELIVERIES("load bigint, table_name varchar, fingerprint varchar");

    private final String columns;

    BookTable(String columns) {
        this.columns = columns;
    }

    String tableName() {
        return name().toLowerCase(Locale.ROOT);
    }

    /** The columns. */
    List<Column> typed() {
        return Arrays.stream(columns.split(", "))
                .map(column -> column.split(" ", 2))
                .map(column -> new Column(column[0], SqlType.parse(column[1]).orElseThrow()))
                .toList();
    }
}
