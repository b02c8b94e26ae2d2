package dev.zeitkammer.bench;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** The measurements on tiny data: every script runs, and by hand and by the program the same comes out. No time is judged. */
class BenchIT {

    @TempDir
    Path folder;

    private final Path home = Path.of("..").toAbsolutePath().normalize();

    @Test
    void everyWorkIsDoneAndAgreedUpon() throws Exception {
        try (Data data = new Data(7);
                Databases databases = new Databases(home, folder)) {
            Works works = new Works(new Setting(home, folder), data, databases);
            Race race = new Race(1, System.err);
            for (Works.Name name : Works.Name.values()) {
                Race.Result result = race.run(works.make(name, Scale.TINY));
                assertThat(result.of(Contestant.PROGRAM)).as("%s", name).isPresent();
                assertThat(Report.markdown(List.of(result)))
                        .contains(result.work().name());
            }
        }
    }

    @Test
    void growthIsDrawn() throws Exception {
        try (Data data = new Data(7);
                Databases databases = new Databases(home, folder)) {
            Growth growth =
                    new Growth(new Works(new Setting(home, folder), data, databases), new Race(1, System.err), 2);
            Path pictures = folder.resolve("pictures");
            for (Growth.Series series : growth.measure(Scale.TINY, Growth.USUAL)) {
                series.draw(pictures);
                assertThat(Files.size(pictures.resolve(series.picture().file() + ".png")))
                        .isPositive();
            }
        }
    }
}
