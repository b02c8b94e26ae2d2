package dev.zeitkammer.bench;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Arrays;
import java.util.List;
import java.util.concurrent.TimeUnit;

/**
 * One run of a process.
 *
 * @param seconds from its start to its end
 * @param peak the most memory it held, in MB; 0 where the system does not tell
 */
record Measure(double seconds, long peak) {

    private static final long PAUSE_MILLIS = 20;
    private static final int KILO = 1024;

    /**
     * Runs a command to its end.
     *
     * @throws IllegalStateException when it fails, with what it printed
     */
    static Measure of(List<String> command, Path folder) throws IOException, InterruptedException {
        Path output = Files.createTempFile(folder, "output", ".txt");
        try {
            long began = System.nanoTime();
            ProcessBuilder builder = new ProcessBuilder(command)
                    .directory(folder.toFile())
                    .redirectErrorStream(true)
                    .redirectOutput(output.toFile());
            builder.environment()
                    .put("ZEITKAMMER_VOUCHED", folder.toString()); // projects of its own, on servers of its own
            Process process = builder.start();
            process.getOutputStream().close();
            long peak = 0;
            while (!process.waitFor(PAUSE_MILLIS, TimeUnit.MILLISECONDS)) {
                peak = Math.max(peak, peak(process.pid()));
            }
            double seconds = (System.nanoTime() - began) / 1e9;
            if (process.exitValue() != 0) {
                throw new IllegalStateException(String.join(" ", command) + " failed:\n" + Files.readString(output));
            }
            return new Measure(seconds, peak);
        } finally {
            Files.deleteIfExists(output);
        }
    }

    /** What Linux says of a process. */
    private static long peak(long pid) {
        try (var lines = Files.lines(Path.of("/proc", String.valueOf(pid), "status"))) {
            return lines.filter(line -> line.startsWith("VmHWM:"))
                    .mapToLong(line -> Long.parseLong(line.replaceAll("\\D", "")) / KILO)
                    .findFirst()
                    .orElse(0);
        } catch (IOException | RuntimeException unknown) {
            return 0;
        }
    }

    /** The middle of several runs: the median time, and the highest peak. */
    static Measure median(List<Measure> runs) {
        double[] seconds = runs.stream().mapToDouble(Measure::seconds).sorted().toArray();
        int middle = seconds.length / 2;
        double median = seconds.length % 2 == 1 ? seconds[middle] : (seconds[middle - 1] + seconds[middle]) / 2;
        return new Measure(median, runs.stream().mapToLong(Measure::peak).max().orElse(0));
    }

    /** How many times as long as another; the median of the ratios of runs that followed each other. */
    static double ratio(List<Measure> runs, List<Measure> others) {
        double[] ratios = new double[Math.min(runs.size(), others.size())];
        Arrays.setAll(
                ratios, index -> runs.get(index).seconds() / others.get(index).seconds());
        return median(Arrays.stream(ratios)
                        .mapToObj(ratio -> new Measure(ratio, 0))
                        .toList())
                .seconds();
    }
}
