package dev.zeitkammer.bench;

import dev.zeitkammer.bench.Works.Name;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.EnumSet;
import java.util.List;
import java.util.Set;
import java.util.function.LongFunction;
import org.knowm.xchart.BitmapEncoder;
import org.knowm.xchart.BitmapEncoder.BitmapFormat;
import org.knowm.xchart.XYChart;
import org.knowm.xchart.XYChartBuilder;
import org.knowm.xchart.style.Styler.LegendPosition;

/** How the time of a work grows with its size, over sizes each twice the one before. */
final class Growth {

    private static final int MORE = 10;
    private static final int STAGED = 200;
    private static final int WIDTH = 760;
    private static final int HEIGHT = 460;

    private final Works works;
    private final Race race;
    private final int steps;

    /** @param steps how many sizes are measured */
    Growth(Works works, Race race, int steps) {
        this.steps = steps;
        this.works = works;
        this.race = race;
    }

    /**
     * One picture.
     *
     * @param file its name, without an ending
     * @param along what grows
     */
    record Picture(String file, String title, String along) {}

    /** What a picture shows. */
    record Series(Picture picture, List<Long> sizes, List<Race.Result> results) {

        /** How many times as long the largest size takes as the smallest. */
        double growth() {
            return last(Contestant.PROGRAM) / first(Contestant.PROGRAM);
        }

        private double first(String contestant) {
            return results.get(0).of(contestant).orElseThrow().seconds();
        }

        private double last(String contestant) {
            return results.get(results.size() - 1).of(contestant).orElseThrow().seconds();
        }

        void draw(Path folder) throws IOException {
            XYChart chart = new XYChartBuilder()
                    .width(WIDTH)
                    .height(HEIGHT)
                    .title(picture.title())
                    .xAxisTitle(picture.along())
                    .yAxisTitle("seconds")
                    .build();
            chart.getStyler().setLegendPosition(LegendPosition.InsideNW);
            chart.getStyler().setYAxisMin(0.0).setXAxisMin(0.0);
            chart.getStyler().setMarkerSize(8);
            for (String contestant : List.of(Contestant.FLOOR, Contestant.BY_HAND, Contestant.PROGRAM)) {
                double[] seconds = results.stream()
                        .mapToDouble(
                                result -> result.of(contestant).orElseThrow().seconds())
                        .toArray();
                chart.addSeries(
                        contestant,
                        sizes.stream().mapToDouble(size -> size / 1e6).toArray(),
                        seconds);
            }
            Files.createDirectories(folder);
            BitmapEncoder.saveBitmap(chart, folder.resolve(picture.file()).toString(), BitmapFormat.PNG);
        }
    }

    /** The works whose growth is drawn unless others are asked for. */
    static final Set<Name> USUAL = EnumSet.of(Name.NEXT, Name.EXTRACT, Name.CSV);

    /** @param only what is measured; works whose size is one number */
    List<Series> measure(Scale largest, Set<Name> only) throws Exception {
        List<Series> all = new ArrayList<>();
        for (Name name : only) {
            all.add(
                    switch (name) {
                        case NEXT ->
                            series(
                                    new Picture("speed-next", "Next load, all members staged", "members in millions"),
                                    name,
                                    largest.members(),
                                    largest::withMembers);
                        case EXTRACT -> extract(largest);
                        case CSV ->
                            series(
                                    new Picture("speed-facts", "Facts from CSV, 4 lookups", "facts in millions"),
                                    name,
                                    largest.facts(),
                                    largest::withFacts);
                        case CLUSTER_NEXT ->
                            series(
                                    new Picture(
                                            "speed-cluster-next",
                                            "Next load on a cluster, one of five members staged",
                                            "members in millions"),
                                    name,
                                    largest.onCluster(),
                                    largest::withOnCluster);
                        case CLUSTER_FACTS ->
                            series(
                                    new Picture(
                                            "speed-cluster-facts",
                                            "Facts on a cluster, 4 lookups",
                                            "facts in millions"),
                                    name,
                                    largest.onCluster(),
                                    largest::withOnCluster);
                        default -> throw new IllegalArgumentException("--sizes cannot measure " + name);
                    });
        }
        return all;
    }

    private Series extract(Scale largest) throws Exception {
        long most = largest.members() * MORE;
        long staged = most / STAGED;
        return series(
                new Picture(
                        "speed-extract",
                        "Next load, " + staged + " rows staged whatever the dimension holds",
                        "members in millions"),
                Name.EXTRACT,
                most,
                size -> largest.withMembers(size).withExtract(size / staged));
    }

    private List<Long> sizes(long largest) {
        List<Long> sizes = new ArrayList<>();
        for (int power = steps - 1; power >= 0; power--) {
            sizes.add(largest >> power);
        }
        return sizes;
    }

    private Series series(Picture picture, Name name, long largest, LongFunction<Scale> scaled) throws Exception {
        List<Race.Result> results = new ArrayList<>();
        List<Long> sizes = sizes(largest);
        for (long size : sizes) {
            results.add(race.run(works.make(name, scaled.apply(size))));
        }
        return new Series(picture, sizes, results);
    }
}
