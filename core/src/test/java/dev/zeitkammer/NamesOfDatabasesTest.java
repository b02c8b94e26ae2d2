package dev.zeitkammer;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** The engine alone knows which database it is: nowhere else is one named, not even in a comment. */
class NamesOfDatabasesTest {

    private static final Path SOURCES = Path.of("src", "main", "java", "dev", "zeitkammer");
    private static final Pattern NAMES = Pattern.compile("duckdb|postgres|mariadb", Pattern.CASE_INSENSITIVE);

    @ParameterizedTest
    @ValueSource(
            strings = {
                "align",
                "books",
                "calendar",
                "dimension",
                "fact",
                "load",
                "lookup",
                "profile",
                "staging",
                "step",
                "verify",
                "view"
            })
    void areNotInTheRoomsAboveTheEngine(String room) throws IOException {
        try (Stream<Path> files = Files.walk(SOURCES.resolve(room))) {
            List<Path> sources =
                    files.filter(file -> file.toString().endsWith(".java")).toList();
            assertThat(sources).hasSizeGreaterThan(1);
            for (Path source : sources) {
                assertThat(NAMES.matcher(Files.readString(source)).find())
                        .as(source.toString())
                        .isFalse();
            }
        }
    }
}
