package dev.zeitkammer.engine.spark;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.SqlType;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** The books in one table: how they are read and written, and what waits for what; without a cluster. */
class GatheredBooksTest {

    private static final String ENTRIES = "`dw`.`books`.`entries`";
    private static final String MARKS =
            "(select `table_name`, `mark`, `zk_nth` as _pos from " + ENTRIES + " where `zk_book` = 'marks')";
    private static final String UNDONE =
            "(select `load`, `zk_nth` as _pos from " + ENTRIES + " where `zk_book` = 'undone')";
    private static final String ALL =
            "insert into " + ENTRIES + " (`zk_book`, `zk_nth`, `table_name`, `mark`, `load`)\nselect ";

    private final StagedCluster cluster = new StagedCluster();
    private GatheredBooks books;

    @BeforeEach
    void twoBooks() {
        books = new GatheredBooks(cluster.warehouse());
        Map<String, List<Column>> columns = new LinkedHashMap<>();
        columns.put("marks", List.of(new Column("table_name", SqlType.VARCHAR), new Column("mark", SqlType.VARCHAR)));
        columns.put("undone", List.of(new Column("load", SqlType.BIGINT)));
        books.create(columns);
    }

    private static String mark(String rows) {
        return "'marks', monotonically_increasing_id(), cast(zk_q.c0 as string), cast(zk_q.c1 as string), cast(null as bigint)\nfrom ("
                + rows + ") as zk_q(c0, c1)";
    }

    private static String undone(String rows) {
        return "'undone', monotonically_increasing_id(), cast(null as string), cast(null as string), cast(zk_q.c0 as bigint)\nfrom ("
                + rows + ") as zk_q(c0)";
    }

    @Test
    void oneTableHasTheColumnsOfAllAndKnowsWhichAreWhose() {
        assertThat(cluster.executed.get(0))
                .startsWith("create table if not exists " + ENTRIES
                        + " (`zk_book` string, `zk_nth` bigint, `table_name` string, `mark` string, `load` bigint)")
                .endsWith("= 'marks(table_name varchar|mark varchar);undone(load bigint)')");
        assertThat(books.relation("marks")).contains(MARKS);
        assertThat(books.relation("seals")).isEmpty();
        assertThat(books.isRelation(MARKS)).isTrue();
        assertThat(books.isRelation(ENTRIES)).isFalse();
    }

    @Test
    void anotherSessionReadsThatFromTheTable() {
        cluster.standing.add("`books`.`entries`");
        cluster.answer(
                "show tblproperties", List.of(List.of("zeitkammer.books", "sums(part decimal(18,2)|at timestamp)")));
        GatheredBooks others = new GatheredBooks(cluster.warehouse());
        assertThat(others.books())
                .containsOnly(Map.entry(
                        "sums",
                        List.of(new Column("part", SqlType.decimal(18, 2)), new Column("at", SqlType.TIMESTAMP))));
    }

    @Test
    void aTableThatDoesNotTellIsNotTakenForOne() {
        cluster.standing.add("`books`.`entries`");
        cluster.answer(
                "show tblproperties",
                List.of(List.of(
                        "zeitkammer.books", "Table dw.books.entries does not have property: zeitkammer.books")));
        assertThatThrownBy(() -> new GatheredBooks(cluster.warehouse()).books())
                .hasMessageContaining(ENTRIES + " does not tell which books it has");
    }

    @Test
    void anotherBookAddsTheColumnsThatAreNew() {
        cluster.executed.clear();
        books.create(Map.of("notes", List.of(new Column("load", SqlType.BIGINT), new Column("note", SqlType.VARCHAR))));
        assertThat(cluster.executed).hasSize(2);
        assertThat(cluster.executed.get(0)).contains("add column", "`note` string");
        assertThat(cluster.executed.get(1)).endsWith("undone(load bigint);notes(load bigint|note varchar)')");
    }

    @Test
    void rowsOfPlainValuesWaitAndAreWrittenTogether() {
        assertThat(books.adapted("insert into " + MARKS + " values ('hut', '3')", true))
                .isEmpty();
        assertThat(books.adapted("insert into " + UNDONE + " (load) values (7)", true))
                .isEmpty();
        assertThat(books.flushed())
                .contains(ALL + mark("values ('hut', '3')") + "\nunion all\nselect " + undone("values (7)"));
        assertThat(books.flushed()).as("once").isEmpty();
    }

    @Test
    void outsideOfATransactionNothingWaits() {
        assertThat(books.adapted("insert into " + UNDONE + " values (7)", false))
                .contains(ALL + undone("values (7)"));
        assertThat(books.flushed()).isEmpty();
    }

    @Test
    void rowsOfAQueryAreWrittenAtOnceWithWhatWaits() {
        books.adapted("insert into " + UNDONE + " values (7)", true);
        assertThat(books.adapted("insert into " + MARKS + " (mark, `table_name`)\nselect m, t from found", true))
                .contains(ALL + undone("values (7)")
                        + "\nunion all\nselect 'marks', monotonically_increasing_id(), cast(zk_q.c1 as string), cast(zk_q.c0 as string),"
                        + " cast(null as bigint)\nfrom (select m, t from found) as zk_q(c0, c1)");
        assertThat(books.flushed()).isEmpty();
    }

    @Test
    void otherWritesReachTheRowsOfTheirBookOnly() {
        assertThat(books.adapted("delete from " + MARKS + " where table_name = 'hut' or mark = '3'", true))
                .contains("delete from " + ENTRIES
                        + "\nwhere `zk_book` = 'marks' and (table_name = 'hut' or mark = '3')");
        assertThat(books.adapted("update " + UNDONE + " set load = 8 where load = 7 or load = 9", true))
                .contains("update " + ENTRIES + " set load = 8\nwhere `zk_book` = 'undone' and (load = 7 or load = 9)");
        assertThat(books.adapted("select max(load) from " + UNDONE, true)).contains("select max(load) from " + UNDONE);
        assertThat(books.areIn("select max(load) from " + UNDONE)).isTrue();
        assertThat(books.areIn("select max(load) from `dw`.`huts`.`dim_hut`")).isFalse();
    }

    @Test
    void whatWaitsIsForgottenWithItsTransaction() {
        books.adapted("insert into " + UNDONE + " values (7)", true);
        books.discard();
        assertThat(books.flushed()).isEmpty();
    }
}
