package dev.zeitkammer.cli.drawing;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assertions.within;

import dev.zeitkammer.cli.drawing.Drawing.Form;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.UsageException;
import dev.zeitkammer.definition.reading.ProjectReader;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.lineage.DefinitionLineage;
import dev.zeitkammer.lineage.Headers;
import dev.zeitkammer.view.MemberHistory;
import java.io.IOException;
import java.io.StringReader;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.function.Predicate;
import java.util.regex.MatchResult;
import java.util.regex.Pattern;
import javax.xml.parsers.DocumentBuilderFactory;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.w3c.dom.Element;
import org.w3c.dom.NodeList;
import org.xml.sax.InputSource;

/** What pictures say and where their lines end, read off the SVG and the Mermaid text; how they look is for a browser to show. */
class DrawingTest {

    private static final String ODD = "beds < 9 & \"up\"";

    @TempDir
    Path folder;

    @BeforeEach
    void star() throws IOException {
        write("zeitkammer.yaml", "project: huts\nwarehouses: {here: {url: \"jdbc:duckdb:\"}}\n");
        write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: "huts.csv"}
                key: code
                attributes: {'%s': type 2, a01: type 1, a02: type 1, a03: type 1, a04: type 1, a05: type 1, a06: type 1,
                  a07: type 1, a08: type 1, a09: type 1, a10: type 1, a11: type 1, a12: type 1, a13: type 1, a14: type 1, a15: type 1}
                """.formatted(ODD));
        write("dimensions/warden.yaml", """
                dimension: warden
                from: {files: "wardens.csv"}
                key: no
                attributes: {name: type 1}
                lookups: {boss: {type: 1, dimension: warden, match: boss_no}}
                """);
        write("facts/stay.yaml", """
                fact: stay
                from: {files: "stays.csv", columns: {night: date}}
                grain: [stay_no]
                lookups: {hut: {match: code, as-of: night}, warden: {match: warden_no}, deputy: {dimension: warden, match: deputy_no}}
                measures: {paid: integer}
                """);
    }

    private void write(String file, String text) throws IOException {
        Path path = folder.resolve(file);
        Files.createDirectories(path.getParent());
        Files.writeString(path, text);
    }

    private Drawing drawing() {
        Project project = ProjectReader.read(folder, Map.of());
        return new Drawing(project, DefinitionLineage.of(project, Headers.UNKNOWN));
    }

    @Test
    void everyRoleIsALineFromItsKeyToItsDimension() throws Exception {
        List<Element> drawn = elements(drawing().stars(Form.SVG));
        List<Element> boxes = having(drawn, element -> classes(element).contains("box"));
        assertThat(boxes).extracting(DrawingTest::title).containsExactly("dim_hut", "dim_warden", "fact_stay");
        List<Element> lines = having(drawn, element -> classes(element).contains("line"));
        assertThat(lines).extracting(DrawingTest::text).containsExactly("hut", "warden", "deputy");
        assertThat(lines.get(0).getAttribute("class")).as("as of a date").contains("dashed");
        assertThat(lines.get(1).getAttribute("class")).doesNotContain("dashed");
        for (Element line : lines) {
            Element row = byId(drawn, line.getAttribute("data-from"));
            assertThat(row.getAttribute("data-full")).isEqualTo("fact_stay." + text(line) + "_key");
            Element key = byId(drawn, line.getAttribute("data-to"));
            boolean isHut = text(line).equals("hut");
            assertThat(key.getAttribute("data-full")).isEqualTo(isHut ? "dim_hut.hut_key" : "dim_warden.warden_key");
            assertConnects(line, row, byId(drawn, "s2"), key, (Element) key.getParentNode());
        }
    }

    private static double middle(Element row) {
        return number(child(row, "rect"), "y") + number(child(row, "rect"), "height") / 2;
    }

    /** A line begins and ends at a side of the boxes that it connects, at the height of the rows that it is of. */
    private static void assertConnects(Element line, Element row, Element from, Element key, Element to) {
        List<Double> numbers = numbers(line.getAttribute("d"));
        List<double[]> ends = List.of(
                new double[] {numbers.get(0), numbers.get(1)},
                new double[] {numbers.get(numbers.size() - 2), numbers.get(numbers.size() - 1)});
        boolean leftwards = line.hasAttribute("data-leftwards");
        double[] atRow = ends.get(leftwards ? 1 : 0);
        double[] atBox = ends.get(leftwards ? 0 : 1);
        assertThat(atRow[1]).as("the height of the row").isCloseTo(middle(row), within(0.2));
        assertThat(atBox[1]).as("the height of the key").isCloseTo(middle(key), within(0.2));
        assertThat(sides(from)).anyMatch(side -> Math.abs(side - atRow[0]) < 0.2);
        assertThat(sides(to)).anyMatch(side -> Math.abs(side - atBox[0]) < 0.2);
    }

    private static List<Double> sides(Element box) {
        double x = number(box, "data-x");
        return List.of(x, x + number(box, "data-w"));
    }

    @Test
    void namesAreShownAsTheyAreWhateverTheirSigns() throws Exception {
        List<Element> drawn = elements(drawing().stars(Form.SVG));
        assertThat(having(drawn, element -> classes(element).contains("row")))
                .extracting(row -> row.getAttribute("data-full"))
                .contains("dim_hut." + ODD);
        assertThat(drawing().stars(Form.MMD))
                .contains("column code \"business key\"\n")
                .contains("column _s0r2 \"beds < 9 & #quot;up#quot;: attribute of type 2\"\n")
                .contains("column hut_key \"@night key in dim_hut, version valid at night\"\n")
                .contains("s1 ||--o{ s2 : \"deputy\"\n");
    }

    @Test
    void ofManyColumnsTheLastRowsAreOne() throws Exception {
        List<Element> rows = having(
                elements(drawing().stars(Form.SVG)),
                element -> classes(element).contains("row")
                        && element.getAttribute("id").startsWith("s0"));
        assertThat(rows).hasSize(16);
        Element last = rows.get(15);
        assertThat(child(last, "text").getTextContent()).isEqualTo("… 3 more");
        assertThat(last.getAttribute("data-more").split("\n"))
                .containsExactly("dim_hut.a13", "dim_hut.a14", "dim_hut.a15");
        assertThat(drawing().stars(Form.MMD)).contains("\"… 3 more: a13, a14, a15\"");
    }

    @Test
    void lineageTellsValuesFromConditions() throws Exception {
        List<Element> drawn = elements(drawing().lineage(Form.SVG));
        List<String> flows = having(drawn, element -> classes(element).contains("line")).stream()
                .map(line -> byId(drawn, line.getAttribute("data-from")).getAttribute("data-full") + " > "
                        + byId(drawn, line.getAttribute("data-to")).getAttribute("data-full")
                        + (classes(line).contains("dashed") ? " " + text(line) : ""))
                .toList();
        assertThat(flows)
                .contains(
                        "stays.csv.paid > stay.paid", "stay.paid > fact_stay.paid", "hut." + ODD + " > dim_hut." + ODD)
                .anyMatch(flow -> flow.startsWith("stay.night > fact_stay.hut_key "));
    }

    @Test
    void aStripIsCutWhereItsValueChanges() throws Exception {
        List<Column> columns = List.of(
                new Column("hut_key", SqlType.BIGINT),
                new Column("code", SqlType.VARCHAR),
                new Column(ODD, SqlType.VARCHAR),
                new Column("valid_from", SqlType.DATE),
                new Column("valid_to", SqlType.DATE));
        List<List<Object>> versions = List.of(
                List.of(1L, "HA", "few", "0001-01-01", "2026-02-01"),
                List.of(2L, "HA", "few", "2026-02-01", "2026-03-01"),
                Arrays.asList(3L, "HA", null, "2026-03-01", "9999-12-31"));
        MemberHistory history = new MemberHistory(
                ProjectReader.read(folder, Map.of()).dimensions().stream()
                        .filter(dimension -> dimension.name().text().equals("hut"))
                        .findFirst()
                        .orElseThrow(),
                columns,
                new ArrayList<>(versions),
                List.of(Set.of(), Set.of(), Set.of(ODD)));
        List<Element> drawn = elements(Drawing.history(Form.SVG, history, "hut <HA>"));
        assertThat(having(drawn, element -> element.getTagName().equals("text")))
                .extracting(Element::getTextContent)
                .contains("version 3", "ever – 2026-02-01", "2026-02-01 – 2026-03-01", "2026-03-01 – ");
        List<Element> pieces = having(drawn, element -> classes(element).contains("span"));
        assertThat(pieces)
                .extracting(piece -> text((Element) piece.getParentNode()))
                .containsExactly("1", "2", "3", "HA", "few", "∅");
        assertThat(pieces)
                .extracting(piece -> number(piece, "width"))
                .containsExactly(168.0, 168.0, 168.0, 508.0, 338.0, 168.0);
        assertThat(having(pieces, piece -> classes(piece).contains("changed")))
                .extracting(piece -> text((Element) piece.getParentNode()))
                .containsExactly("∅");
        assertThat(text(drawn.get(0))).isEqualTo("hut <HA>");
    }

    @Test
    void theEndingOfAFileSaysItsForm() {
        assertThat(Form.of("Stars.SVG")).isEqualTo(Form.SVG);
        assertThatThrownBy(() -> Form.of("stars.png"))
                .isInstanceOf(UsageException.class)
                .hasMessageContaining("stars.png")
                .hasMessageContaining(".html, .svg or .mmd");
        assertThatThrownBy(() -> drawing().loads(Form.SVG, List.of())).isInstanceOf(UsageException.class);
    }

    private static List<Element> elements(String svg) throws Exception {
        NodeList all = DocumentBuilderFactory.newInstance()
                .newDocumentBuilder()
                .parse(new InputSource(new StringReader(svg)))
                .getElementsByTagName("*");
        List<Element> elements = new ArrayList<>();
        for (int index = 0; index < all.getLength(); index++) {
            elements.add((Element) all.item(index));
        }
        return elements;
    }

    private static List<Element> having(List<Element> elements, Predicate<Element> condition) {
        return elements.stream().filter(condition).toList();
    }

    private static List<String> classes(Element element) {
        return List.of(element.getAttribute("class").split(" "));
    }

    private static Element byId(List<Element> elements, String id) {
        return having(elements, element -> element.getAttribute("id").equals(id))
                .get(0);
    }

    private static Element child(Element element, String tag) {
        return (Element) element.getElementsByTagName(tag).item(0);
    }

    /** What the title of an element says, which a pointer shows. */
    private static String text(Element element) {
        return child(element, "title").getTextContent();
    }

    private static String title(Element box) {
        NodeList texts = box.getElementsByTagName("text");
        return texts.item(0).getTextContent();
    }

    private static double number(Element element, String attribute) {
        return Double.parseDouble(element.getAttribute(attribute));
    }

    private static List<Double> numbers(String path) {
        return Pattern.compile("-?[0-9.]+")
                .matcher(path)
                .results()
                .map(MatchResult::group)
                .map(Double::valueOf)
                .toList();
    }
}
