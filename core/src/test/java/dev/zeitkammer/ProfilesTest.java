package dev.zeitkammer;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;

/** The profiles run what was written for them: a class that a list forgets is green without a run. */
class ProfilesTest {

    private static final Path TESTS = Path.of("src", "test", "java");

    private static List<String> included(String execution) throws IOException {
        String pom = Files.readString(Path.of("pom.xml"));
        int from = pom.indexOf("<id>" + execution + "</id>");
        String part = pom.substring(from, pom.indexOf("</execution>", from));
        return Pattern.compile("<include>(.*?)</include>")
                .matcher(part)
                .results()
                .map(found -> found.group(1))
                .toList();
    }

    private static boolean isIn(List<String> includes, Path source) {
        String path = source.toString().replace('\\', '/');
        return includes.stream()
                .anyMatch(include -> path.matches(Pattern.quote(include).replace("*", "\\E[^/]*\\Q")));
    }

    private static List<Path> sources() throws IOException {
        try (Stream<Path> files = Files.walk(TESTS)) {
            return files.filter(file -> file.toString().endsWith(".java")).toList();
        }
    }

    @Test
    void whatIsWrittenForAClusterRunsThere() throws IOException {
        List<String> includes = included("on-cluster");
        List<String> forgotten = new ArrayList<>();
        for (Path source : sources()) {
            String name = source.getFileName().toString().replace(".java", "");
            String text = Files.readString(source);
            boolean isTest = text.contains("@Test") && !name.equals("ProfilesTest");
            boolean saysSo = Pattern.compile("\\bonCluster\\(|\\bOnCluster\\b")
                    .matcher(text)
                    .find();
            if (isTest && saysSo && !isIn(includes, TESTS.relativize(source))) {
                forgotten.add(name);
            }
        }
        assertThat(forgotten).isEmpty();
    }

    /** A class that a list names and that is not there, or has another name now, is run by nobody. */
    @Test
    void everyListNamesClassesThatAreThere() throws IOException {
        List<String> nobody = new ArrayList<>();
        for (String execution : List.of("on-server", "on-cluster")) {
            for (String include : included(execution)) {
                if (sources().stream().noneMatch(source -> isIn(List.of(include), TESTS.relativize(source)))) {
                    nobody.add(execution + ": " + include);
                }
            }
        }
        assertThat(nobody).isEmpty();
    }

    /** The launcher builds without the profile that has them, and fetches 160 MB instead of 500. */
    @Test
    void whatTestsNeedIsNotFetchedForTheFirstStart() throws IOException {
        for (String module : List.of("../pom.xml", "pom.xml", "../cli/pom.xml")) {
            String pom = Files.readString(Path.of(module));
            String program = pom.substring(0, pom.indexOf("<profiles>"));
            assertThat(program).as(module).doesNotContain("<scope>test</scope>", "spotless");
            assertThat(pom).as(module).contains("<name>!program.only</name>");
        }
        assertThat(Files.readString(Path.of("../zeitkammer"))).contains("-Dprogram.only");
    }
}
