package dev.zeitkammer.bench;

import dev.zeitkammer.bench.Works.Name;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.EnumSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.Callable;
import java.util.stream.Stream;
import picocli.CommandLine;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;

/** The measurements as a command. */
@Command(
        name = "bench",
        mixinStandardHelpOptions = true,
        description = {
            "Measures loads against hand-written SQL (bench/sql) and against the least that any load must do.",
            "Everything runs as a process, turn by turn, and the ratios of medians are told."
        })
public final class Bench implements Callable<Integer> {

    private static final int SIZES = 4;

    @Option(names = "--home", required = true, hidden = true)
    private Path home = Path.of(".");

    @Option(names = "--small", description = "Small data, in two minutes: before a commit that touches the steps.")
    private boolean small;

    @Option(names = "--tiny", hidden = true)
    private boolean tiny;

    @Option(
            names = "--sizes",
            description = "How times grow over four sizes, with pictures: next, extract and csv, or those of --only.")
    private boolean sizes;

    @Option(
            names = "--only",
            split = ",",
            paramLabel = "WORK",
            description =
                    "Only these: ${COMPLETION-CANDIDATES}; many and those of a cluster are measured only when they are named.")
    private Set<Name> only = EnumSet.noneOf(Name.class);

    @Option(
            names = "--rounds",
            paramLabel = "N",
            description = "How often each contestant runs (default: ${DEFAULT-VALUE}).")
    private int rounds = 3;

    @Option(names = "--members", paramLabel = "N", description = "Members of the dimension, instead of 5M.")
    private long members;

    @Option(names = "--facts", paramLabel = "N", description = "Facts, instead of 20M.")
    private long facts;

    @Option(names = "--seed", paramLabel = "N", description = "Other data (default: ${DEFAULT-VALUE}).")
    private long seed = 1;

    @Option(names = "--folder", paramLabel = "F", description = "Where data go; they are kept there for the next time.")
    private Optional<Path> folder = Optional.empty();

    @Option(names = "--markdown", description = "Prints the table for a page of the manual.")
    private boolean markdown;

    @Option(names = "--pictures", paramLabel = "F", description = "Where --sizes draws (default: ${DEFAULT-VALUE}).")
    private Path pictures = Path.of("docs", "pictures");

    public static void main(String[] args) {
        System.exit(new CommandLine(new Bench())
                .setCaseInsensitiveEnumValuesAllowed(true)
                .execute(args));
    }

    @Override
    public Integer call() throws Exception {
        Path data = folder.isPresent()
                ? Files.createDirectories(folder.get().toAbsolutePath())
                : Files.createTempDirectory("zeitkammer-bench");
        Path checkout = home.toAbsolutePath().normalize();
        try (Data made = new Data(seed);
                Databases databases = new Databases(checkout, data)) {
            Works works = new Works(new Setting(checkout, data), made, databases);
            Race race = new Race(small ? 1 : rounds, System.err);
            if (sizes) {
                grow(new Growth(works, race, SIZES));
            } else {
                compare(works, race);
            }
        } finally {
            if (folder.isEmpty()) {
                remove(data);
            }
        }
        return 0;
    }

    private Scale scale() {
        Scale scale = tiny ? Scale.TINY : small ? Scale.SMALL : Scale.FULL;
        scale = members > 0 ? scale.withMembers(members) : scale;
        return facts > 0 ? scale.withFacts(facts) : scale;
    }

    private void compare(Works works, Race race) throws Exception {
        List<Race.Result> results = new ArrayList<>();
        List<Name> names = Arrays.stream(Name.values())
                .filter(name -> only.isEmpty() ? name.isUsual() : only.contains(name))
                .toList();
        for (Name name : names) {
            results.add(race.run(works.make(name, scale())));
        }
        System.out.println(markdown ? Report.markdown(results) : Report.text(results));
    }

    private void grow(Growth growth) throws Exception {
        for (Growth.Series series : growth.measure(scale(), only.isEmpty() ? Growth.USUAL : only)) {
            series.draw(pictures);
            System.out.printf(
                    "%s: 8 times as much takes %.1f times as long%n",
                    series.picture().title(), series.growth());
            System.out.println(markdown ? Report.markdown(series.results()) : Report.text(series.results()));
        }
    }

    private static void remove(Path folder) throws Exception {
        try (Stream<Path> files = Files.walk(folder)) {
            for (Path file : files.sorted(Comparator.reverseOrder()).toList()) {
                Files.delete(file);
            }
        }
    }
}
