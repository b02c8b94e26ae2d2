package dev.zeitkammer.engine.spark;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.engine.BusyException;
import dev.zeitkammer.engine.DatabaseAddress;
import java.sql.SQLException;
import org.junit.jupiter.api.Test;

class SparkMessagesTest {

    private static final DatabaseAddress ADDRESS =
            new DatabaseAddress("lake", "jdbc:hive2://cluster:10000/default", null, null, null, "huts");

    @Test
    void wordsStandWithoutTheNamesOfClasses() {
        assertThat(words("org.apache.hive.service.cli.HiveSQLException: Error running query: [DIVIDE_BY_ZERO]"
                        + " org.apache.spark.SparkArithmeticException: [DIVIDE_BY_ZERO] Division by zero. SQLSTATE: 22012\n"
                        + "== SQL (line 1) ==\n"))
                .isEqualTo("[DIVIDE_BY_ZERO] Division by zero.");
        assertThat(words("org.apache.hive.service.cli.HiveSQLException: Error running query:"
                        + " org.apache.spark.sql.catalyst.parser.ParseException: \n"
                        + "[PARSE_SYNTAX_ERROR] Syntax error at or near 'exists'.(line 5, pos 3)\n\n== SQL ==\nselect"))
                .isEqualTo("[PARSE_SYNTAX_ERROR] Syntax error at or near 'exists'.(line 5, pos 3)");
        assertThat(words("\tat org.apache.Nobody")).isEqualTo("the cluster gave no reason");
    }

    private static String words(String message) {
        return SparkMessages.failure(new SQLException(message, "HY000"), "lake").getMessage();
    }

    @Test
    void whereMemoryRanOutItSaysWhatToRaise() {
        assertThat(words(
                        "Job aborted due to stage failure: Task 0 in stage 5.0 failed 4 times (TID 12) (10.0.0.7 executor 3):"
                                + " ExecutorLostFailure (executor 3 exited caused by one of the running tasks) Reason: Container killed"
                                + " by YARN for exceeding physical memory limits. 5.5 GB of 5.5 GB used"))
                .endsWith("raise spark.executor.memoryOverhead there, and load again");
        assertThat(words("Job aborted due to stage failure: Task 3 in stage 7.0 failed 4 times\n\tat a.b\n"
                        + "Caused by: java.lang.OutOfMemoryError: Java heap space"))
                .endsWith("raise spark.executor.memory, or spark.sql.shuffle.partitions there, and load again");
        assertThat(
                        words(
                                "Total size of serialized results of 9 tasks (1.1 GiB) is bigger than spark.driver.maxResultSize"))
                .endsWith("raise spark.driver.maxResultSize there, and load again");
        assertThat(words("[DIVIDE_BY_ZERO] Division by zero.")).isEqualTo("[DIVIDE_BY_ZERO] Division by zero.");
    }

    @Test
    void aLostConnectionSaysWhatBecomesOfTheLoad() {
        assertThat(SparkMessages.failure(
                        new SQLException("org.apache.thrift.transport.TTransportException: Socket is closed", "08S01"),
                        "lake"))
                .hasMessage(
                        "The connection to lake was lost (Socket is closed); what was under way is not loaded, and loading"
                                + " again mends it");
    }

    @Test
    void nobodyWhoAnswersMayBeWaitedFor() {
        assertThat(SparkMessages.notOpened(
                        ADDRESS,
                        new SQLException("Could not open client transport with JDBC Uri: x: Connection refused")))
                .isInstanceOf(BusyException.class)
                .hasMessageContaining("lake (jdbc:hive2://cluster:10000/default)")
                .hasMessageContaining("no cluster answers there");
    }
}
