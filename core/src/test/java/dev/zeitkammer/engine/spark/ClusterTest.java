package dev.zeitkammer.engine.spark;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.DatabaseAddress;
import dev.zeitkammer.engine.GuardException;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.Warehouse.Access;
import dev.zeitkammer.engine.Warehouses;
import dev.zeitkammer.load.TestCluster;
import java.math.BigDecimal;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.condition.EnabledIf;

/** What the program asks of a cluster beyond SQL: transactions, the lock, values of every kind. */
@EnabledIf("dev.zeitkammer.load.TestWarehouses#onCluster")
class ClusterTest extends OnCluster {

    private static final String ODD =
            "it's a \\ back\\n slash, ? a \"quote\", `ticks`, ${x}, %, \u00e4\u4f60\ud83d\ude00\n\tend";

    @Test
    void nobodySeesHalfOfATransaction() {
        String huts = numbers("huts");
        String stays = numbers("stays");
        warehouse.execute("insert into " + huts + " values (1), (2)");
        warehouse.createBooks();
        try (Warehouse reader = opened()) {
            warehouse.inTransaction(() -> {
                warehouse.execute("insert into " + huts + " values (3)");
                warehouse.execute("update " + huts + " set number = 20 where number = 2");
                warehouse.execute("delete from " + huts + " where number = 1");
                warehouse.execute("insert into " + stays + " values (7)");
                assertThat(in(warehouse, huts)).containsExactly(3L, 20L);
                assertThat(in(reader, huts)).containsExactly(1L, 2L);
                assertThat(in(reader, stays)).isEmpty();
                return true;
            });
            assertThat(in(reader, huts)).containsExactly(3L, 20L);
            assertThat(in(reader, stays)).containsExactly(7L);
        }
        assertThat(branches(huts)).isEmpty();
        assertThat(branches(stays)).isEmpty();
        warehouse.close();
        warehouse = opened();
        assertThat(warehouse.number("select count(*) from " + warehouse.book("decided")))
                .as("decisions that were carried out, at the end of the session")
                .isZero();
    }

    @Test
    void whatFailsOrIsRehearsedIsTakenBack() {
        String huts = numbers("huts");
        warehouse.execute("insert into " + huts + " values (1)");
        warehouse.createBooks();
        assertThatThrownBy(() -> warehouse.inTransaction(() -> {
                    warehouse.execute("insert into " + huts + " values (2)");
                    throw new GuardException("stopped");
                }))
                .hasMessage("stopped");
        warehouse.rehearse(() -> {
            warehouse.execute("insert into " + huts + " values (3)");
            warehouse.execute(warehouse.dialect().addColumn(huts, new Column("beds", SqlType.INTEGER)));
            numbers("stays");
            assertThat(in(warehouse, huts)).containsExactly(1L, 3L);
            return true;
        });
        assertThat(in(warehouse, huts)).containsExactly(1L);
        assertThat(branches(huts)).isEmpty();
        assertThat(warehouse.columns("huts")).extracting(Column::name).containsExactly("number");
        assertThat(warehouse.has("stays")).isFalse();
    }

    private static List<String> read(Warehouse by, String book) {
        return by.query(
                "select mark from " + by.book(book) + " order by "
                        + by.dialect().rowPlace(),
                row -> String.valueOf(row.text(1)));
    }

    /** Both books stand in one table; a row is of one of them. */
    @Test
    void booksAreWrittenWithTheirTransactionAndEachForItself() {
        List<Column> columns = List.of(new Column("mark", SqlType.VARCHAR), new Column("number", SqlType.BIGINT));
        warehouse.createBooks();
        warehouse.createBooks(Map.of("marks", columns));
        warehouse.createBooks(Map.of("seen", columns));
        assertThat(warehouse.books()).contains("marks", "seen", "load_lock").doesNotContain("entries");
        assertThat(warehouse.bookTables()).hasSize(3).anyMatch(table -> table.endsWith("`entries`"));
        try (Warehouse reader = opened()) {
            warehouse.inTransaction(() -> {
                warehouse.update(
                        "insert into " + warehouse.book("marks") + " values (?, ?), (?, ?), (?, ?)",
                        ODD,
                        1,
                        "b",
                        null,
                        "c",
                        3);
                warehouse.update("insert into " + warehouse.book("seen") + " (mark) values (?)", "b");
                assertThat(read(warehouse, "marks")).containsExactly(ODD, "b", "c");
                warehouse.execute("insert into " + warehouse.book("seen") + " (number, mark) select number, mark from "
                        + warehouse.book("marks") + " where number = 3");
                warehouse.update("delete from " + warehouse.book("marks") + " where mark = ? or mark = ?", "b", "x");
                warehouse.update("update " + warehouse.book("marks") + " set mark = ? where mark = ?", "d", "c");
                assertThat(read(reader, "marks")).isEmpty();
                return true;
            });
            assertThat(read(reader, "marks")).containsExactlyInAnyOrder(ODD, "d");
            assertThat(read(reader, "seen")).containsExactlyInAnyOrder("b", "c");
        }
        warehouse.rehearse(() -> {
            warehouse.update("insert into " + warehouse.book("seen") + " values (?, ?)", "e", 5);
            return warehouse.number("select count(*) from " + warehouse.book("marks"));
        });
        assertThat(read(warehouse, "seen")).containsExactlyInAnyOrder("b", "c");
    }

    @Test
    void booksOfAnEarlierVersionStayTables() {
        List<Column> columns = List.of(new Column("mark", SqlType.VARCHAR));
        warehouse.createBooks();
        warehouse.execute(warehouse.dialect().createTableIfMissing(warehouse.book("loads"), columns));
        warehouse.close();
        warehouse = opened();
        warehouse.createBooks(Map.of("marks", columns));
        assertThat(warehouse.books()).contains("loads", "marks").doesNotContain("entries");
        assertThat(warehouse.book("marks")).endsWith(".`marks`");
        warehouse.inTransaction(() -> {
            warehouse.update("insert into " + warehouse.book("marks") + " values (?)", "a");
            return true;
        });
        assertThat(warehouse.number("select count(*) from " + warehouse.book("marks")))
                .isEqualTo(1);
    }

    /** As a program leaves it that is killed before a commit is decided, and after. */
    @Test
    void theNextLoadEndsWhatWasDecidedAndDropsWhatWasNot() {
        String huts = numbers("huts");
        String stays = numbers("stays");
        warehouse.createBooks();
        warehouse.execute("insert into " + huts + " values (1)");
        for (String each : List.of("zk_load_1_decided", "zk_load_2_open")) {
            warehouse.execute("set spark.wap.branch=" + each);
            warehouse.execute("insert into " + huts + " values (" + each.charAt(8) + "0)");
            warehouse.execute("insert into " + stays + " values (" + each.charAt(8) + "1)");
            warehouse.execute("reset spark.wap.branch");
        }
        String schema = "`" + warehouse.schema() + "`.";
        warehouse.update(
                "insert into " + warehouse.book("decided") + " values (?, 0, ?), (?, 1, ?)",
                "zk_load_1_decided",
                schema + "`huts`",
                "zk_load_1_decided",
                schema + "`stays`");
        warehouse.execute(
                "call dw.system.fast_forward('" + warehouse.schema() + ".huts', 'main', 'zk_load_1_decided')");
        leaveBehind("elsewhere 1 1 x", LocalDateTime.now().minusDays(1));

        try (Warehouse next = opened()) {
            assertThat(next.lock()).isTrue();
            assertThat(in(next, huts)).containsExactly(1L, 10L);
            assertThat(in(next, stays)).containsExactly(11L);
            assertThat(next.number("select count(*) from " + next.book("decided")))
                    .isZero();
        }
        assertThat(branches(huts)).isEmpty();
        assertThat(branches(stays)).isEmpty();
    }

    private void leaveBehind(String holder, LocalDateTime seen) {
        warehouse.update("update " + warehouse.book("load_lock") + " set holder = ?, seen = ?", holder, seen);
    }

    @Test
    void oneProgramAtATime() throws Exception {
        assertThat(warehouse.lock()).isTrue();
        assertThat(warehouse.lock()).isTrue();
        try (Warehouse other = opened()) {
            assertThat(other.lock()).isFalse();
            warehouse.close();
            assertThat(other.lock()).isTrue();
        }
        warehouse = opened();
        leaveBehind(
                "elsewhere 1 1 x", LocalDateTime.now(java.time.ZoneOffset.UTC).minusMinutes(59));
        assertThat(warehouse.lock()).isFalse();
        leaveBehind(
                "elsewhere 1 1 x", LocalDateTime.now(java.time.ZoneOffset.UTC).minusMinutes(61));
        assertThat(warehouse.lock()).isTrue();
        Process ended = new ProcessBuilder("true").start();
        ended.waitFor();
        String host = LoadLock.machine().orElseThrow();
        leaveBehind(host + " " + ended.pid() + " 1 x", LocalDateTime.now(java.time.ZoneOffset.UTC));
        try (Warehouse other = opened()) {
            assertThat(other.lock()).isTrue();
        }
    }

    @Test
    void valuesOfEveryKindComeThrough() {
        String odd = "a `name` with \"quotes\" and \\ one";
        List<Column> columns = List.of(
                new Column(odd, SqlType.VARCHAR),
                new Column("whole", SqlType.BIGINT),
                new Column("exact", SqlType.decimal(38, 6)),
                new Column("day", SqlType.DATE),
                new Column("moment", SqlType.TIMESTAMP),
                new Column("is_so", SqlType.BOOLEAN));
        List<@Nullable Object> row = Arrays.asList(
                ODD,
                Long.MIN_VALUE,
                new BigDecimal("12345678901234567890123456789012.345678"),
                LocalDate.of(1, 1, 1),
                LocalDateTime.of(2026, 3, 29, 2, 30, 0, 123_456_000),
                true);
        String table = made("odd", columns.toArray(Column[]::new));
        warehouse.update("insert into " + table + " values (?, ?, ?, ?, ?, ?)", row.toArray());
        warehouse.carry("zk_carried", columns, List.of(row, Arrays.asList(null, null, null, null, null, null)));
        warehouse.execute("insert into " + table + " select * from zk_carried");
        assertThat(warehouse.columns("odd")).isEqualTo(columns);
        for (List<@Nullable Object> found : warehouse
                .result("select * from " + table + " where whole is not null")
                .rows()) {
            assertThat(found).isEqualTo(row);
        }
        assertThat(warehouse.number("select count(*) from " + table)).isEqualTo(3);
        assertThat(warehouse.number(
                        "select count(*) from " + table + " where "
                                + warehouse.dialect().quote(odd) + " = ?",
                        ODD))
                .isEqualTo(2);
        warehouse.handOver("select * from " + table, "zk_back");
        assertThat(warehouse.stager().query("select * from zk_back where whole is not null", each -> each.text(1)))
                .containsExactly(ODD, ODD);
    }

    @Test
    void hashesAreThoseOfOtherEngines() {
        Warehouse embedded = Warehouses.open(
                new DatabaseAddress("memory", "jdbc:duckdb:", null, null, null, null), folder, Access.WRITE);
        for (String text : List.of("", "KAL", ODD, "\u00e9", "x".repeat(1000))) {
            String here =
                    "select " + warehouse.dialect().hash63(warehouse.dialect().text(text));
            String there =
                    "select " + embedded.dialect().hash63(embedded.dialect().text(text));
            assertThat(warehouse.number(here)).isEqualTo(embedded.number(there)).isNotNegative();
        }
        embedded.close();
    }

    @Test
    void scratchRelationsHoldWhatTheyWereMadeOf() {
        String huts = numbers("huts");
        warehouse.execute("insert into " + huts + " values (1), (2)");
        warehouse.keep("zk_kept", "select number, cast(number as string) as name from " + huts);
        warehouse.execute("delete from " + huts);
        warehouse.append("zk_kept", "(name) select 'three'");
        warehouse.append("zk_kept", "select cast(4 as int), 'four'");
        assertThat(warehouse.query("select number, name from zk_kept order by name", row -> row.text(1) + row.text(2)))
                .containsExactly("11", "22", "4four", "nullthree");
        warehouse.dropScratch("zk_kept");
        warehouse.close();
        assertThat(TestCluster.leftInExchange(address)).isEmpty();
        warehouse = opened();
    }
}
