package dev.zeitkammer.engine.spark;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.engine.WarehouseException;
import dev.zeitkammer.engine.spark.LoadLock.Taken;
import java.time.Duration;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.List;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** Who may load, by the row of the lock: who holds it, who was not seen for long, and who came second; without a cluster. */
class LoadLockTest {

    private final StagedCluster cluster = new StagedCluster();
    private final LoadLock lock = new LoadLock(cluster.warehouse());
    private String holder = "";
    private LocalDateTime seen = LocalDateTime.now(ZoneOffset.UTC);

    @BeforeEach
    void aTableOfOneRow() {
        cluster.answer("select holder, seen", () -> List.of(List.of(holder, seen)));
        cluster.onUpdate(values -> {
            if (holder.equals(values[2])) {
                holder = String.valueOf(values[0]);
                seen = (LocalDateTime) values[1];
            }
        });
    }

    @Test
    void aFreeLockIsTakenAndGivenBack() {
        assertThat(lock.take()).isEqualTo(Taken.YES);
        assertThat(holder).isNotEmpty();
        assertThat(new LoadLock(cluster.warehouse()).take())
                .as("another load of this process")
                .isEqualTo(Taken.NO);
        assertThat(lock.take()).as("it has it").isEqualTo(Taken.YES);
        lock.release();
        assertThat(holder).isEmpty();
    }

    @Test
    void aLockThatIsHeldElsewhereIsNotTaken() {
        holder = "elsewhere 1 1 x";
        seen = seen.minusMinutes(59);
        assertThat(lock.take()).isEqualTo(Taken.NO);
        lock.release();
        assertThat(cluster.executed)
                .as("what one does not have, one does not give back")
                .isEmpty();
    }

    @Test
    void whatWasNotSeenForAnHourWasLeftBehind() {
        holder = "elsewhere 1 1 x";
        seen = seen.minusMinutes(61);
        assertThat(lock.take()).isEqualTo(Taken.LEFT_BEHIND);
    }

    /** A process that has ended on this machine left it behind at once; of another boot, or numbered elsewhere, nobody knows. */
    @Test
    void aProcessIsDeadOnlyWhereItsNumberCanBeCompared() {
        String machine = LoadLock.machine().orElseThrow();
        holder = machine + " 999999999 1 x";
        assertThat(lock.take()).isEqualTo(Taken.LEFT_BEHIND);
        lock.release();
        holder = machine + "7 999999999 1 x";
        assertThat(lock.take()).isEqualTo(Taken.NO);
        holder = machine.split("/")[0] + " 999999999 1 x";
        assertThat(lock.take()).isEqualTo(Taken.NO);
        holder = machine + " " + ProcessHandle.current().pid() + " 1 x";
        assertThat(lock.take()).as("another process had this number").isEqualTo(Taken.LEFT_BEHIND);
    }

    @Test
    void whoeverHasItShowsThatBesideTheWork() throws InterruptedException {
        LoadLock shown = new LoadLock(cluster.warehouse(), Duration.ofMillis(10));
        assertThat(shown.take()).isEqualTo(Taken.YES);
        for (int wait = 0; wait < 500 && cluster.executed("set seen = ").isEmpty(); wait++) {
            Thread.sleep(10);
        }
        assertThat(cluster.executed("set seen = ").get(0)).endsWith("where holder = '" + holder + "'");
        assertThat(shown.isStillHeld().orElseThrow()).contains("where holder = '" + holder + "'");
        shown.release();
        assertThat(shown.isStillHeld()).isEmpty();
    }

    @Test
    void theSecondOfTwoThatCommitAtOnceHasNothing() {
        cluster.refuse("update", new WarehouseException("a conflicting commit", null));
        assertThat(lock.take()).isEqualTo(Taken.NO);
        lock.release();
        assertThat(cluster.executed("update")).hasSize(1);
    }

    @Test
    void whoeverReadsAnotherNameAfterwardsHasNothing() {
        cluster.onUpdate(values -> holder = "elsewhere 1 1 x");
        assertThat(lock.take()).isEqualTo(Taken.NO);
        assertThat(lock.take()).isEqualTo(Taken.NO);
    }

    @Test
    void aLockThatAnotherTookIsNotHeldAnyMore() {
        assertThat(lock.take()).isEqualTo(Taken.YES);
        holder = "elsewhere 1 1 x";
        assertThat(lock.take()).isEqualTo(Taken.NO);
        lock.release();
        assertThat(holder).isEqualTo("elsewhere 1 1 x");
    }
}
