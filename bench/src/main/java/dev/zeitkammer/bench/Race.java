package dev.zeitkammer.bench;

import java.io.PrintStream;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** Lets the contestants of a work run turn by turn, several rounds. */
final class Race {

    private final int rounds;
    private final PrintStream log;

    Race(int rounds, PrintStream log) {
        this.rounds = rounds;
        this.log = log;
    }

    /** What was measured of a work, by the names of the contestants. */
    record Result(Work work, Map<String, List<Measure>> runs) {

        Optional<Measure> of(String contestant) {
            return Optional.ofNullable(runs.get(contestant)).map(Measure::median);
        }

        /** How the program stands to the goal: a ratio, or seconds where it is one of time. */
        double reached() {
            List<Measure> program = runs.get(Contestant.PROGRAM);
            return work.against().isEmpty()
                    ? Measure.median(program).seconds()
                    : Measure.ratio(program, runs.get(work.against()));
        }

        boolean isReached() {
            return reached() <= work.limit();
        }
    }

    /** @throws IllegalStateException when contestants that load come to different results */
    Result run(Work work) throws Exception {
        Map<String, List<Measure>> runs = new LinkedHashMap<>();
        for (int round = 1; round <= rounds; round++) {
            String agreed = null;
            for (Contestant contestant : work.contestants()) {
                contestant.state().restore();
                Measure measure = Measure.of(contestant.command(), work.folder());
                runs.computeIfAbsent(contestant.name(), name -> new ArrayList<>())
                        .add(measure);
                log.printf(
                        "%s, round %d, %s: %.2f s, %d MB%n",
                        work.name(), round, contestant.name(), measure.seconds(), measure.peak());
                if (work.agreement().isPresent() && !contestant.name().equals(Contestant.FLOOR)) {
                    String result = work.agreement().get().result();
                    if (agreed != null && !agreed.equals(result)) {
                        throw new IllegalStateException(work.name() + ": by hand comes to " + agreed + ", "
                                + contestant.name() + " to " + result);
                    }
                    agreed = result;
                }
            }
        }
        return new Result(work, runs);
    }
}
