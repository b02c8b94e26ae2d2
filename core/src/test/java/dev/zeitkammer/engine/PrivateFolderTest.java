package dev.zeitkammer.engine;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermissions;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Nobody else looks into the folder of a process, and nothing of it stays. */
class PrivateFolderTest {

    @Test
    void isOpenToItsOwnerOnly() throws IOException {
        Path file = PrivateFolder.file(".csv");
        assertThat(PosixFilePermissions.toString(Files.getPosixFilePermissions(PrivateFolder.path())))
                .isEqualTo("rwx------");
        assertThat(PosixFilePermissions.toString(Files.getPosixFilePermissions(file)))
                .isEqualTo("rw-------");
    }

    @Test
    void whatAProcessThatHasEndedLeftIsRemoved(@TempDir Path folder) throws IOException, InterruptedException {
        Process ended = new ProcessBuilder("true").start();
        ended.waitFor();
        Path left = Files.createDirectories(folder.resolve("zeitkammer-" + ended.pid() + "-1234/spill"));
        Files.writeString(left.resolve("rows.csv"), "1");
        Path own = Files.createDirectories(
                folder.resolve("zeitkammer-" + ProcessHandle.current().pid() + "-1234"));
        Path others = Files.createDirectories(folder.resolve("zeitkammer-notes"));
        PrivateFolder.removeLeftBehind(folder);
        assertThat(left.getParent()).doesNotExist();
        assertThat(own).exists();
        assertThat(others).exists();
    }
}
