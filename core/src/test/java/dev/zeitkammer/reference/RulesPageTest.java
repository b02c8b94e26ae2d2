package dev.zeitkammer.reference;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.load.TestStar;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.TreeMap;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import org.junit.jupiter.api.DynamicTest;
import org.junit.jupiter.api.TestFactory;
import org.junit.jupiter.api.io.TempDir;

/** Executes the worked examples of docs/rules.md, each heading by itself. */
class RulesPageTest {

    private static final Path PAGE = Path.of("../docs/rules.md");
    private static final Pattern PART = Pattern.compile("(?m)^#+ (.+)$|^```(\\w+)(?: (.+))?\\n([\\s\\S]*?)^```$");
    private static final Pattern NAMED = Pattern.compile("(dimension|fact): (\\w+)\\nfrom: \\{files: \"(\\w+)-");

    @TempDir
    Path folder;

    private record Block(String kind, String detail, String text) {}

    @TestFactory
    Stream<DynamicTest> everyExampleOfThePageHolds() {
        Map<String, List<Block>> examples = new TreeMap<>();
        String heading = "";
        Matcher parts = PART.matcher(page());
        while (parts.find()) {
            if (parts.group(1) != null) {
                heading = parts.group(1);
            } else {
                examples.computeIfAbsent(heading, title -> new ArrayList<>())
                        .add(new Block(parts.group(2), parts.group(3), parts.group(4)));
            }
        }
        carryOver(examples);
        assertThat(examples).hasSizeGreaterThan(6);
        return examples.entrySet().stream()
                .map(example -> DynamicTest.dynamicTest(
                        example.getKey(), () -> new Example(example.getKey(), example.getValue()).run()));
    }

    /** Late rows go on where the history of the heading before ended. */
    private static void carryOver(Map<String, List<Block>> examples) {
        examples.forEach((title, blocks) -> {
            if (!blocks.get(0).kind().equals("yaml")) {
                blocks.addAll(0, examples.get("History"));
            }
        });
    }

    private static String page() {
        try {
            return Files.readString(PAGE);
        } catch (IOException missing) {
            throw new UncheckedIOException(missing);
        }
    }

    private final class Example {
        private final Path home;
        private final List<Block> blocks;
        private TestStar star;
        private String table = "";
        private String file = "";
        private TableEntry loaded;

        Example(String title, List<Block> blocks) {
            this.home = folder.resolve(title.toLowerCase(Locale.ROOT).replace(' ', '-'));
            this.blocks = blocks;
            this.star = new TestStar(home);
        }

        void run() {
            String before = "";
            for (Block block : blocks) {
                switch (block.kind()) {
                    case "yaml" -> define(block.text(), before);
                    case "delivery" -> deliver(block);
                    case "counts" -> assertCounts(block.text());
                    case "holds" -> assertHolds(block.text());
                    default -> throw new IllegalStateException("a block of kind " + block.kind());
                }
                before = block.kind();
            }
            star.close();
        }

        /** Definitions of a dimension follow each other under the heading about changes; elsewhere each begins anew. */
        private void define(String yaml, String before) {
            Matcher named = NAMED.matcher(yaml);
            assertThat(named.find()).as(yaml).isTrue();
            if (!before.isEmpty() && !home.endsWith("when-a-definition-changes")) {
                star.close();
                star = new TestStar(home.resolveSibling(home.getFileName() + "-" + yaml.hashCode()));
            }
            boolean dimension = named.group(1).equals("dimension");
            table = (dimension ? "dim_" : "fact_") + named.group(2);
            file = named.group(3);
            star.write((dimension ? "dimensions/" : "facts/") + named.group(2) + ".yaml", yaml);
        }

        private void deliver(Block block) {
            star.write(file + "-" + block.detail() + ".csv", block.text());
            loaded = star.loaded(block.detail(), table);
        }

        private void assertCounts(String text) {
            Map<String, Long> expected = new TreeMap<>();
            text.lines()
                    .map(line -> line.split(" "))
                    .forEach(words -> expected.put(words[0], Long.parseLong(words[1])));
            Map<String, Long> counted = new TreeMap<>(loaded.counts());
            counted.remove("staged");
            counted.values().removeIf(count -> count == 0);
            assertThat(counted).isEqualTo(expected);
        }

        private void assertHolds(String text) {
            List<String> lines = text.lines().toList();
            String key = lines.get(0).split(",")[0];
            List<String> rows = star
                    .rows("select " + lines.get(0) + " from " + table + " where " + key + " > 0 order by " + key)
                    .stream()
                    .map(row -> row.replace("null", "").replace('|', ','))
                    .toList();
            assertThat(rows).isEqualTo(lines.subList(1, lines.size()));
        }
    }
}
