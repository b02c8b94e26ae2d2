package dev.zeitkammer.engine.spark;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.zeitkammer.engine.Caption;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.CompactedException;
import dev.zeitkammer.engine.GuardException;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.TableChange;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.WarehouseException;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.condition.EnabledIf;

/** Others work in the same schema, with sessions of their own. */
@EnabledIf("dev.zeitkammer.load.TestWarehouses#onCluster")
class SharedClusterTest extends OnCluster {

    /** Others make tables and columns in the same schema while a load is rehearsed, and while one fails. */
    @Test
    void whatOthersMakeMeanwhileIsNotTakenBack() {
        String huts = numbers("huts");
        warehouse.createBooks();
        try (Warehouse other = opened()) {
            warehouse.rehearse(() -> {
                numbers("stays");
                other.execute("create table " + other.table("reports") + " using iceberg as select 7 as number");
                warehouse.execute(warehouse.dialect().addColumn(huts, new Column("beds", SqlType.INTEGER)));
                warehouse.execute(warehouse.dialect().renameColumn(huts, "number", "no"));
                other.execute(other.dialect().addColumn(huts, new Column("remark", SqlType.VARCHAR)));
                return true;
            });
            assertThatThrownBy(() -> warehouse.inTransaction(() -> {
                        String trips = numbers("trips");
                        other.execute("drop table " + trips);
                        other.execute("create table " + trips + " using iceberg as select 8 as number");
                        throw new GuardException("stopped");
                    }))
                    .hasMessage("stopped");
        }
        assertThat(in(warehouse, warehouse.table("reports"))).containsExactly(7L);
        assertThat(in(warehouse, warehouse.table("trips"))).containsExactly(8L);
        warehouse.close();
        warehouse = opened();
        assertThat(warehouse.has("stays")).isFalse();
        assertThat(warehouse.columns("huts")).extracting(Column::name).containsExactly("number", "remark");
    }

    @Test
    void aTableThatSomebodyElseWroteMeanwhileStopsTheCommit() {
        String huts = numbers("huts");
        String stays = numbers("stays");
        warehouse.execute("insert into " + huts + " values (1)");
        warehouse.createBooks();
        try (Warehouse other = opened()) {
            assertThatThrownBy(() -> warehouse.inTransaction(() -> {
                        warehouse.execute("insert into " + stays + " values (7)");
                        warehouse.execute("insert into " + huts + " values (2)");
                        other.execute("insert into " + huts + " values (99)");
                        return true;
                    }))
                    .isInstanceOf(GuardException.class)
                    .hasMessageContaining("Somebody else wrote to `" + warehouse.schema() + "`.`huts`");
        }
        assertThat(in(warehouse, huts)).containsExactly(1L, 99L);
        assertThat(in(warehouse, stays)).isEmpty();
    }

    /** A repair by hand comes after the table was read, and before anything is written to it; a compaction changes no row. */
    @Test
    void whatIsReadIsStillSoWhenItIsDecided() {
        String huts = numbers("huts");
        String stays = numbers("stays");
        warehouse.execute("insert into " + huts + " values (1)");
        warehouse.execute("insert into " + stays + " values (1)");
        warehouse.execute("insert into " + stays + " values (2)");
        warehouse.createBooks();
        try (Warehouse other = opened()) {
            assertThatThrownBy(() -> warehouse.inTransaction(() -> {
                        assertThat(in(warehouse, huts)).containsExactly(1L);
                        other.execute("insert into " + huts + " values (9)");
                        warehouse.execute("insert into " + huts + " values (2)");
                        return true;
                    }))
                    .isInstanceOf(GuardException.class)
                    .hasMessageContaining("Somebody else wrote to");
            assertThat(in(other, huts)).containsExactly(1L, 9L);
            warehouse.inTransaction(() -> {
                assertThat(in(warehouse, stays)).containsExactly(1L, 2L);
                compact(other, stays);
                warehouse.execute("insert into " + stays + " values (3)");
                return true;
            });
            assertThat(in(other, stays)).containsExactly(1L, 2L, 3L);
        }
    }

    @Test
    void whoeverLostTheLockCommitsNothing() {
        String huts = numbers("huts");
        warehouse.execute("insert into " + huts + " values (1)");
        assertThat(warehouse.lock()).isTrue();
        warehouse.inTransaction(() -> {
            warehouse.execute("insert into " + huts + " values (2)");
            return true;
        });
        assertThatThrownBy(() -> warehouse.inTransaction(() -> {
                    warehouse.execute("insert into " + huts + " values (3)");
                    try (Warehouse other = opened()) {
                        other.execute("update " + other.book("load_lock") + " set holder = 'elsewhere 1 1 x'");
                    }
                    return true;
                }))
                .isInstanceOf(WarehouseException.class)
                .hasMessageContaining("Another load took the lock");
        assertThat(in(warehouse, huts)).containsExactly(1L, 2L);
        assertThat(branches(huts)).isEmpty();
    }

    @Test
    void tablesOfOthersAreWrittenToTheirBranchOrNotAtAll() {
        String huts = warehouse.table("huts");
        warehouse.execute("create table " + huts + " (number bigint) using iceberg");
        warehouse.createBooks();
        TableChange insert = new TableChange.Insert(new Caption("huts", "A row."), huts, List.of("number"), "select 1");
        assertThatThrownBy(() -> warehouse.inTransaction(() -> {
                    warehouse.publish(List.of(insert), List.of());
                    return true;
                }))
                .isInstanceOf(GuardException.class)
                .hasMessageContaining("takes no writes to branches");
        assertThat(in(warehouse, huts)).isEmpty();
        warehouse.rehearse(() -> {
            warehouse.madeReady("huts").forEach(warehouse::execute);
            warehouse.publish(List.of(insert), List.of());
            assertThat(in(warehouse, huts)).containsExactly(1L);
            return true;
        });
        assertThat(in(warehouse, huts)).isEmpty();
        assertThat(warehouse.madeReady("huts")).as("it is what it was").hasSize(1);
        warehouse.inTransaction(() -> {
            warehouse.madeReady("huts").forEach(warehouse::execute);
            warehouse.publish(List.of(insert), List.of());
            return true;
        });
        assertThat(in(warehouse, huts)).containsExactly(1L);
        assertThat(warehouse.madeReady("huts")).isEmpty();
    }

    /** As when the cluster refuses to put a table forward that somebody else has written to in between. */
    @Test
    void nothingIsWrittenBeforeWhatWasDecidedStands() {
        String huts = numbers("huts");
        warehouse.createBooks();
        warehouse.execute("insert into " + huts + " values (1)");
        warehouse.execute("set spark.wap.branch=zk_load_3_decided");
        warehouse.execute("insert into " + huts + " values (2)");
        warehouse.execute("reset spark.wap.branch");
        warehouse.execute("insert into " + huts + " values (3)");
        decide("zk_load_3_decided", "huts");
        assertThatThrownBy(() -> warehouse.lock())
                .hasMessageContaining("stands in its branch zk_load_3_decided and cannot be put forward")
                .hasMessageContaining("bring the branch in by hand, drop it, and load again");
        assertThat(in(warehouse, huts)).containsExactly(1L, 3L);
        warehouse.execute("alter table " + huts + " drop branch zk_load_3_decided");
        try (Warehouse next = opened()) {
            warehouse.close();
            assertThat(next.lock()).isTrue();
            assertThat(next.number("select count(*) from " + next.book("decided")))
                    .isZero();
        }
        warehouse = opened();
    }

    /** What was written follows files that are no more: the rows are there, and the transaction may be run again. */
    @Test
    void whatOthersCompactWhileItIsWrittenIsNoReasonToGiveUp() {
        String stays = numbers("stays");
        warehouse.execute("insert into " + stays + " values (1)");
        warehouse.execute("insert into " + stays + " values (2)");
        warehouse.createBooks();
        try (Warehouse other = opened()) {
            assertThatThrownBy(() -> warehouse.inTransaction(() -> {
                        warehouse.execute("insert into " + stays + " values (3)");
                        compact(other, stays);
                        return true;
                    }))
                    .isInstanceOf(CompactedException.class);
            assertThat(in(other, stays)).containsExactly(1L, 2L);
            warehouse.inTransaction(() -> {
                warehouse.execute("insert into " + stays + " values (3)");
                return true;
            });
            assertThat(in(other, stays)).containsExactly(1L, 2L, 3L);
        }
    }

    @Test
    void whatOthersCompactBetweenADecisionAndItsEndIsPutForwardAllTheSame() {
        String huts = numbers("huts");
        warehouse.createBooks();
        warehouse.execute("insert into " + huts + " values (1)");
        warehouse.execute("insert into " + huts + " values (2)");
        warehouse.execute("set spark.wap.branch=zk_load_3_decided");
        warehouse.execute("delete from " + huts + " where number = 1");
        warehouse.execute("reset spark.wap.branch");
        compact(warehouse, huts);
        decide("zk_load_3_decided", "huts");
        assertThat(warehouse.lock()).isTrue();
        assertThat(in(warehouse, huts)).containsExactly(2L);
        assertThat(branches(huts)).isEmpty();
    }

    private static void compact(Warehouse by, String table) {
        by.query(
                "call `dw`.system.rewrite_data_files(table => '"
                        + table.replace("`dw`.", "").replace("`", "") + "', options => map('rewrite-all', 'true'))",
                row -> true);
    }

    private void decide(String branch, String table) {
        warehouse.update(
                "insert into " + warehouse.book("decided") + " values (?, 0, ?)",
                branch,
                "`" + warehouse.schema() + "`.`" + table + "`");
    }
}
