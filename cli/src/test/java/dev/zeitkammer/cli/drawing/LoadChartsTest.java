package dev.zeitkammer.cli.drawing;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.books.TableEntry;
import java.time.LocalDateTime;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.regex.MatchResult;
import java.util.regex.Pattern;
import java.util.stream.IntStream;
import org.junit.jupiter.api.Test;

/** What the page of loads says: what is usual, what is amiss, and how high the bars are. */
class LoadChartsTest {

    private static final LocalDateTime BEGAN = LocalDateTime.of(2026, 3, 1, 2, 0);

    private static TableEntry guests(LoadStatus status, double seconds, long staged, long aside) {
        return new TableEntry(
                "dim_guest",
                "dimension",
                status,
                seconds,
                staged - aside,
                0,
                Map.of("staged", staged, "setAside", aside),
                Map.of("hut", Map.of("unmatched", 7L)),
                List.of(),
                List.of(),
                status == LoadStatus.DONE ? Optional.empty() : Optional.of("a < b"));
    }

    private static List<LoadEntry> loads(TableEntry... tables) {
        return IntStream.range(0, tables.length)
                .mapToObj(number -> new LoadEntry(
                        number + 1,
                        "2026-03-0" + (number % 9 + 1),
                        tables[number].status(),
                        BEGAN,
                        Optional.of(BEGAN.plusSeconds(4)),
                        List.of(tables[number]),
                        List.of()))
                .toList();
    }

    /** The cells of the table's row, with a bang before what is marked as amiss. */
    private static List<String> cells(String html) {
        String row = html.substring(html.indexOf("<tr><td>dim_guest"), html.indexOf("</tr>", html.indexOf("<tr><td>")));
        return Pattern.compile("<td( class=\"([^\"]*)\")?>(.*?)</td>", Pattern.DOTALL)
                .matcher(row)
                .results()
                .map(cell -> (String.valueOf(cell.group(2)).contains("amiss") ? "!" : "") + cell.group(3))
                .filter(text -> !text.contains("<svg"))
                .toList();
    }

    private static List<Double> heights(String html, String look) {
        return Pattern.compile("<rect class=\"" + look + "\"[^>]* height=\"([^\"]*)\"")
                .matcher(html)
                .results()
                .map((MatchResult bar) -> Double.valueOf(bar.group(1)))
                .toList();
    }

    @Test
    void saysThatNothingHasBeenLoaded() {
        assertThat(new LoadCharts(List.of()).html()).contains("Nothing has been loaded yet");
    }

    @Test
    void aLoadIsSlowFromTwiceWhatIsUsualOfThoseThatEndedWell() {
        TableEntry usual = guests(LoadStatus.DONE, 1.2, 1000, 0);
        TableEntry failed = guests(LoadStatus.FAILED, 90, 1000, 0);
        String slow = new LoadCharts(loads(usual, usual, failed, guests(LoadStatus.DONE, 2.5, 1500, 3))).html();
        assertThat(cells(slow))
                .containsExactly("dim_guest", "1,500", "1,497", "", "!3", "7", "", "!2.5", "1.2", "done");
        String asUsual = new LoadCharts(loads(usual, usual, failed, guests(LoadStatus.DONE, 2.4, 1500, 0))).html();
        assertThat(cells(asUsual))
                .containsExactly("dim_guest", "1,500", "1,500", "", "", "7", "", "2.4", "1.2", "done");
        assertThat(cells(new LoadCharts(loads(usual)).html()))
                .as("the first of all")
                .contains("1.2", "");
    }

    @Test
    void whatFailedIsFramedAndSaysWhy() {
        String html =
                new LoadCharts(loads(guests(LoadStatus.DONE, 1, 1000, 0), guests(LoadStatus.FAILED, 1, 0, 0))).html();
        assertThat(cells(html)).contains("!failed: a &lt; b");
        assertThat(heights(html, "failed")).hasSize(1);
        assertThat(html).contains("<span class=\"amiss\">failed</span> in 4 s");
    }

    @Test
    void barsAreAsHighAsTheirRows() {
        String html =
                new LoadCharts(loads(guests(LoadStatus.DONE, 1, 800, 400), guests(LoadStatus.DONE, 1, 200, 0))).html();
        List<Double> rows = heights(html, "rows");
        assertThat(rows.get(0)).isEqualTo(4 * rows.get(1));
        assertThat(heights(html, "aside")).containsExactly(rows.get(0) / 2);
        assertThat(html).contains("<title>load 1, 2026-03-01: 800 staged, 400 set aside, 1 s</title>");
    }

    @Test
    void ofVeryManyLoadsTheNewestAreShown() {
        List<TableEntry> many = new ArrayList<>();
        IntStream.range(0, 75).forEach(number -> many.add(guests(LoadStatus.DONE, 1, number + 1L, 0)));
        String html = new LoadCharts(loads(many.toArray(TableEntry[]::new))).html();
        assertThat(heights(html, "rows")).hasSize(60);
        assertThat(html).contains("75 loads; the newest is load 75").contains("<title>load 16,");
        assertThat(html).doesNotContain("<title>load 15,");
    }
}
