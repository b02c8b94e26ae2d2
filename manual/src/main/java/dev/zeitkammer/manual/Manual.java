package dev.zeitkammer.manual;

import com.fasterxml.jackson.databind.ObjectMapper;
import java.io.IOException;
import java.io.InputStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/** Turns the README and the pages of docs into a folder of HTML that finds its words without a server. */
public final class Manual {

    /** In the order in which one reads them. */
    private static final List<String> ORDER = List.of(
            "README",
            "first-star",
            "definitions",
            "rules",
            "commands",
            "warehouses",
            "by-hand",
            "recipes",
            "adopting",
            "history",
            "security",
            "speed");

    private final Path root;
    private final Path target;

    private Manual(Path root, Path target) {
        this.root = root;
        this.target = target;
    }

    /** @param args the folder of the repository, and the one to write to */
    public static void main(String[] args) throws IOException {
        write(Path.of(args[0]).normalize(), Path.of(args[1]));
    }

    /** Writes the pages; a page of docs that is not in the order comes last. */
    public static void write(Path root, Path target) throws IOException {
        new Manual(root, target).write();
    }

    private void write() throws IOException {
        Files.createDirectories(target);
        List<MarkdownPage> pages = new ArrayList<>();
        for (Path source : sources()) {
            pages.add(MarkdownPage.of(source));
        }
        for (MarkdownPage page : pages) {
            Files.writeString(target.resolve(page.file()), html(page, pages));
        }
        List<Map<String, String>> sections =
                pages.stream().flatMap(page -> page.sections().stream()).toList();
        ObjectMapper json = new ObjectMapper();
        Files.writeString(
                target.resolve("words.js"),
                "const SECTIONS = " + json.writeValueAsString(sections) + ";\nconst TRADE = "
                        + json.writeValueAsString(tradeWords(sections)) + ";\n");
        for (String file : List.of("manual.css", "manual.js")) {
            Files.writeString(target.resolve(file), resource(file));
        }
        for (String folder : List.of("screenshots", "pictures")) {
            copy(root.resolve("docs").resolve(folder), target.resolve(folder));
        }
    }

    /** The words under which people look for what the manual calls otherwise, each line of them with the section that says it. */
    private static List<Map<String, Object>> tradeWords(List<Map<String, String>> sections) throws IOException {
        return resource("trade-words.txt")
                .lines()
                .filter(line -> !line.startsWith("#"))
                .map(line -> line.split(": ", 2))
                .map(line -> Map.<String, Object>of(
                        "section", section(line[0], sections), "words", List.of(line[1].split(", "))))
                .toList();
    }

    /** The number of a section; an address without one is the page's first. */
    private static int section(String address, List<Map<String, String>> sections) {
        for (int number = 0; number < sections.size(); number++) {
            String found = sections.get(number).getOrDefault("address", "");
            if (found.equals(address) || (!address.contains("#") && found.startsWith(address + "#"))) {
                return number;
            }
        }
        throw new IllegalStateException("trade-words.txt names a section that is not there: " + address);
    }

    private List<Path> sources() throws IOException {
        try (Stream<Path> docs = Files.list(root.resolve("docs"))) {
            return Stream.concat(Stream.of(root.resolve("README.md")), docs)
                    .filter(file -> file.toString().endsWith(".md"))
                    .sorted((one, other) -> Integer.compare(place(one), place(other)))
                    .toList();
        }
    }

    private static int place(Path file) {
        int place = ORDER.indexOf(file.getFileName().toString().replaceFirst("\\.md$", ""));
        return place < 0 ? ORDER.size() : place;
    }

    private static String html(MarkdownPage page, List<MarkdownPage> pages) throws IOException {
        String links = pages.stream()
                .map(other -> "<a href=\"" + other.file() + "\"" + (other.equals(page) ? " aria-current=\"page\"" : "")
                        + ">" + other.title() + "</a>")
                .collect(Collectors.joining("\n"));
        return resource("page.html")
                .replace("@TITLE@", page.title())
                .replace("@LINKS@", links)
                .replace("@CONTENTS@", page.contents())
                .replace("@BODY@", page.body());
    }

    private static String resource(String name) throws IOException {
        try (InputStream in = Manual.class.getResourceAsStream("/manual/" + name)) {
            if (in == null) {
                throw new IllegalStateException("there is no " + name);
            }
            return new String(in.readAllBytes(), StandardCharsets.UTF_8);
        }
    }

    private static void copy(Path from, Path to) throws IOException {
        Files.createDirectories(to);
        try (Stream<Path> files = Files.list(from)) {
            for (Path file : files.toList()) {
                Files.copy(file, to.resolve(file.getFileName().toString()), StandardCopyOption.REPLACE_EXISTING);
            }
        }
    }
}
