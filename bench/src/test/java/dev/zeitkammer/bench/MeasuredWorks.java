package dev.zeitkammer.bench;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Path;
import java.util.Arrays;
import java.util.List;
import java.util.function.Predicate;
import org.junit.jupiter.api.io.TempDir;

/** The measurements on tiny data: every script runs, and by hand and by the program the same comes out. No time is judged. */
abstract class MeasuredWorks {

    static final Path HOME = Path.of("..").toAbsolutePath().normalize();

    @TempDir
    Path folder;

    void areDoneAndAgreedUpon(Predicate<Works.Name> those) throws Exception {
        try (Data data = new Data(7);
                Databases databases = new Databases(HOME, folder)) {
            Works works = new Works(new Setting(HOME, folder), data, databases);
            Race race = new Race(1, System.err);
            for (Works.Name name :
                    Arrays.stream(Works.Name.values()).filter(those).toList()) {
                Race.Result result = race.run(works.make(name, Scale.TINY));
                assertThat(result.of(Contestant.PROGRAM)).as("%s", name).isPresent();
                assertThat(Report.markdown(List.of(result)))
                        .contains(result.work().name());
            }
        }
    }
}
