package dev.zeitkammer.bench;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assertions.within;

import java.nio.file.Path;
import java.util.List;
import java.util.stream.DoubleStream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

class MeasureTest {

    @TempDir
    Path folder;

    private static List<Measure> runs(double... seconds) {
        return DoubleStream.of(seconds)
                .mapToObj(each -> new Measure(each, (long) (each * 100)))
                .toList();
    }

    @Test
    void theMedianIsNotMovedByOneSlowRun() {
        assertThat(Measure.median(runs(3, 1, 90))).isEqualTo(new Measure(3, 9000));
        assertThat(Measure.median(runs(1, 2)).seconds()).isEqualTo(1.5);
    }

    @Test
    void runsAreComparedWithTheOnesOfTheirRound() {
        // the machine is twice as slow in the second round, and half as slow in the third
        assertThat(Measure.ratio(runs(3, 6, 1.5), runs(2, 4, 1))).isEqualTo(1.5, within(1e-9));
    }

    @Test
    void aFailureTellsWhatWasPrinted() {
        String java = Path.of(System.getProperty("java.home"), "bin", "java").toString();
        assertThatThrownBy(() -> Measure.of(List.of(java, "-cp", folder.toString(), "NoSuchClass"), folder))
                .hasMessageContaining("NoSuchClass")
                .hasMessageContaining("ClassNotFoundException");
    }
}
