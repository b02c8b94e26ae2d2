package dev.zeitkammer.manual;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
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
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

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

    /** Twenty words that people of the trade type lead to the section that says it, in words of the manual's own. */
    @ParameterizedTest
    @CsvSource({
        "scd, rules.html#types",
        "slowly changing dimension, rules.html#types",
        "upsert, rules.html#a-fact",
        "merge, rules.html#a-fact",
        "late arriving, recipes.html#facts-come-before-their-member",
        "late arriving dimension, rules.html#late-rows",
        "inferred member, recipes.html#facts-come-before-their-member",
        "surrogate key, rules.html#surrogate-keys",
        "hash key, rules.html#surrogate-keys",
        "natural key, definitions.html#dimensions",
        "junk dimension, rules.html#combinations",
        "degenerate dimension, rules.html#a-fact",
        "role playing, definitions.html#facts",
        "watermark, recipes.html#staging-holds-the-new-rows-of-last-night",
        "cdc, recipes.html#staging-holds-the-new-rows-of-last-night",
        "schema drift, rules.html#when-a-definition-changes",
        "rollback, commands.html#undo-and-what-was-known",
        "time travel, commands.html#undo-and-what-was-known",
        "dry run, commands.html#load",
        "rejects, recipes.html#rows-that-were-set-aside-come-back-mended",
        "cron, first-star.html#every-night-by-itself",
        "stored procedure, by-hand.html#for-those-who-come-from-sql-scripts"
    })
    void wordsOfTheTradeAreFound(String typed, String address) throws IOException {
        String script = Files.readString(pages.resolve("words.js"));
        ObjectMapper json = new ObjectMapper();
        JsonNode sections =
                json.readTree(script.substring("const SECTIONS = ".length(), script.indexOf(";\nconst TRADE")));
        JsonNode trade = json.readTree(script.substring(script.indexOf("const TRADE = ") + "const TRADE = ".length()));
        List<String> found = new ArrayList<>();
        for (JsonNode line : trade) {
            for (JsonNode word : line.get("words")) {
                if (word.asText().equals(typed)) {
                    found.add(sections.get(line.get("section").asInt())
                            .get("address")
                            .asText());
                }
            }
        }
        assertThat(found).containsExactly(address);
    }
}
