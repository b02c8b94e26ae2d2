package dev.zeitkammer.definition.reading;

import com.fasterxml.jackson.core.JsonLocation;
import com.fasterxml.jackson.core.JsonParser;
import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.core.JsonToken;
import com.fasterxml.jackson.dataformat.yaml.YAMLFactory;
import com.fasterxml.jackson.dataformat.yaml.YAMLParser;
import dev.zeitkammer.definition.Place;
import dev.zeitkammer.definition.Problems;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Secrets;
import java.io.IOException;
import java.nio.charset.CharacterCodingException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.regex.MatchResult;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;

/** Reads one YAML document into {@link Node}s with places; environment variables are put in after parsing. */
final class YamlReader {

    private static final YAMLFactory YAML = new YAMLFactory();
    private static final Pattern VARIABLE = Pattern.compile("\\$\\{([A-Za-z_][A-Za-z0-9_]*)\\}");

    /** Names of variables that hold what nobody may read, wherever they are put in. */
    private static final Pattern SECRET = Pattern.compile("(?i)pass|pwd|secret|token|credential|apikey|api_key");

    private final String file;
    private static final Pattern INDENTED_BY_TAB = Pattern.compile(" *\\t");
    /** What the parser adds for its own developers: names of classes and methods in parentheses. */
    private static final Pattern CLASS_NAMES = Pattern.compile(" ?\\([^()]*`[^`]*(\\([^()]*\\))?[^`]*`[^()]*\\)");

    private static final Set<String> ADDRESSES = Set.of("warehouses", "databases");

    private final Variables variables;
    /** Below addresses a variable that is not set stays as it is written: only who opens that address needs it. */
    private boolean addresses;

    /** The keyword whose value is read. */
    private String under = "";

    private final Problems problems;

    /**
     * @param file the file's name as messages show it
     * @param variables what {@code ${NAME}} may stand for
     */
    YamlReader(String file, Variables variables, Problems problems) {
        this.file = file;
        this.variables = variables;
        this.problems = problems;
    }

    /** The document's top mapping; empty, with the problem noted, when there is none. */
    Optional<Node.Mapping> read(Path path) {
        try {
            return read(Files.readString(path, StandardCharsets.UTF_8));
        } catch (NoSuchFileException missing) {
            problems.add(start(), "this file is missing");
        } catch (CharacterCodingException notText) {
            problems.add(start(), "this file is not text in UTF-8");
        } catch (IOException unreadable) {
            problems.add(start(), "cannot read this file: " + unreadable.getMessage());
        }
        return Optional.empty();
    }

    Optional<Node.Mapping> read(String text) {
        try (YAMLParser parser = YAML.createParser(text)) {
            if (parser.nextToken() == null) {
                problems.add(start(), "this file is empty; expected keywords");
                return Optional.empty();
            }
            Node root = node(parser);
            if (parser.nextToken() != null) {
                problems.add(place(parser), "a second document in one file; expected one definition a file");
            }
            if (root instanceof Node.Mapping mapping) {
                return Optional.of(mapping);
            }
            problems.add(root.place(), "found " + root.form() + "; expected keywords");
        } catch (JsonProcessingException broken) {
            problems.add(place(broken, text), "this is not YAML: " + sentences(broken.getOriginalMessage()));
        } catch (IOException impossible) {
            problems.add(start(), "cannot read this file: " + impossible.getMessage());
        }
        return Optional.empty();
    }

    private Node node(YAMLParser parser) throws IOException {
        JsonToken token = parser.currentToken();
        if (parser.isCurrentAlias()) {
            problems.add(place(parser), "an alias (*name) is not supported; write the value out");
            return new Node.Scalar("", true, place(parser));
        }
        return switch (token) {
            case START_OBJECT -> mapping(parser);
            case START_ARRAY -> sequence(parser);
            default -> scalar(parser);
        };
    }

    private Node.Mapping mapping(YAMLParser parser) throws IOException {
        Place place = place(parser);
        LinkedHashMap<String, Node.Entry> entries = new LinkedHashMap<>();
        while (parser.nextToken() != JsonToken.END_OBJECT) {
            Word keyword = new Word(parser.currentName(), place(parser));
            parser.nextToken();
            boolean outside = !addresses && file.equals(Project.FILE) && ADDRESSES.contains(keyword.text());
            addresses |= outside;
            under = keyword.text();
            Node value = node(parser);
            addresses &= !outside;
            Node.Entry before = entries.putIfAbsent(keyword.text(), new Node.Entry(keyword, value));
            if (before != null) {
                problems.add(
                        keyword.place(),
                        "\"" + keyword + "\" stands here a second time; the first is on line "
                                + before.keyword().place().line());
            }
        }
        return new Node.Mapping(entries, place);
    }

    private Node.Sequence sequence(YAMLParser parser) throws IOException {
        Place place = place(parser);
        List<Node> items = new ArrayList<>();
        while (parser.nextToken() != JsonToken.END_ARRAY) {
            items.add(node(parser));
        }
        return new Node.Sequence(List.copyOf(items), place);
    }

    private Node.Scalar scalar(YAMLParser parser) throws IOException {
        Place place = place(parser);
        boolean plain = parser.currentToken() != JsonToken.VALUE_STRING;
        String text = parser.getText();
        return new Node.Scalar(substituted(text == null ? "" : text, place), !plain, place);
    }

    private String substituted(String text, Place place) {
        Matcher variable = VARIABLE.matcher(text);
        StringBuilder result = new StringBuilder();
        while (variable.find()) {
            String name = variable.group(1);
            if (!file.equals(Project.FILE)) {
                problems.add(
                        place,
                        variable.group() + " is put in only in " + Project.FILE
                                + ", so that nothing of the environment comes into tables; write the value down here");
                break;
            }
            String value = variables.value(name, addresses);
            if (value == null && !addresses && !variables.areWithheld()) {
                problems.add(place, "the environment variable " + name + " is not set");
            }
            if ((addresses && isSecret(text, variable)) || SECRET.matcher(name).find()) {
                Secrets.keep(value);
            }
            variable.appendReplacement(result, Matcher.quoteReplacement(value == null ? variable.group() : value));
        }
        return variable.appendTail(result).toString();
    }

    /** Whether a variable stands for a password, or for a part of a URL that is not shown. */
    private boolean isSecret(String text, MatchResult variable) {
        boolean behindHost = text.substring(0, variable.start()).matches(".*[?;].*");
        boolean beforeHost = text.indexOf('@', variable.end()) >= 0;
        return under.equals("password") || (under.equals("url") && (behindHost || beforeHost));
    }

    private Place start() {
        return new Place(file, 1, 1);
    }

    private Place place(JsonParser parser) {
        return place(parser.currentTokenLocation());
    }

    /** Where it went wrong; a tab is seen on the line before, and some errors have no place. */
    private Place place(JsonProcessingException broken, String text) {
        if (String.valueOf(broken.getOriginalMessage()).contains("(TAB)")) {
            List<String> lines = text.lines().toList();
            for (int number = 0; number < lines.size(); number++) {
                if (INDENTED_BY_TAB.matcher(lines.get(number)).lookingAt()) {
                    return new Place(file, number + 1, lines.get(number).indexOf('\t') + 1);
                }
            }
        }
        return broken.getLocation() == null ? start() : place(broken.getLocation());
    }

    private Place place(JsonLocation location) {
        return new Place(file, Math.max(1, location.getLineNr()), Math.max(1, location.getColumnNr()));
    }

    /** The sentences of the parser's message, without its excerpts of the file. */
    private static String sentences(String message) {
        String all = message.lines().filter(line -> !line.startsWith(" ")).collect(Collectors.joining(": "));
        return CLASS_NAMES.matcher(all).replaceAll("");
    }
}
