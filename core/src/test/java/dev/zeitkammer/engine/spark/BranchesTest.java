package dev.zeitkammer.engine.spark;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.mockito.ArgumentMatchers.anyString;
import static org.mockito.Mockito.when;

import dev.zeitkammer.engine.CompactedException;
import dev.zeitkammer.engine.GuardException;
import dev.zeitkammer.engine.WarehouseException;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.stream.LongStream;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** A transaction over several tables: what is decided when, and what becomes of what a load left behind; without a cluster. */
class BranchesTest {

    private static final String HUTS = "`huts`.`dim_hut`";
    private static final String STAYS = "`huts`.`fact_stay`";
    private static final String LOADS = "`books`.`loads`";

    private final StagedCluster cluster = new StagedCluster();
    private Branches branches;

    @BeforeEach
    void threeTables() {
        cluster.standing.addAll(List.of(LOADS, STAYS, HUTS));
        branches = new Branches(cluster.warehouse());
    }

    private static List<@Nullable Object> line(String table, String name, long snapshot, long parent) {
        return line(table, name, snapshot, parent, "append");
    }

    private static List<@Nullable Object> line(
            String table, String name, long snapshot, long parent, String operation) {
        return List.of(table, name, snapshot, parent, operation);
    }

    /** Begins a transaction in which some tables are named, and returns its branch. */
    private String begun(String... tables) {
        branches.begin(true);
        for (String table : tables) {
            branches.writes(table);
            branches.executes("insert into `dw`." + table + " select 1");
        }
        return branch();
    }

    private String branch() {
        List<String> set = cluster.executed("set spark.wap.branch=");
        return set.get(set.size() - 1).replaceFirst(".*=", "");
    }

    /** Each table with its branch one snapshot further than the table itself. */
    private void stand(String own, List<List<@Nullable Object>> more, String... tables) {
        List<List<@Nullable Object>> lines = new ArrayList<>(more);
        for (String table : tables) {
            lines.add(line(table, "main", 10, 0));
            lines.add(line(table, own, 11, 0));
            lines.add(line(table, "", 11, 10));
        }
        cluster.answer(".refs where name in", lines);
    }

    @Test
    void theDecisionComesFirstThenTheTablesThenTheBooks() {
        String own = begun(LOADS, HUTS, STAYS);
        stand(own, List.of(), HUTS, STAYS, LOADS);
        branches.commit();
        assertThat(cluster.executed)
                .filteredOn(sql -> sql.matches("(?s)(insert into `dw`.`books`.`decided`|call|alter).*"))
                .containsExactly(
                        "insert into `dw`.`books`.`decided` values ('" + own + "', 0, '" + LOADS + "'), ('" + own
                                + "', 1, '" + HUTS + "'), ('" + own + "', 2, '" + STAYS + "')",
                        "call `dw`.system.fast_forward('" + LOADS + "', 'main', '" + own + "')",
                        "call `dw`.system.fast_forward('" + HUTS + "', 'main', '" + own + "')",
                        "call `dw`.system.fast_forward('" + STAYS + "', 'main', '" + own + "')",
                        "alter table `dw`." + LOADS + " drop branch if exists `" + own + "`",
                        "alter table `dw`." + HUTS + " drop branch if exists `" + own + "`",
                        "alter table `dw`." + STAYS + " drop branch if exists `" + own + "`");
        assertThat(branches.isStuck()).isFalse();
        branches.forgetCarriedOut();
        assertThat(cluster.executed("delete from"))
                .containsExactly("delete from `dw`.`books`.`decided` where branch in ('" + own + "')");
    }

    @Test
    void whatSomebodyElseWroteToStopsTheCommitBeforeItIsDecided() {
        String own = begun(HUTS, STAYS);
        stand(own, List.of(line(STAYS, "main", 12, 0), line(STAYS, own, 11, 0), line(STAYS, "", 11, 10)), HUTS);
        assertThatThrownBy(branches::commit)
                .isInstanceOf(GuardException.class)
                .hasMessageContaining("Somebody else wrote to " + STAYS);
        assertThat(cluster.executed("decided")).isEmpty();
        assertThat(cluster.executed("fast_forward")).isEmpty();
        branches.takeBack();
        assertThat(cluster.executed("drop branch")).hasSize(2).allMatch(sql -> sql.endsWith("`" + own + "`"));
    }

    @Test
    void severalSnapshotsOfTheBranchStillFollowTheTable() {
        String own = begun(HUTS);
        cluster.answer(
                ".refs where name in",
                List.of(
                        line(HUTS, "main", 10, 0),
                        line(HUTS, own, 13, 0),
                        line(HUTS, "", 13, 12),
                        line(HUTS, "", 12, 11),
                        line(HUTS, "", 11, 10)));
        branches.commit();
        assertThat(cluster.executed("fast_forward")).hasSize(1);
    }

    /** The branch grew out of what somebody else wrote after the table had been read. */
    @Test
    void whatSomebodyElseWroteBeforeTheBranchWasMadeStopsTheCommitToo() {
        cluster.answer(".refs where name = 'main'", List.of(line(HUTS, "main", 9, 0)));
        String own = begun(HUTS);
        stand(own, List.of(line(HUTS, "", 10, 9)), HUTS);
        assertThatThrownBy(branches::commit)
                .isInstanceOf(GuardException.class)
                .hasMessageContaining("Somebody else wrote to " + HUTS);
        assertThat(cluster.executed("decided")).isEmpty();
    }

    @Test
    void rowsThatOthersOnlyPutIntoOtherFilesAreTheSame() {
        cluster.answer(".refs where name = 'main'", List.of(line(HUTS, "main", 8, 0)));
        String own = begun(HUTS);
        stand(own, List.of(line(HUTS, "", 10, 9, "replace"), line(HUTS, "", 9, 8, "replace")), HUTS);
        branches.commit();
        assertThat(cluster.executed("fast_forward")).hasSize(1);
    }

    /** A compaction came after the branch was made: no row is another one, and the table may be loaded again. */
    @Test
    void filesThatOthersRewroteUnderTheBranchAreToldFromRows() {
        cluster.answer(".refs where name = 'main'", List.of(line(HUTS, "main", 10, 0)));
        String own = begun(HUTS);
        cluster.answer(".refs where name in", rewritten(own, "replace"));
        assertThatThrownBy(branches::commit).isInstanceOf(CompactedException.class);
        assertThat(cluster.executed("decided")).isEmpty();
        branches.takeBack();
        cluster.answer(".refs where name in", rewritten(begun(HUTS), "overwrite"));
        assertThatThrownBy(branches::commit).isInstanceOf(GuardException.class);
    }

    /** Of two snapshots that came after the branch was made, the second is a compaction. */
    private static List<List<@Nullable Object>> rewritten(String own, String first) {
        return List.of(
                line(HUTS, "main", 13, 0),
                line(HUTS, own, 11, 0),
                line(HUTS, "", 11, 10),
                line(HUTS, "", 12, 10, first),
                line(HUTS, "", 13, 12, "replace"));
    }

    /** The commit is decided, and the table cannot be put forward: somebody compacted it in that moment. */
    private String compactedOnceDecided(long before) {
        String own = begun(HUTS);
        AtomicBoolean isDecided = new AtomicBoolean();
        cluster.refuse("fast_forward", new WarehouseException("not an ancestor", null));
        cluster.answer(
                ".refs where name in",
                () -> List.of(
                        line(HUTS, "main", isDecided.getAndSet(true) ? 12 : 10, 0),
                        line(HUTS, own, 11, 0),
                        line(HUTS, "", 11, 10),
                        line(HUTS, "", 12, 10, "replace")));
        history(10, before, 11);
        return own;
    }

    private void history(long... snapshots) {
        cluster.answer(
                ".history",
                LongStream.of(snapshots)
                        .<List<@Nullable Object>>mapToObj(List::of)
                        .toList());
    }

    /** Who wrote after the table became its branch built on it: that is not taken away, and a person must look. */
    @Test
    void whatSomebodyBuiltOnTheBranchIsNotTakenAway() {
        compactedOnceDecided(14);
        history(10, 14, 11, 15);
        assertThatThrownBy(branches::commit).hasMessageContaining("cannot be put forward");
        assertThat(cluster.executed("set_current_snapshot"))
                .containsExactly("call `dw`.system.set_current_snapshot('" + HUTS + "', 11)");
    }

    @Test
    void aTableThatWasCompactedOnceAllIsDecidedBecomesItsBranch() {
        String own = compactedOnceDecided(12);
        branches.commit();
        assertThat(cluster.executed("set_current_snapshot"))
                .containsExactly("call `dw`.system.set_current_snapshot('" + HUTS + "', 11)");
        assertThat(cluster.executed("drop branch")).singleElement().asString().endsWith("`" + own + "`");
    }

    @Test
    void whatSomebodyWroteInThatVeryMomentStands() {
        compactedOnceDecided(14);
        assertThatThrownBy(branches::commit).hasMessageContaining("cannot be put forward");
        assertThat(cluster.executed("set_current_snapshot"))
                .containsExactly(
                        "call `dw`.system.set_current_snapshot('" + HUTS + "', 11)",
                        "call `dw`.system.set_current_snapshot('" + HUTS + "', 14)");
        assertThat(cluster.executed("drop branch")).isEmpty();
        assertThat(branches.isStuck()).isTrue();
    }

    @Test
    void whatTheSessionItselfPutForwardIsItsBase() {
        cluster.answer(".refs where name = 'main'", List.of(line(HUTS, "main", 10, 0)));
        String first = begun(HUTS);
        stand(first, List.of(), HUTS);
        branches.commit();
        branches.begin(true);
        branches.writes(HUTS);
        branches.executes("insert into `dw`." + HUTS + " select 1");
        String second = branch();
        cluster.answer(
                ".refs where name in",
                List.of(line(HUTS, "main", 11, 0), line(HUTS, second, 12, 0), line(HUTS, "", 12, 11)));
        branches.commit();
        assertThat(cluster.executed("fast_forward")).hasSize(2);
    }

    @Test
    void whoeverLostTheLockDecidesNothing() {
        SparkWarehouse warehouse = cluster.warehouse();
        when(warehouse.isStillLocked()).thenReturn(Optional.of("exists (select 1)"));
        branches = new Branches(warehouse);
        String own = begun(HUTS);
        stand(own, List.of(), HUTS);
        assertThatThrownBy(branches::commit)
                .isInstanceOf(WarehouseException.class)
                .hasMessageContaining("Another load took the lock");
        assertThat(cluster.executed("insert into `dw`.`books`.`decided` select * from values"))
                .hasSize(1)
                .allMatch(sql -> sql.endsWith("where exists (select 1)"));
        assertThat(cluster.executed("fast_forward")).isEmpty();
        branches.takeBack();
        assertThat(cluster.executed("drop branch")).hasSize(1);
        when(warehouse.number(anyString())).thenReturn(1L);
        begun(HUTS);
        cluster.answer(
                ".refs where name in",
                List.of(line(HUTS, "main", 10, 0), line(HUTS, branch(), 11, 0), line(HUTS, "", 11, 10)));
        branches.commit();
        assertThat(cluster.executed("fast_forward"))
                .as("whoever has it decides")
                .hasSize(1);
    }

    @Test
    void aTableThatTakesNoBranchesIsNotWritten() {
        SparkWarehouse warehouse = cluster.warehouse();
        when(warehouse.takesBranches(anyString())).thenReturn(false);
        branches = new Branches(warehouse);
        assertThatThrownBy(() -> begun(HUTS))
                .isInstanceOf(GuardException.class)
                .hasMessageContaining("takes no writes to branches");
    }

    @Test
    void nothingThatWasNotWrittenIsDecided() {
        begun(HUTS);
        cluster.answer(".refs where name in", List.of(line(HUTS, "main", 10, 0)));
        branches.commit();
        assertThat(cluster.executed("decided")).isEmpty();
    }

    @Test
    void aDecisionThatCannotBeCarriedOutIsTold() {
        String own = begun(HUTS);
        stand(own, List.of(), HUTS);
        cluster.refuse("fast_forward", new WarehouseException("no ancestor", null));
        assertThatThrownBy(branches::commit)
                .hasMessageContaining("stands in its branch " + own + " and cannot be put forward: no ancestor");
        assertThat(branches.isStuck()).isTrue();
    }

    /** One load was killed after its decision, halfway; one before; one rehearsal runs, and one was left days ago. */
    @Test
    void recoveryEndsWhatWasDecidedAndTakesBackTheRest() {
        String fresh = rehearsal(Duration.ofMinutes(5));
        String old = rehearsal(Duration.ofDays(3));
        cluster.answer(
                "select branch, table_name",
                List.of(List.of("zk_load_1_a", HUTS), List.of("zk_load_1_a", STAYS), List.of("zk_load_0_done", HUTS)));
        cluster.answer(
                ".refs where name like",
                List.of(
                        line(STAYS, "zk_load_1_a", 11, 0),
                        line(HUTS, "zk_load_2_b", 11, 0),
                        line(HUTS, fresh, 11, 0),
                        line(HUTS, old, 11, 0)));
        branches.recover();
        assertThat(cluster.executed("fast_forward"))
                .as("of what was decided, what is not put forward yet")
                .containsExactly("call `dw`.system.fast_forward('" + STAYS + "', 'main', 'zk_load_1_a')");
        assertThat(cluster.executed("drop branch"))
                .containsExactlyInAnyOrder(
                        "alter table `dw`." + STAYS + " drop branch if exists `zk_load_1_a`",
                        "alter table `dw`." + HUTS + " drop branch if exists `zk_load_2_b`",
                        "alter table `dw`." + HUTS + " drop branch if exists `" + old + "`");
        assertThat(cluster.executed("delete from `dw`.`books`.`decided`")).hasSize(1);
    }

    private static String rehearsal(Duration ago) {
        return "zk_rehearsal_" + Long.toHexString(Instant.now().minus(ago).getEpochSecond()) + "_x";
    }
}
