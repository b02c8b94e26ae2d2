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

    private static final String HOLDS = "import java.nio.channels.*; import java.nio.file.*; public class Holds {"
            + " public static void main(String[] path) throws Exception {"
            + " FileLock held = FileChannel.open(Path.of(path[0]), StandardOpenOption.WRITE).tryLock();"
            + " System.out.println(held != null); Thread.sleep(60_000); } }";

    @Test
    void isOpenToItsOwnerOnly() throws IOException {
        Path file = PrivateFolder.file(".csv");
        assertThat(PosixFilePermissions.toString(Files.getPosixFilePermissions(PrivateFolder.path())))
                .isEqualTo("rwx------");
        assertThat(PosixFilePermissions.toString(Files.getPosixFilePermissions(file)))
                .isEqualTo("rw-------");
    }

    private static Path folder(Path in, String name) throws IOException {
        Path made = Files.createDirectories(in.resolve(name).resolve("spill"));
        Files.writeString(made.resolve("rows.csv"), "1");
        Files.writeString(in.resolve(name).resolve("in-use"), "");
        return in.resolve(name);
    }

    /** The number of a process that lives elsewhere may be that of nobody here, or of somebody else. */
    @Test
    void whatNobodyHoldsIsRemoved(@TempDir Path folder) throws IOException, InterruptedException {
        Path ended = folder(folder, "zeitkammer-" + ProcessHandle.current().pid() + "-1234");
        Path alive = folder(folder, "zeitkammer-999999999-1234");
        Path others = Files.createDirectories(folder.resolve("zeitkammer-notes"));
        Path unknown = Files.createDirectories(folder.resolve("zeitkammer-999999998-1234"));
        Path program = Files.writeString(folder.resolve("Holds.java"), HOLDS);
        Process holder = new ProcessBuilder(
                        Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                        program.toString(),
                        alive.resolve("in-use").toString())
                .start();
        try {
            assertThat(holder.inputReader().readLine()).isEqualTo("true");
            PrivateFolder.removeLeftBehind(folder);
            assertThat(ended).doesNotExist();
            assertThat(alive.resolve("spill/rows.csv")).exists();
            assertThat(others).exists();
            assertThat(unknown).as("nothing says that it is left behind").exists();
        } finally {
            holder.destroyForcibly().waitFor();
        }
        PrivateFolder.removeLeftBehind(folder);
        assertThat(alive).doesNotExist();
    }
}
