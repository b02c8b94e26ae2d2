package dev.zeitkammer.cli;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.cli.Program.Run;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** A warehouse that another program has open, or that is not there yet. */
class WaitIT {

    @TempDir
    Path folder;

    private Program here;

    @BeforeEach
    void project() {
        here = new Program(folder);
        here.write("zeitkammer.yaml", """
                project: star
                warehouses:
                  local: {url: "jdbc:duckdb:warehouse.duckdb"}
                  server: {url: "jdbc:postgresql://127.0.0.1:1/huts?password=hush", user: me, password: hush}
                use: local
                """);
        here.write("dimensions/hut.yaml", "dimension: hut\nfrom: {files: huts.csv}\nkey: code\nall-others: type 1\n");
        here.write("huts.csv", "code,name\nA,x\n");
        assertThat(here.launched("load").status()).isZero();
    }

    @Test
    void aLoadWaitsForTheOtherProgram() throws Exception {
        Process waiting;
        try (Connection other = DriverManager.getConnection("jdbc:duckdb:" + folder.resolve("warehouse.duckdb"))) {
            assertThat(other.isClosed()).isFalse();
            Run refused = here.launched("load");
            assertThat(refused.status()).isEqualTo(1);
            assertThat(refused.err()).contains("open in another program", "--wait");
            Run tooLong = here.launched("load", "--wait", "1s");
            assertThat(tooLong.status()).isEqualTo(1);
            assertThat(tooLong.err()).contains("Waiting until", "open in another program");
            waiting = here.startTelling("load", "--wait", "2m");
            assertThat(waiting.errorReader().readLine()).contains("open in another program");
        }
        assertThat(waiting.waitFor(1, TimeUnit.MINUTES)).isTrue();
        assertThat(waiting.exitValue()).isZero();
    }

    @Test
    void saysThatAServerDoesNotAnswer() {
        Run down = here.launched("load", "--warehouse", "server");
        assertThat(down.status()).isEqualTo(1);
        assertThat(down.err())
                .contains("no server answers there", "server (jdbc:postgresql://127.0.0.1:1/huts)")
                .doesNotContain("hush");
        Run usage = here.launched("load", "--wait", "soon");
        assertThat(usage.status()).isEqualTo(2);
        assertThat(usage.err()).contains("no time such as 90s, 5m");
    }
}
