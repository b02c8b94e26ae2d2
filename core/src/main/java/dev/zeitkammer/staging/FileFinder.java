package dev.zeitkammer.staging;

import dev.zeitkammer.definition.Input;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.FileSystems;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.PathMatcher;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.Stream;

/** Finds the files of a delivery. */
final class FileFinder {

    private static final String DATE = "{date}";

    private final Path folder;

    FileFinder(Path folder) {
        this.folder = folder;
    }

    /** The files of a load date, in order of their paths; empty when there is no delivery. */
    List<Path> of(Input input, String date) {
        return matching(input.files().text().replace(DATE, date));
    }

    /** The files of the newest load date that has any, for looking at what a delivery is like. */
    List<Path> newest(Input input) {
        String pattern = input.files().text();
        if (!pattern.contains(DATE)) {
            return matching(pattern);
        }
        List<Path> all = matching(pattern.replace(DATE, "*"));
        if (all.isEmpty()) {
            return all;
        }
        Path last = all.get(all.size() - 1);
        return all.stream().filter(file -> sameDelivery(pattern, file, last)).toList();
    }

    private boolean sameDelivery(String pattern, Path file, Path last) {
        String before = pattern.substring(0, pattern.indexOf(DATE));
        int from = folder.resolve(before + "x").toString().length() - 1;
        int width = "2026-01-01".length();
        return file.toString().regionMatches(from, last.toString(), from, width);
    }

    private List<Path> matching(String pattern) {
        if (!isGlob(pattern)) {
            Path file = folder.resolve(pattern).normalize();
            return Files.exists(file) ? List.of(file) : List.of();
        }
        List<String> fixed = new ArrayList<>();
        for (String part : pattern.split("/", -1)) {
            if (isGlob(part)) {
                break;
            }
            fixed.add(part);
        }
        Path base = folder.resolve(pattern.startsWith("/") ? "/" + String.join("/", fixed) : String.join("/", fixed))
                .normalize();
        Path whole = folder.resolve(base);
        PathMatcher matcher = FileSystems.getDefault()
                .getPathMatcher("glob:" + literal(whole.toString()) + "/"
                        + pattern.substring(String.join("/", fixed).length()).replaceFirst("^/+", ""));
        int depth = (int) pattern.chars().filter(character -> character == '/').count() - fixed.size() + 1;
        return walk(base, pattern.contains("**") ? Integer.MAX_VALUE : Math.max(1, depth), matcher);
    }

    private static boolean isGlob(String text) {
        return text.chars().anyMatch(character -> "*?[{".indexOf(character) >= 0);
    }

    private static String literal(String path) {
        return path.replaceAll("([\\\\*?\\[\\]{}])", "\\\\$1");
    }

    private static List<Path> walk(Path base, int depth, PathMatcher matcher) {
        if (!Files.isDirectory(base)) {
            return List.of();
        }
        try (Stream<Path> files = Files.walk(base, depth)) {
            return files.filter(Files::isRegularFile)
                    .filter(matcher::matches)
                    .sorted()
                    .toList();
        } catch (IOException | UncheckedIOException unreadable) {
            throw new StagingException(
                    "Cannot look for files below " + base + ": " + unreadable.getMessage(), unreadable);
        }
    }
}
