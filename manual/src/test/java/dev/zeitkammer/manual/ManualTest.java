package dev.zeitkammer.manual;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.TestInstance;
import org.junit.jupiter.api.io.TempDir;

/** The manual as pages: complete, and without a link to nowhere. */
@TestInstance(TestInstance.Lifecycle.PER_CLASS)
class ManualTest {

    private static final Pattern LINK = Pattern.compile("(?:href|src)=\"([^\"]*)\"");

    private Path pages;

    @BeforeAll
    void make(@TempDir Path folder) throws IOException {
        pages = folder.resolve("manual");
        Manual.write(Path.of(".."), pages);
    }

    private List<Path> html() throws IOException {
        try (Stream<Path> files = Files.list(pages)) {
            return files.filter(file -> file.toString().endsWith(".html")).toList();
        }
    }

    @Test
    void everyPageOfTheDocsIsThere() throws IOException {
        try (Stream<Path> docs = Files.list(Path.of("../docs"))) {
            for (Path page :
                    docs.filter(file -> file.toString().endsWith(".md")).toList()) {
                assertThat(pages.resolve(page.getFileName().toString().replace(".md", ".html")))
                        .isNotEmptyFile();
            }
        }
        assertThat(pages.resolve("index.html")).content().contains("<h1", "Zeitkammer", "definitions.html");
        assertThat(pages.resolve("first-star.html"))
                .content()
                .contains("data-file=\"nightly.sh\"", "aria-current=\"page\"");
    }

    @Test
    void noLinkLeadsToNowhere() throws IOException {
        List<String> nowhere = new ArrayList<>();
        int found = 0;
        for (Path page : html()) {
            Matcher links = LINK.matcher(Files.readString(page));
            while (links.find()) {
                String to = links.group(1);
                found++;
                if (!to.contains("://") && !leadsSomewhere(page, to)) {
                    nowhere.add(page.getFileName() + " -> " + to);
                }
            }
        }
        assertThat(found).isGreaterThan(200);
        assertThat(nowhere).isEmpty();
    }

    private boolean leadsSomewhere(Path from, String to) throws IOException {
        String[] parts = to.split("#", 2);
        Path file = parts[0].isEmpty() ? from : pages.resolve(parts[0]);
        return Files.exists(file)
                && (parts.length == 1 || Files.readString(file).contains("id=\"" + parts[1] + "\""));
    }

    @Test
    void theSearchKnowsEverySection() throws IOException {
        String words = Files.readString(pages.resolve("words.js"));
        Matcher headings = Pattern.compile("(?m)^##? (.*)$").matcher(Files.readString(Path.of("../docs/commands.md")));
        while (headings.find()) {
            assertThat(words)
                    .contains("\"heading\":\""
                            + headings.group(1).replace("`", "").strip());
        }
        assertThat(words).contains("commands.html#exit-status");
    }
}
