package dev.zeitkammer.cli.output;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** What goes to a pager, and what does not. */
class PagerTest {

    @TempDir
    Path folder;

    private final ByteArrayOutputStream out = new ByteArrayOutputStream();

    private void written(String command, int lines) throws IOException {
        try (Pager pager = new Pager(out, command, 3)) {
            for (int line = 1; line <= lines; line++) {
                pager.write(("line " + line + "\n").getBytes(StandardCharsets.UTF_8));
            }
        }
    }

    @Test
    void whatFitsIsWrittenAsItIs() throws IOException {
        written("touch " + folder.resolve("started"), 3);
        assertThat(out.toString(StandardCharsets.UTF_8)).isEqualTo("line 1\nline 2\nline 3\n");
        assertThat(folder.resolve("started")).doesNotExist();
    }

    @Test
    void whatIsLongerGoesToThePagerWhole() throws IOException {
        Path read = folder.resolve("read");
        written("cat >" + read, 5);
        assertThat(out.size()).isZero();
        assertThat(read).hasContent("line 1\nline 2\nline 3\nline 4\nline 5");
    }

    /** Closing the pager early is no error. */
    @Test
    void whoHasReadEnoughEndsIt() throws IOException {
        written("true", 100_000);
        assertThat(out.size()).isZero();
    }

    @Test
    void thereIsNoneWithoutATerminal() {
        assertThat(Pager.of(out, Map.of("PAGER", "less", "PATH", "/usr/bin:/bin"), "show", "hut"))
                .isEmpty();
    }
}
