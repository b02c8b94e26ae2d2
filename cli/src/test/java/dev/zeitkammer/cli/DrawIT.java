package dev.zeitkammer.cli;

import static org.assertj.core.api.Assertions.assertThat;
import static org.junit.jupiter.api.Assumptions.assumeTrue;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import java.io.IOException;
import java.io.InputStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import java.util.Objects;
import java.util.concurrent.Callable;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import javax.xml.parsers.DocumentBuilderFactory;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.openqa.selenium.By;
import org.openqa.selenium.Keys;
import org.w3c.dom.Document;

/** What is drawn, looked at in a real browser, and read by parsers. */
class DrawIT {

    @TempDir
    static Path folder;

    private static Path project;
    private static Program program;
    private static @Nullable Browser browser;

    @BeforeAll
    static void draw() throws IOException {
        assertThat(new Program(folder).run("demo", "--quiet").status()).isZero();
        project = folder.resolve("hut-network");
        program = new Program(project);
        assertThat(program.run("draw").out()).isEqualTo("Wrote pictures.html.\n");
        browser = Browser.open().orElse(null);
    }

    @AfterAll
    static void close() {
        if (browser != null) {
            browser.close();
        }
    }

    private static Browser browser() {
        Browser there = browser;
        assumeTrue(there != null, "there is no chromium here, and it could not be installed");
        return Objects.requireNonNull(there);
    }

    private static void look(String file) {
        browser().size(1280, 800);
        browser().open(project.resolve(file));
    }

    @Test
    void aMeasureOfAStarIsLitBackToTheFiles() {
        look("pictures.html");
        browser().click(browser().row("stars", "fact_night_stay.paid"));
        assertThat(browser().find(By.id("lineage")).isDisplayed()).isTrue();
        assertThat(browser().lit())
                .containsExactly(
                        "deliveries/{date}/nights.csv.guests",
                        "deliveries/{date}/nights.csv.rate",
                        "fact_night_stay.paid",
                        "nights.guests",
                        "nights.rate");
        assertThat(browser().find(By.id("told")).getText())
                .contains("fact_night_stay.paid, measure: guests * rate", "deliveries/{date}/nights.csv.rate");
        assertThat(browser().complaints()).isEmpty();
        assertThat(browser().requests()).isEmpty();
    }

    @Test
    void aColumnIsFoundAndItsWayOnIsLitToo() {
        look("pictures.html");
        browser().find(By.id("find")).sendKeys("huts.hut_c");
        browser().find(By.id("find")).sendKeys(Keys.ENTER);
        assertThat(browser().lit())
                .containsExactly(
                        "deliveries/{date}/huts*.csv.hut_code",
                        "dim_hut.hut_code",
                        "dim_hut.hut_key",
                        "dim_hut.label",
                        "fact_booking.hut_key",
                        "fact_night_stay.hut_key",
                        "huts.hut_code");
        browser().type(Keys.ESCAPE);
        assertThat(browser().lit()).isEmpty();
        browser().find(By.id("find")).clear();
        browser().find(By.id("find")).sendKeys("fiscal_period");
        assertThat(browser().find(By.id("found")).getText()).isEqualTo("dim_calendar.fiscal_period");
    }

    @Test
    void everythingCanBeDoneWithTheKeyboardAlone() {
        look("pictures.html");
        browser().tabTo("fact fact_booking");
        browser().type(Keys.ENTER);
        assertThat(browser().ask("return document.activeElement.getAttribute('aria-expanded')"))
                .isEqualTo("false");
        assertThat(browser().row("stars", "fact_booking.guests").isDisplayed()).isFalse();
        browser().type(Keys.ENTER);
        assertThat(browser().row("stars", "fact_booking.guests").isDisplayed()).isTrue();
        browser().type(Keys.ARROW_DOWN);
        browser().type(Keys.ARROW_DOWN);
        assertThat(browser().focused()).startsWith("fact_booking.hut_key");
        browser().type(Keys.SPACE);
        assertThat(browser().lit()).contains("fact_booking.hut_key", "bookings.hut_code", "dim_hut.hut_key");
        assertThat(browser().focused()).startsWith("fact_booking.hut_key");
        assertThat(browser().complaints()).isEmpty();
    }

    /** More tables than can be read in one picture with their columns: names first, and the star of each fact. */
    @Test
    void starsOfManyTablesAreDrawnFactByFact() throws IOException {
        Program valley = new Program(Files.createDirectories(folder.resolve("valley")));
        valley.write("zeitkammer.yaml", "project: valley\nwarehouses: {local: {url: \"jdbc:duckdb:w.duckdb\"}}\n");
        for (int dimension = 1; dimension <= 11; dimension++) {
            valley.write("dimensions/place" + dimension + ".yaml", """
                    dimension: place%d
                    from: {files: "places-{date}.csv"}
                    key: place%d
                    attributes: {height: type 2}
                    """.formatted(dimension, dimension));
        }
        for (String fact : List.of("flight", "rescue")) {
            valley.write("facts/" + fact + ".yaml", """
                    fact: %s
                    from: {files: "%s-{date}.csv"}
                    grain: [no]
                    lookups: {%s}
                    measures: {hours: integer}
                    """.formatted(
                            fact, fact, fact.equals("flight") ? "place1: , place2: " : "place3: , place1: "));
        }
        assertThat(valley.run("draw", "stars").out()).isEqualTo("Wrote stars.html.\n");
        browser().size(1280, 800);
        browser().open(folder.resolve("valley").resolve("stars.html"));
        assertThat(browser()
                        .ask("const c = document.querySelector('.canvas'); return c.scrollHeight <= c.clientHeight"
                                + " && c.querySelectorAll('.box').length"))
                .isEqualTo(13L);
        browser().click(browser().find(By.cssSelector("#stars [aria-label^='fact fact_rescue']")));
        assertThat(browser().find(By.cssSelector("details[open] > summary")).getText())
                .isEqualTo("fact_rescue: place3, place1");
        assertThat(
                        browser()
                                .ask(
                                        "return [...document.querySelectorAll('details[open] .box .title')].map(e => e.textContent)"))
                .isEqualTo(List.of("fact_rescue", "dim_place3", "dim_place1"));
        browser().find(By.id("find")).sendKeys("fact_flight.hours", Keys.ENTER);
        assertThat(browser().row("stars", "fact_flight.hours").isDisplayed()).isTrue();
        assertThat(browser().lit()).contains("fact_flight.hours");
        assertThat(browser().complaints()).isEmpty();
    }

    @Test
    void aFoldedBoxKeepsItsLines() {
        look("pictures.html");
        String lines =
                "return [...document.querySelectorAll('#stars path.line')].filter(p => p.getTotalLength() > 10).length";
        Object before = browser().ask(lines);
        browser().click(browser().find(By.cssSelector("#stars [aria-label^='dimension dim_hut']")));
        assertThat(browser().ask(lines)).isEqualTo(before);
        assertThat(browser().row("stars", "dim_hut.beds").isDisplayed()).isFalse();
    }

    @Test
    void aPhoneScrollsThePictureAndNotThePage() {
        look("pictures.html");
        browser().size(500, 900);
        assertThat(browser().ask("return document.documentElement.scrollWidth <= window.innerWidth"))
                .isEqualTo(true);
    }

    /** Whole at first, larger by a key, whole again; what was searched is large enough to be read. */
    @Test
    void aPictureIsShownWholeUntilItIsMadeLarger() {
        look("pictures.html");
        String isWhole = "const c = document.querySelector('#stars .canvas');"
                + " return c.scrollHeight <= c.clientHeight + 1 && c.scrollWidth <= c.clientWidth + 1";
        assertThat(browser().ask(isWhole)).isEqualTo(true);
        browser().ask("document.querySelector('#stars .canvas').focus(); return 1");
        browser().type("+", "+", "+");
        assertThat(browser().ask(isWhole)).isEqualTo(false);
        browser().type("0");
        assertThat(browser().ask(isWhole)).isEqualTo(true);
        browser().find(By.id("find")).sendKeys("fact_booking.nights", Keys.ENTER);
        assertThat(browser().ask("return Number(document.querySelector('#lineage .canvas').dataset.scale)"))
                .isEqualTo(1L);
        assertThat(browser().complaints()).isEmpty();
    }

    /** The page is drawn again, and a browser loads it anew. */
    @Test
    void aPageThatIsWatchedFollows() throws Exception {
        Path page = project.resolve("watched.html");
        Process process = program.start("draw", "loads", "--watch", "2s", "--to", "watched.html");
        try {
            await(() -> Files.exists(page));
            String first = Files.readString(page);
            assertThat(first).contains("<meta http-equiv=\"refresh\" content=\"2\">", "<p class=\"drawn\">drawn 2");
            await(() -> !Files.readString(page).equals(first));
            assertThat(process.isAlive()).isTrue();
        } finally {
            process.destroy();
            process.waitFor();
        }
        assertThat(program.run("draw", "stars", "--watch", "1s").err()).contains("--watch draws pages (.html), 2s");
    }

    private static void await(Callable<Boolean> condition) throws Exception {
        for (int tries = 0; tries < 300 && !condition.call(); tries++) {
            Thread.sleep(200);
        }
        assertThat(condition.call()).isTrue();
    }

    @Test
    void loadsAreDrawnWithWhatAnOperatorWatches() {
        assertThat(program.run("draw", "loads").status()).isZero();
        look("loads.html");
        String text = browser().find(By.id("loads")).getText();
        assertThat(text).contains("5 loads; the newest is load 5 for 2026-03-05: done in", "dim_hut 4 3 4");
        assertThat(browser().ask("return document.querySelectorAll('svg.bars .aside').length"))
                .isEqualTo(1L);
        assertThat(browser().complaints()).isEmpty();
    }

    /** One of the two warehouses cannot be read; the page tells of both. */
    @Test
    void operationsOfSeveralWarehousesStandOnOnePage() throws IOException {
        Program other = new Program(Files.createDirectories(folder.resolve("other")));
        other.write("zeitkammer.yaml", "project: other\nwarehouses: {local: {url: \"jdbc:duckdb:w.duckdb\"}}\n");
        Files.writeString(folder.resolve("other").resolve("w.duckdb"), "this is no warehouse");
        Program.Run drawn = new Program(folder).run("draw", "operations", "hut-network", "other");
        assertThat(drawn.err()).isEmpty();
        assertThat(drawn.out()).isEqualTo("Wrote operations.html.\n");
        JsonNode told = new ObjectMapper()
                .readTree(folder.resolve("operations.json").toFile())
                .path("warehouses");
        assertThat(told.path(0).path("done").asLong()).isEqualTo(5);
        assertThat(told.path(0).path("tables").findValuesAsText("table")).contains("dim_hut", "fact_night_stay");
        assertThat(told.path(1).path("unreadable").asText()).contains("Cannot open the warehouse");
        browser().size(1280, 800);
        browser().open(folder.resolve("operations.html"));
        assertThat(browser().find(By.id("operations")).getText())
                .contains(
                        "nothing runs load 5 for 2026-03-05",
                        "Cannot open the warehouse",
                        "dim_hut 5 for 2026-03-05 done");
        assertThat(browser().complaints()).isEmpty();
        Files.writeString(folder.resolve("mine.json"), "{}");
        assertThat(new Program(folder)
                        .run("draw", "operations", "hut-network", "--to", "mine.html")
                        .err())
                .contains("mine.json is there, and is no picture of this program's");
        assertThat(folder.resolve("mine.html")).doesNotExist();
    }

    @Test
    void aDeliveryIsDrawnColumnByColumn() {
        assertThat(program.run("draw", "profile", "nights", "--to", "nights.html")
                        .status())
                .isZero();
        look("nights.html");
        assertThat(browser().find(By.id("nights")).getText())
                .contains(
                        "2 rows; booking_no tells them apart.",
                        "fact_night_stay: fits deliveries/2026-03-05/nights.csv");
        assertThat(browser().ask("return document.querySelectorAll('svg.bars').length"))
                .isEqualTo(10L);
        assertThat(program.run("draw", "profile", "nihgts").err()).contains("did you mean \"nights\"?");
    }

    @Test
    void lineageIsToldAsATree() {
        assertThat(program.run("lineage", "night_stay.hut_key").out()).isEqualTo("""
                fact_night_stay.hut_key  key in dim_hut, version valid at night_on
                ├─ dim_hut.hut_key  surrogate key, counted on
                │  └─ one for each dim_hut.hut_code  business key
                │     ├─ huts.hut_code  column of deliveries/{date}/huts*.csv
                │     └─ placeholder bookings.hut_code  column of deliveries/{date}/bookings.csv
                ├─ found by nights.hut_code  column of deliveries/{date}/nights.csv
                └─ valid at nights.night_on  column of deliveries/{date}/nights.csv
                """);
        assertThat(program.run("lineage", "nights.guests", "--to", "--format", "json")
                        .json()
                        .path("flows"))
                .hasSize(2);
        assertThat(program.run("lineage", "booking", "--format", "csv").out().lines())
                .contains("arrivals.arrived_on,fact_booking.days_ahead,value");
        assertThat(program.run("lineage", "night_stay.payed").status()).isEqualTo(2);
    }

    @Test
    void versionsOfAMemberAreStrips() throws Exception {
        assertThat(program.run("draw", "history", "hut", "KAL", "--to", "kal.svg")
                        .status())
                .isZero();
        Document svg = parsed("kal.svg");
        assertThat(svg.getDocumentElement().getAttribute("aria-label")).isEqualTo("dim_hut, member KAL, 3 versions");
        assertThat(Files.readString(project.resolve("kal.svg")).split("class=\"span changed\""))
                .hasSize(3);
    }

    @Test
    void starsAndLineageAreWellFormedSvg() throws Exception {
        for (String picture : new String[] {"stars", "lineage"}) {
            assertThat(program.run("draw", picture, "--to", picture + ".svg").status())
                    .isZero();
            Document svg = parsed(picture + ".svg");
            assertThat(svg.getDocumentElement().getTagName()).isEqualTo("svg");
            assertThat(svg.getElementsByTagName("path").getLength()).isGreaterThan(5);
        }
    }

    private static Document parsed(String file) throws Exception {
        return DocumentBuilderFactory.newInstance()
                .newDocumentBuilder()
                .parse(project.resolve(file).toFile());
    }

    @Test
    void mermaidTextsAreUnderstoodByMermaid() throws IOException {
        Path page = folder.resolve("mermaid.html");
        try (InputStream library =
                DrawIT.class.getResourceAsStream("/META-INF/resources/webjars/mermaid/11.6.0/dist/mermaid.min.js")) {
            Files.write(folder.resolve("mermaid.min.js"), library.readAllBytes());
        }
        Files.writeString(page, "<!doctype html><script src=\"mermaid.min.js\"></script>");
        for (String picture : new String[] {"stars", "lineage"}) {
            assertThat(program.run("draw", picture, "--to", picture + ".mmd").status())
                    .isZero();
            browser().open(page);
            assertThat(browser()
                            .wait(
                                    "const done = arguments[1]; mermaid.parse(arguments[0]).then(found => done(found.diagramType), error => done(String(error)))",
                                    Files.readString(project.resolve(picture + ".mmd"))))
                    .isEqualTo(picture.equals("stars") ? "er" : "flowchart-v2");
        }
    }

    @Test
    void whatOthersMadeIsNotWrittenOver() throws IOException {
        Files.writeString(project.resolve("mine.html"), "<p>mine</p>", StandardCharsets.UTF_8);
        Program.Run refused = program.run("draw", "--to", "mine.html");
        assertThat(refused.status()).isEqualTo(2);
        assertThat(refused.err())
                .contains("mine.html is there, and is no picture of this program's; name another file: --to");
        assertThat(Files.readString(project.resolve("mine.html"))).isEqualTo("<p>mine</p>");
        assertThat(program.run("draw", "--to", "pictures.html").status()).isZero();
        assertThat(program.run("draw", "--to", "pictures.pdf").err())
                .contains("expected one that ends in .html, .svg or .mmd");
        assertThat(program.run("draw", "star").err()).contains("There is no picture \"star\"; did you mean \"stars\"?");
    }

    /** A hundred tables with two thousand columns: it is drawn, and lit at once. */
    @Test
    void aLargeWarehouseIsDrawnToo() throws IOException {
        Path large = folder.resolve("large");
        Program it = new Program(Files.createDirectories(large));
        it.write("zeitkammer.yaml", "project: large\nwarehouses: {memory: {url: \"jdbc:duckdb:\"}}\n");
        for (int table = 0; table < 80; table++) {
            it.write("dimensions/d" + table + ".yaml", """
                    dimension: d%d
                    from: {files: "d%d.csv"}
                    key: code
                    attributes: {%s}
                    """.formatted(table, table, columns("a", "type 1")));
        }
        for (int table = 0; table < 20; table++) {
            int first = table * 4;
            it.write("facts/f" + table + ".yaml", """
                    fact: f%d
                    from: {files: "f%d.csv"}
                    grain: no
                    lookups: {%s}
                    measures: {%s}
                    """.formatted(
                            table,
                            table,
                            IntStream.range(first, first + 4)
                                    .mapToObj(role -> "d" + role + ": {match: code" + role + "}")
                                    .collect(Collectors.joining(", ")),
                            columns("m", "integer")));
        }
        Program.Run drawn = it.run("draw");
        assertThat(drawn.err()).isEmpty();
        browser().open(large.resolve("pictures.html"));
        assertThat((Long) browser().ask("return document.querySelectorAll('#lineage .row').length"))
                .isGreaterThan(4_000);
        browser().click(browser().row("lineage", "f7.csv.m3"));
        assertThat(browser().lit()).containsExactly("f7.csv.m3", "f7.m3", "fact_f7.m3");
        Object took = browser()
                .ask("const t = performance.getEntriesByType('navigation')[0]; return Math.round(t.domComplete)");
        assertThat(Duration.ofMillis(((Number) took).longValue())).isLessThan(Duration.ofMinutes(1));
        System.getLogger("draw").log(System.Logger.Level.INFO, "2,000 columns: complete after " + took + " ms");
    }

    private static String columns(String name, String what) {
        return IntStream.range(0, 18)
                .mapToObj(column -> name + column + ": " + what)
                .collect(Collectors.joining(", "));
    }
}
