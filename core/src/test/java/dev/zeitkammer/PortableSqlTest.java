package dev.zeitkammer;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.TreeMap;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;

/** What engines write in different ways is written by their dialects, and nowhere above them. */
class PortableSqlTest {

    private static final Path SOURCES = Path.of("src", "main", "java", "dev", "zeitkammer");

    /** The engines, and what is written for the embedded one only: rows are staged there. */
    private static final Set<String> NOT_ABOVE_ENGINES = Set.of("engine", "staging");

    /** What is found in texts of the sources, and what to write instead. */
    private static final Map<String, String> RAW = new TreeMap<>(Map.of(
            "\\bas (varchar|text|string|timestamp|double( precision)?)\\)", "Dialect.cast or asText",
            "\\binterval\\b", "Dialect.later, earlier or nextMoment",
            "\\bis (not )?distinct from\\b", "Dialect.differs, same or equal",
            "\\bstring_agg\\b|\\blistagg\\b", "Dialect.joined",
            "(?s)\\bupdate \\S+ (as \\w )?set\\b|\\bdelete from \\S+ (as|where|using)\\b",
                    "a TableChange or a BookChange",
            "(?i)\\bcreate( or replace)? (temp|temporary|table|view)\\b(?! if not exists)",
                    "Warehouse.keep or name, Dialect.createTable or createView",
            "'-?infinity'", "Dialect.always or forever",
            "(?<![\\w.])\\w+_on [+-] \\d|\\bday [+-] \\d", "Dialect.nextMoment or dayBefore",
            "(as|from|join|\\.) ?\\\\\"", "Dialect.quote",
            "\\busing \\(|\\bexcept\\b|\\bqualify\\b|::", "standard SQL"));

    private static final Pattern TEXT =
            Pattern.compile("'(?:[^'\\\\]|\\\\.)'|\"\"\"(.*?)\"\"\"|\"((?:[^\"\\\\]|\\\\.)*)\"", Pattern.DOTALL);

    /** Words that only look like SQL, and the one place that measures: messages for readers. */
    private static final Pattern MESSAGE = Pattern.compile("[.;,:] [a-z]+ |^[A-Z]|such as |; | — ");

    @Test
    void sqlAboveTheEnginesIsPortable() throws IOException {
        List<String> found = new ArrayList<>();
        int texts = 0;
        for (Path room : roomsAboveEngines()) {
            for (Path file : javaFiles(room)) {
                String source = Files.readString(file).replaceAll("(?s)/\\*\\*.*?\\*/", "");
                Matcher text = TEXT.matcher(source);
                while (text.find()) {
                    texts++;
                    raw(Objects.requireNonNullElse(text.group(1), String.valueOf(text.group(2))))
                            .forEach(what -> found.add(SOURCES.relativize(file) + ": " + what));
                }
            }
        }
        assertThat(texts).as("texts that were looked at").isGreaterThan(1000);
        assertThat(found).isEmpty();
    }

    /** Every package but those, so that none is forgotten. */
    private static List<Path> roomsAboveEngines() throws IOException {
        try (Stream<Path> rooms = Files.list(SOURCES)) {
            return rooms.filter(Files::isDirectory)
                    .filter(room ->
                            !NOT_ABOVE_ENGINES.contains(room.getFileName().toString()))
                    .sorted()
                    .toList();
        }
    }

    private static List<String> raw(String text) {
        List<String> found = new ArrayList<>();
        RAW.forEach((pattern, instead) -> {
            if (Pattern.compile(pattern).matcher(text).find() && !isMessage(text)) {
                found.add("\"" + text.strip().lines().findFirst().orElse("") + "\"; use " + instead);
            }
        });
        return found;
    }

    private static boolean isMessage(String text) {
        return MESSAGE.matcher(text).find() && !text.contains("select ");
    }

    private static List<Path> javaFiles(Path folder) throws IOException {
        try (Stream<Path> files = Files.walk(folder)) {
            return files.filter(file -> file.toString().endsWith(".java"))
                    .sorted()
                    .toList();
        }
    }

    @Test
    void theScanFindsWhatItForbids() {
        assertThat(List.of(
                        "cast(x as varchar)",
                        "x - interval '1 day'",
                        "a is not distinct from b",
                        "string_agg(x, ', ')",
                        "update t set x = 1",
                        "delete from t where x = 1",
                        "create temp table x as select 1",
                        "cast('infinity' as date)",
                        "night_on + 1",
                        "a.\\\"name\\\"",
                        "join x using (a)"))
                .allSatisfy(sql -> assertThat(raw(sql)).as(sql).isNotEmpty());
        assertThat(raw("select a.x, cast(b.n as bigint) from t as a join u as b on b.id = a.id"))
                .isEmpty();
    }
}
