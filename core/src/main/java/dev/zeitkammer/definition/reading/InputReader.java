package dev.zeitkammer.definition.reading;

import dev.zeitkammer.definition.Assertion;
import dev.zeitkammer.definition.CsvForm;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Input.Extract;
import dev.zeitkammer.definition.Input.ListedColumn;
import dev.zeitkammer.definition.Input.Newer;
import dev.zeitkammer.definition.Input.Origin;
import dev.zeitkammer.definition.Keep;
import dev.zeitkammer.definition.Nearest;
import dev.zeitkammer.definition.Problems;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.DatabaseAddress;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** Reads inputs, from files of their own or inline. */
final class InputReader {

    static final Pattern OVERLAP = Pattern.compile("\\d{1,9}( (day|hour|minute)s?)?");
    static final List<String> ORIGINS = List.of("files", "table", "query", "join");
    private static final Pattern READ =
            Pattern.compile("(?i)(?:\\bfrom|\\bjoin|,)\\s+\"?([\\p{L}_][\\p{L}\\p{N}_]*)\"?(?!\\s*\\.)\\b");

    private static final Pattern JSON = Pattern.compile("(?i).*\\.(jsonl?|ndjson)(\\.gz|\\.zst)?");

    private final Problems problems;
    private final Map<String, DatabaseAddress> databases;
    private final boolean ownOnly;
    private final InputNames inputs;

    InputReader(Problems problems, Map<String, DatabaseAddress> databases, InputNames inputs, boolean ownOnly) {
        this.problems = problems;
        this.databases = databases;
        this.inputs = inputs;
        this.ownOnly = ownOnly;
    }

    /** The name that the file of an input gives it. */
    static Optional<Word> nameOf(Node.Mapping mapping, Problems problems) {
        return Section.ofNames(mapping, problems).required("input", "the input's name");
    }

    /** An input in a file of its own. */
    Optional<Input> read(Node.Mapping mapping, Word name) {
        return body(Section.of(mapping, InputForms.INPUT, problems), name);
    }

    /** An input written inline, below {@code from}. */
    Optional<Input> readInline(Node.Mapping mapping, Word owner) {
        return body(Section.of(mapping, InputForms.INLINE, problems), owner);
    }

    private Optional<Input> body(Section section, Word name) {
        List<ListedColumn> columns =
                section.mapping("columns").map(this::columns).orElse(List.of());
        Optional<Word> where = section.sql("where");
        boolean trim = section.flag("trim");
        Extract extract = section.choice("extract", Extract.class);
        boolean required = section.flag("required");
        boolean retain = section.flag("retain");
        Optional<Origin> origin = origin(section, name);
        Optional<Newer> newer = origin.filter(Input.Join.class::isInstance)
                .flatMap(join -> ((Input.Join) join).from().newer())
                .or(() -> newer(section));
        headerless(section, origin, columns);
        Optional<Keep> keep = section.mapping("keep").flatMap(mapping -> keep(mapping, section));
        List<Assertion> assertions = new AssertionReader(problems, inputs::named).ofInput(section);
        return origin.map(known ->
                new Input(name, known, columns, where, trim, extract, required, newer, retain, keep, assertions));
    }

    private Optional<Keep> keep(Node.Mapping mapping, Section owner) {
        Section section = Section.of(mapping, InputForms.KEEP, problems);
        List<Word> by = section.words("by");
        if (by.isEmpty()) {
            problems.malformed(section.place(), "\"by\" is missing; expected the columns that identify a row");
        }
        for (String other : List.of("retain", "newer-than")) {
            if (owner.has(other)) {
                problems.add(
                        owner.placeOf(other),
                        "an input that keeps its latest rows cannot have \"" + other + "\" too; leave one of them out");
            }
        }
        return Optional.of(new Keep(by, section.word("order"), section.words("compare"), section.sql("when")));
    }

    private Optional<Newer> newer(Section section) {
        Optional<Newer> newer = section.word("newer-than").map(column -> new Newer(column, section.word("overlap")));
        newer.flatMap(Newer::overlap).ifPresent(this::overlap);
        if (newer.isEmpty() && section.has("overlap")) {
            problems.add(section.placeOf("overlap"), "\"overlap\" belongs to \"newer-than\", which is not given");
        }
        return newer;
    }

    private void overlap(Word word) {
        if (!OVERLAP.matcher(word.text()).matches()) {
            problems.malformed(
                    word.place(), "\"overlap\" is \"" + word + "\"; expected a number, or a time such as 2 days");
        }
    }

    private void headerless(Section section, Optional<Origin> origin, List<ListedColumn> columns) {
        if (origin.orElse(null) instanceof Input.Files files && !files.csv().header() && columns.isEmpty()) {
            problems.add(
                    section.placeOf("csv"),
                    "files without a header need \"columns\": every column with its type, in the order of the files");
        }
    }

    private Optional<Origin> origin(Section section, Word name) {
        List<String> given = ORIGINS.stream().filter(section::has).toList();
        if (given.size() != 1) {
            problems.malformed(
                    section.place(),
                    given.isEmpty()
                            ? "\"files\" is missing; expected a path such as \"deliveries/{date}/huts*.csv\", or instead of it"
                                    + " table, query or join"
                            : "an input has one of files, table, query and join; found " + String.join(" and ", given));
            return Optional.empty();
        }
        belongsTo(section, given.get(0), "csv", List.of("files"));
        belongsTo(section, given.get(0), "json", List.of("files"));
        belongsTo(section, given.get(0), "time-zone", List.of("files"));
        belongsTo(section, given.get(0), "database", List.of("table", "query"));
        belongsTo(section, given.get(0), "columns", List.of("files", "table", "query"));
        belongsTo(section, given.get(0), "newer-than", List.of("files", "table", "query"));
        Optional<DatabaseAddress> database = section.word("database").flatMap(this::database);
        return switch (given.get(0)) {
            case "files" ->
                section.word("files").map(pattern -> new Input.Files(pattern, texts(section, pattern), ownOnly));
            case "table" -> section.word("table").map(table -> new Input.Table(table, database));
            case "query" ->
                (database.isPresent() ? section.word("query") : section.sql("query"))
                        .map(sql -> new Input.Query(sql, database, mentioned(sql, name, database)));
            default -> section.mapping("join").flatMap(this::join);
        };
    }

    private void belongsTo(Section section, String origin, String keyword, List<String> origins) {
        if (section.has(keyword) && !origins.contains(origin)) {
            problems.add(
                    section.placeOf(keyword),
                    "\"" + keyword + "\" belongs to " + String.join(" or ", origins) + ", and this input has " + origin
                            + (origin.equals("join") ? "; write it in the inputs that are joined" : ""));
        }
    }

    /** How texts in its files are written. */
    private CsvForm texts(Section section, Word pattern) {
        boolean isJson = JSON.matcher(pattern.text()).matches();
        boolean isDelimited =
                !isJson && !pattern.text().toLowerCase(Locale.ROOT).endsWith(".parquet");
        refuse(section, "csv", isDelimited, "delimited files", pattern);
        refuse(section, "json", isJson, "files of JSON", pattern);
        refuse(section, "time-zone", isDelimited || isJson, "texts", pattern);
        CsvReader reader = new CsvReader(problems);
        CsvForm form = section.mapping(isJson ? "json" : "csv")
                .map(mapping -> isJson ? reader.json(mapping) : reader.read(mapping))
                .orElse(CsvForm.STANDARD);
        return section.word("time-zone").flatMap(reader::zone).map(form::of).orElse(form);
    }

    private void refuse(Section section, String keyword, boolean fits, String about, Word pattern) {
        if (section.has(keyword) && !fits) {
            problems.add(
                    section.placeOf(keyword),
                    "\"" + keyword + "\" is about " + about + "; " + pattern + " names others");
        }
    }

    private Optional<DatabaseAddress> database(Word name) {
        Optional<DatabaseAddress> found = Optional.ofNullable(databases.get(name.text()));
        if (found.isEmpty()) {
            problems.add(
                    name.place(),
                    "there is no database \"" + name + "\" under databases: in " + Project.FILE + "; "
                            + Nearest.hint(name.text(), databases.keySet()));
        }
        return found;
    }

    /** The inputs that a query in the warehouse reads as tables. */
    private List<Input> mentioned(Word sql, Word name, Optional<DatabaseAddress> database) {
        if (database.isPresent()) {
            return List.of();
        }
        List<Input> found = new ArrayList<>();
        Matcher tables = READ.matcher(sql.text());
        while (tables.find()) {
            String table = tables.group(1);
            if (!table.equals(name.text()) && inputs.isKnown(table)) {
                inputs.named(new Word(table, sql.place()))
                        .filter(input -> !found.contains(input))
                        .ifPresent(input -> {
                            readWhole(input, sql);
                            found.add(input);
                        });
            }
        }
        return found;
    }

    private void readWhole(Input input, Word sql) {
        if (input.newer().isPresent()) {
            problems.add(
                    sql.place(),
                    "the query reads \"" + input.name()
                            + "\", which is staged by newer-than; a query reads its inputs whole: give newer-than to this input");
        }
    }

    private Optional<Origin> join(Node.Mapping mapping) {
        return new JoinReader(problems, inputs).read(mapping).map(Origin.class::cast);
    }

    private List<ListedColumn> columns(Node.Mapping mapping) {
        Section section = Section.ofNames(mapping, problems);
        List<ListedColumn> columns = new ArrayList<>();
        for (Node.Entry entry : section.entries()) {
            section.wordOf(entry.value(), "the type of \"" + entry.keyword() + "\"")
                    .flatMap(section::typeOf)
                    .ifPresent(type -> columns.add(new ListedColumn(entry.keyword(), type)));
        }
        return columns;
    }
}
