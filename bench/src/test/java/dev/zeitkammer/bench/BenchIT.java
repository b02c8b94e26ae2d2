package dev.zeitkammer.bench;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Files;
import java.nio.file.Path;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;

/** The works of a server, and the pictures of how works grow. */
@Tag("bench")
class BenchIT extends MeasuredWorks {

    @Test
    void everyWorkOfAServerIsDoneAndAgreedUpon() throws Exception {
        areDoneAndAgreedUpon(Works.Name::needsServer);
    }

    @Test
    void growthIsDrawn() throws Exception {
        try (Data data = new Data(7);
                Databases databases = new Databases(HOME, folder)) {
            Growth growth =
                    new Growth(new Works(new Setting(HOME, folder), data, databases), new Race(1, System.err), 2);
            Path pictures = folder.resolve("pictures");
            for (Growth.Series series : growth.measure(Scale.TINY, Growth.USUAL)) {
                series.draw(pictures);
                assertThat(Files.size(pictures.resolve(series.picture().file() + ".png")))
                        .isPositive();
            }
        }
    }
}
