package dev.zeitkammer.staging;

import dev.zeitkammer.definition.Input;
import dev.zeitkammer.engine.OwnFolder;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.AccessDeniedException;
import java.nio.file.FileSystemLoopException;
import java.nio.file.FileSystems;
import java.nio.file.FileVisitOption;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.PathMatcher;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import java.util.function.Supplier;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import java.util.stream.Stream;

/** Finds the files of a delivery. */
final class FileFinder {

    private static final Pattern PARTS =
            Pattern.compile("\\{date}|\\{time}|\\*\\*|\\?|(\\*|\\[[^]]*]|\\{[^}]*})|[^*?\\[{]+|.");

    private final Path folder;

    FileFinder(Path folder) {
        this.folder = folder;
    }

    /** The files of a load date, in order of their paths; empty when there is no delivery. */
    List<Path> of(Input input, LoadDate date) {
        Input.Files files = (Input.Files) input.origin();
        return own(files, () -> matching(date.in(files.pattern().text())));
    }

    /** The files of the newest load date that has any, for looking at what a delivery is like. */
    List<Path> newest(Input input) {
        Input.Files files = (Input.Files) input.origin();
        return own(files, () -> newest(files.pattern().text()));
    }

    /** Where nobody has vouched for a project, nothing is looked at beyond its folder. */
    private List<Path> own(Input.Files files, Supplier<List<Path>> found) {
        if (!files.ownOnly()) {
            return found.get();
        }
        refuseBeyond(folder.resolve(base(files.pattern().text())));
        List<Path> all = found.get();
        all.forEach(this::refuseBeyond);
        return all;
    }

    private void refuseBeyond(Path path) {
        if (!OwnFolder.holds(folder, path)) {
            throw new StagingException(
                    "Cannot read " + shown(path)
                            + ": it is beyond the project's folder, and nobody has vouched for the project yet; see: zeitkammer vouch");
        }
    }

    private List<Path> newest(String pattern) {
        if (!pattern.contains(LoadDate.DATE) && !pattern.contains(LoadDate.TIME)) {
            return matching(pattern);
        }
        List<Path> all = matching(pattern.replace(LoadDate.DATE, "*").replace(LoadDate.TIME, "*"));
        Pattern dated = dated(folder.resolve(pattern).normalize().toString());
        Optional<String> newest = all.stream().map(file -> date(dated, file)).max(Comparator.naturalOrder());
        return all.stream()
                .filter(file -> newest.get().equals(date(dated, file)))
                .toList();
    }

    /** The pattern as a regular expression whose groups are date and time. */
    private static Pattern dated(String pattern) {
        StringBuilder expression = new StringBuilder();
        Matcher parts = PARTS.matcher(pattern);
        while (parts.find()) {
            expression.append(
                    switch (parts.group()) {
                        case LoadDate.DATE -> "(\\d{4}-\\d\\d-\\d\\d)";
                        case LoadDate.TIME -> "(\\d{4})";
                        case "**" -> ".*";
                        case "?" -> "[^/]";
                        default -> parts.group(1) == null ? Pattern.quote(parts.group()) : "[^/]*";
                    });
        }
        return Pattern.compile(expression.toString());
    }

    private static String date(Pattern dated, Path file) {
        Matcher found = dated.matcher(file.toString());
        return found.matches()
                ? IntStream.rangeClosed(1, found.groupCount())
                        .mapToObj(found::group)
                        .collect(Collectors.joining("T"))
                : "";
    }

    private List<Path> matching(String pattern) {
        if (!isGlob(pattern)) {
            Path file = folder.resolve(pattern).normalize();
            return isThere(file) ? List.of(file) : List.of();
        }
        String fixed = fixed(pattern);
        Path base = base(pattern);
        Path whole = folder.resolve(base);
        PathMatcher matcher = FileSystems.getDefault()
                .getPathMatcher("glob:" + literal(whole.toString()) + "/"
                        + pattern.substring(fixed.length()).replaceFirst("^/+", ""));
        int depth = (int) pattern.substring(fixed.length())
                        .chars()
                        .filter(character -> character == '/')
                        .count()
                + (fixed.isEmpty() ? 1 : 0);
        return walk(base, pattern.contains("**") ? Integer.MAX_VALUE : Math.max(1, depth), matcher);
    }

    /** The folder below which all files of a pattern are; that of the file where it names one. */
    Path base(String pattern) {
        String fixed = isGlob(pattern) ? fixed(pattern) : pattern.substring(0, Math.max(0, pattern.lastIndexOf('/')));
        return folder.resolve(pattern.startsWith("/") ? "/" + fixed : fixed).normalize();
    }

    /** The parts of a pattern before the first that stands for several. */
    private static String fixed(String pattern) {
        List<String> fixed = new ArrayList<>();
        for (String part : pattern.split("/", -1)) {
            if (isGlob(part)) {
                break;
            }
            fixed.add(part);
        }
        return String.join("/", fixed);
    }

    private static boolean isGlob(String text) {
        return text.chars().anyMatch(character -> "*?[{".indexOf(character) >= 0);
    }

    private static String literal(String path) {
        return path.replaceAll("([\\\\*?\\[\\]{}])", "\\\\$1");
    }

    private List<Path> walk(Path base, int depth, PathMatcher matcher) {
        if (!isThere(base) || !Files.isDirectory(base)) {
            return List.of();
        }
        try (Stream<Path> files = Files.walk(base, depth, FileVisitOption.FOLLOW_LINKS)) {
            return files.filter(matcher::matches)
                    .filter(file -> !Files.isDirectory(file) && isThere(file))
                    .sorted()
                    .toList();
        } catch (IOException | UncheckedIOException unreadable) {
            throw new StagingException(
                    "Cannot look for files below " + shown(base) + ": " + why(unreadable), unreadable);
        }
    }

    /** Whether a file or folder is there; what cannot be told, or is a link to nowhere, is no missing delivery. */
    private boolean isThere(Path path) {
        if (Files.exists(path)) {
            return true;
        }
        if (Files.isSymbolicLink(path)) {
            throw new StagingException("Cannot read " + shown(path) + ": it is a link that leads nowhere");
        }
        if (!Files.notExists(path)) {
            throw new StagingException("Cannot tell whether " + shown(path)
                    + " is there: no permission to look into its folder, or a link on the way leads in a circle");
        }
        return false;
    }

    private String shown(Path path) {
        return path.startsWith(folder) ? folder.relativize(path).toString() : path.toString();
    }

    private String why(Exception unreadable) {
        Throwable cause = unreadable instanceof UncheckedIOException && unreadable.getCause() != null
                ? unreadable.getCause()
                : unreadable;
        if (cause instanceof AccessDeniedException denied) {
            return "no permission to look into " + shown(Path.of(denied.getFile()));
        }
        return cause instanceof FileSystemLoopException loop
                ? "the link " + shown(Path.of(loop.getFile())) + " leads in a circle"
                : String.valueOf(cause.getMessage());
    }
}
