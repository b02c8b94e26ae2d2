package dev.zeitkammer.engine.postgres;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import org.junit.jupiter.api.RepeatedTest;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.Timeout;
import org.junit.jupiter.api.Timeout.ThreadMode;

@Timeout(60)
class PipeTest {

    private static final int MUCH = 3_000_000;

    private final List<Path> used = new ArrayList<>();

    private void write(Path file, int bytes) {
        used.add(file);
        try {
            Files.write(file, new byte[bytes]);
        } catch (IOException broken) {
            throw new UncheckedIOException(broken);
        }
    }

    @Test
    void everyByteArrivesAndNothingIsLeft() throws IOException {
        long[] read = new long[1];
        Pipe.between(file -> write(file, MUCH), bytes -> read[0] = bytes.readAllBytes().length);
        assertThat(read[0]).isEqualTo(MUCH);
        assertThat(used.get(0)).doesNotExist();
        assertThat(used.get(0).getParent()).doesNotExist();
    }

    /** Whoever comes first: a writer that failed before the reader came left it waiting for ever. */
    @RepeatedTest(300)
    @Timeout(value = 60, threadMode = ThreadMode.SEPARATE_THREAD)
    void aWriterThatFailsIsTold() {
        assertThatThrownBy(() -> Pipe.between(
                        file -> {
                            throw new IllegalStateException("no rows");
                        },
                        InputStream::readAllBytes))
                .hasMessage("no rows");
    }

    @Test
    void aReaderThatFailsIsToldAndStopsTheWriter() {
        assertThatThrownBy(() -> Pipe.between(file -> write(file, MUCH), bytes -> {
                    bytes.read();
                    throw new IllegalStateException("refused");
                }))
                .hasMessage("refused");
        assertThat(used.get(0)).doesNotExist();
    }
}
