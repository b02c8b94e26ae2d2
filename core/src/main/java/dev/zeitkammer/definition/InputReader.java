package dev.zeitkammer.definition;

import dev.zeitkammer.definition.Input.Extract;
import dev.zeitkammer.definition.Input.ListedColumn;
import dev.zeitkammer.definition.Input.Newer;
import java.time.format.DateTimeFormatter;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/** Reads inputs, from files of their own or inline. */
final class InputReader {

    private static final String[] BODY = {
        "files", "csv", "columns", "where", "trim", "extract", "required", "newer-than", "overlap"
    };
    private static final List<String> ENCODINGS = List.of("utf-8", "latin-1", "utf-16");

    private final Problems problems;

    InputReader(Problems problems) {
        this.problems = problems;
    }

    /** An input in a file of its own. */
    Optional<Input> read(Node.Mapping mapping) {
        String[] keywords = new String[BODY.length + 1];
        keywords[0] = "input";
        System.arraycopy(BODY, 0, keywords, 1, BODY.length);
        Section section = Section.of(mapping, "an input", problems, keywords);
        Optional<Word> name = section.required("input", "the input's name");
        return name.flatMap(known -> body(section, known));
    }

    /** An input written inline, below {@code from}. */
    Optional<Input> readInline(Node.Mapping mapping, Word owner) {
        return body(Section.of(mapping, "an inline input", problems, BODY), owner);
    }

    private Optional<Input> body(Section section, Word name) {
        Optional<Word> files = section.required("files", "a path such as \"deliveries/{date}/huts*.csv\"");
        CsvForm csv = section.mapping("csv").map(this::csv).orElse(CsvForm.STANDARD);
        List<ListedColumn> columns =
                section.mapping("columns").map(this::columns).orElse(List.of());
        Optional<Word> where = section.word("where");
        boolean trim = section.flag("trim");
        Extract extract = section.choice("extract", Extract.class);
        boolean required = section.flag("required");
        Optional<Newer> newer = section.word("newer-than").map(column -> new Newer(column, section.word("overlap")));
        newer.flatMap(Newer::overlap).ifPresent(this::overlap);
        if (newer.isEmpty() && section.has("overlap")) {
            problems.add(section.placeOf("overlap"), "\"overlap\" belongs to \"newer-than\", which is not given");
        }
        return files.map(known -> new Input(name, known, csv, columns, where, trim, extract, required, newer));
    }

    private void overlap(Word word) {
        if (!word.text().matches("\\d{1,9}( (day|hour|minute)s?)?")) {
            problems.add(word.place(), "\"overlap\" is \"" + word + "\"; expected a number, or a time such as 2 days");
        }
    }

    private CsvForm csv(Node.Mapping mapping) {
        Section section = Section.of(
                mapping, "csv", problems, "delimiter", "null-words", "date-format", "timestamp-format", "encoding");
        Optional<String> delimiter = section.word("delimiter").map(this::delimiter);
        List<String> nullWords = section.texts("null-words").orElse(CsvForm.STANDARD.nullWords());
        String encoding = section.word("encoding").map(this::encoding).orElse(CsvForm.STANDARD.encoding());
        Optional<Word> dates = section.word("date-format").filter(this::isPattern);
        Optional<Word> timestamps = section.word("timestamp-format").filter(this::isPattern);
        return new CsvForm(delimiter, nullWords, dates, timestamps, encoding);
    }

    private String delimiter(Word word) {
        String text = word.text().equals("\\t") ? "\t" : word.text();
        if (text.length() != 1 || "\"\r\n".contains(text)) {
            problems.add(word.place(), "the delimiter is \"" + word + "\"; expected one character, such as \";\"");
        }
        return text;
    }

    private String encoding(Word word) {
        if (!ENCODINGS.contains(word.text())) {
            problems.add(
                    word.place(), "\"encoding\" cannot be \"" + word + "\"; " + Nearest.hint(word.text(), ENCODINGS));
        }
        return word.text();
    }

    private boolean isPattern(Word word) {
        try {
            DateTimeFormatter.ofPattern(word.text());
            if (word.text().matches("[^A-Za-z]*((yyyy|yy|MM|M|dd|d|HH|H|mm|ss|SSSSSS|SSS)[^A-Za-z]*)+")) {
                return true;
            }
        } catch (IllegalArgumentException notOne) {
            // reported below, like a pattern with letters that are not supported
        }
        problems.add(
                word.place(),
                "\"" + word
                        + "\" is not a format; expected the letters yyyy, yy, MM, M, dd, d, HH, H, mm, ss, SSS or SSSSSS,"
                        + " such as \"dd.MM.yyyy\"");
        return false;
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
