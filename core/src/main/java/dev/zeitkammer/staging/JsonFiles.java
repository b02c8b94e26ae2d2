package dev.zeitkammer.staging;

import dev.zeitkammer.definition.CsvForm;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Stager;
import dev.zeitkammer.engine.WarehouseException;
import dev.zeitkammer.staging.text.TextFiles;
import java.io.BufferedReader;
import java.io.IOException;
import java.io.Reader;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.function.Supplier;
import java.util.stream.Collectors;
import java.util.stream.IntStream;

/**
 * JSON files: one object a line, or one array of objects. Values are taken as texts, as they would stand in a delimited file;
 * objects and arrays inside stay JSON.
 */
final class JsonFiles extends FileSource {

    private static final String LONG_NUMBER = "[0-9][0-9.]{15,}";

    /** Characters for private use, which mean nothing in texts. */
    private static final String BEFORE_NUMBER = "chr(57344)";

    private static final String BEHIND_NUMBER = "chr(57345)";

    /** More than files without rows have. */
    private static final long FEW_BYTES = 1 << 20;

    private static final String LARGE_OBJECTS = " maximum_object_size = 268435456,";

    private final boolean isArray;
    private final List<String> keys;
    private final boolean hasLongLines;
    private boolean hasLargeObjects;

    private JsonFiles(Input input, DeliveredFiles files, Stager stager, boolean isArray) {
        super(input, files, stager);
        this.isArray = isArray;
        this.hasLongLines = !isArray && files.haveLongLines();
        this.keys = keys();
    }

    static JsonFiles open(Input input, DeliveredFiles files, Stager stager) {
        List<Boolean> arrays =
                files.paths().stream().map(file -> isArray(files, file)).toList();
        int other = arrays.indexOf(!arrays.get(0));
        if (other > 0) {
            throw new StagingException("Cannot stage " + files.shown(other) + " and " + files.shown(0)
                    + " together: one is a JSON array, the other has one object a line");
        }
        return new JsonFiles(input, files, stager, arrays.get(0));
    }

    private static boolean isArray(DeliveredFiles files, Path file) {
        try (Reader reader = TextFiles.open(file, CsvForm.STANDARD.encoding())) {
            int character = reader.read();
            while (character >= 0 && Character.isWhitespace(character)) {
                character = reader.read();
            }
            if (character == '{' && isSpread(file)) {
                throw new StagingException(
                        "Cannot read " + files.shown(file)
                                + ":1: an object that goes over several lines; expected one object a line, or an array of objects");
            }
            return character == '['
                    && !file.toString().toLowerCase(Locale.ROOT).matches(".*\\.(jsonl|ndjson)(\\.\\w+)?");
        } catch (IOException unreadable) {
            throw new StagingException("Cannot read " + files.shown(file) + ": " + unreadable.getMessage(), unreadable);
        }
    }

    /** Whether the first object does not end on its line, in a file that is not named as one of lines. */
    private static boolean isSpread(Path file) throws IOException {
        if (!file.toString().toLowerCase(Locale.ROOT).matches(".*\\.json(\\.\\w+)?")) {
            return false;
        }
        try (BufferedReader reader = new BufferedReader(TextFiles.open(file, CsvForm.STANDARD.encoding()))) {
            String first = reader.readLine();
            return first != null && first.strip().equals("{");
        }
    }

    private List<String> keys() {
        List<String> keys = read(() -> """
                select zk_key from (
                  select unnest(json_keys(zk_line)) as zk_key, generate_subscripts(json_keys(zk_line), 1) as zk_place,
                    row_number() over () as zk_number
                  from (%s) as lines
                  where %s) as keys
                group by zk_key order by min(zk_number), min(zk_place)""".formatted(lines(), isObject()));
        for (String key : keys) {
            List<String> same = keys.stream().filter(key::equalsIgnoreCase).toList();
            if (same.size() > 1) {
                throw new StagingException("Cannot stage " + shown() + ": its objects have both \"" + same.get(0)
                        + "\" and \"" + same.get(1) + "\"; the names of columns must differ by more than case");
            }
        }
        return keys;
    }

    /** Objects larger than the engine expects are read with more memory, once it has refused them. */
    private List<String> read(Supplier<String> sql) {
        try {
            return stager.query(sql.get(), row -> String.valueOf(row.text(1)));
        } catch (WarehouseException malformed) {
            String message = malformed.getMessage().lines().findFirst().orElse("");
            if (isArray && !hasLargeObjects && message.contains("maximum_object_size")) {
                hasLargeObjects = true;
                return read(sql);
            }
            throw new StagingException(
                    "Cannot read " + shown() + ": " + (isArray ? message : "it is not text in UTF-8, as JSON is"),
                    malformed);
        }
    }

    private static String isObject() {
        return "(case when json_valid(zk_line) then json_type(zk_line) = 'OBJECT' else false end)";
    }

    /** A query of the objects as texts, with their files. */
    private String lines() {
        Dialect dialect = stager.dialect();
        List<Integer> all = IntStream.range(0, files.paths().size()).boxed().toList();
        String paths = files.patterns(dialect, all);
        String number = files.number(dialect, all);
        return isArray
                ? "select cast(json as varchar) as zk_line, " + number + " as zk_file from read_json_objects(" + paths
                        + ", format = 'array'," + (hasLargeObjects ? LARGE_OBJECTS : "")
                        + " hive_partitioning = false, filename = 'zk_filename')"
                : "select zk_line, " + number + " as zk_file from read_csv(" + paths
                        + ", auto_detect = false, hive_partitioning = false, header = false, delim = chr(1), quote = '', escape = '',"
                        + (hasLongLines ? DeliveredFiles.longLines() : "")
                        + " columns = {'zk_line': 'VARCHAR'}, nullstr = chr(2), filename = 'zk_filename')";
    }

    @Override
    CsvForm csv() {
        return input().csv();
    }

    @Override
    public List<String> header() {
        return keys.stream().map(Names::of).toList();
    }

    @Override
    boolean hasEveryColumn() {
        return keys.isEmpty() && bytes() <= FEW_BYTES && isWithoutRows();
    }

    private boolean isWithoutRows() {
        return stager.number("select count(*) from (" + lines() + ") as lines where regexp_matches(zk_line, '\\S')")
                == 0;
    }

    @Override
    public RowForm form(String file) {
        return new RowForm(isArray ? RowForm.Kind.JSON_ARRAY : RowForm.Kind.JSON_LINES, "utf-8", "");
    }

    @Override
    Optional<SqlType> type(String column) {
        return Optional.empty();
    }

    @Override
    List<String> extras() {
        return List.of(BAD_LINE);
    }

    @Override
    String query(Map<String, Optional<SqlType>> columns, Earlier earlier) {
        see();
        Dialect dialect = stager.dialect();
        String structure = columns.keySet().stream()
                .map(name -> Names.written(keys, name))
                .filter(name -> !name.isEmpty())
                .map(name -> jsonText(name) + ": \"VARCHAR\"")
                .collect(Collectors.joining(", ", "{", "}"));
        String values = columns.keySet().stream()
                .map(name -> value(Names.written(keys, name)) + " as " + dialect.quote(name) + ",\n  ")
                .collect(Collectors.joining());
        String parsed = structure.equals("{}")
                ? "null"
                : "from_json(case when zk_is_row then zk_exact end, " + dialect.text(structure) + ")";
        return Sql.of("""
                select ${values}case when not zk_is_row then zk_line end as ${bad_line}, zk_file
                from (
                  select *, ${parsed} as zk_object
                  from (
                    select *, case when zk_is_long and zk_is_row then ${exact} else zk_line end as zk_exact
                    from (
                      select *, ${is_object} as zk_is_row, regexp_matches(zk_line, ${long_number}) as zk_is_long
                      from (${lines}) as lines where regexp_matches(zk_line, '\\S')) as known) as exact) as objects""")
                .with("values", values)
                .with("bad_line", BAD_LINE)
                .with("parsed", parsed)
                .with("exact", exact())
                .with("is_object", isObject())
                .with("long_number", dialect.text(LONG_NUMBER))
                .with("lines", lines())
                .text();
    }

    /**
     * A line with its numbers of many digits, which the engine's parser would round, as texts between two marks. Texts and what
     * stands between them are told apart first, since numbers may stand in texts too.
     */
    private String exact() {
        return """
                array_to_string(list_transform(regexp_extract_all(zk_line, '"(?:[^"\\\\]|\\\\.)*"|[^"]+'),
                        zk_part -> case when starts_with(zk_part, '"') then zk_part else regexp_replace(zk_part,
                          '-?[0-9][0-9.]{15,}(?:[eE][+-]?[0-9]+)?', '"' || %s || '\\0' || %s || '"', 'g') end), '')""".formatted(BEFORE_NUMBER, BEHIND_NUMBER);
    }

    /** A value as a text; a number between marks as it stood there, also inside an object or an array. */
    private String value(String name) {
        String member = name.isEmpty()
                ? "json_extract_string(zk_exact, '/')"
                : "zk_object." + stager.dialect().quote(name);
        return Sql.of(
                        "case when zk_is_long then regexp_replace(${member}, '\"?' || ${before_number} || '([^' || ${behind_number} || ']*)' || ${behind_number} || '\"?', '\\1', 'g') else ${member} end")
                .with("member", member)
                .with("before_number", BEFORE_NUMBER)
                .with("behind_number", BEHIND_NUMBER)
                .text();
    }

    private static String jsonText(String name) {
        return '"' + name.replace("\\", "\\\\").replace("\"", "\\\"") + '"';
    }

    @Override
    List<Unusable> unusable(String relation) {
        unchangedSinceSeen();
        String rows = Staging.readInto(relation);
        List<Long> bad =
                stager.query("select rowid from " + rows + " where " + BAD_LINE + " is not null", row -> row.number(1));
        return locate(relation, bad).stream()
                .map(line ->
                        new Unusable("bad line", null, "this is no JSON object", line.file(), line.line(), line.text()))
                .toList();
    }

    @Override
    List<Locator.Located> locate(String relation, Collection<Long> rows) {
        List<Locator.Located> located = new ArrayList<>();
        for (FileRows here : FileRows.of(stager, relation, rows)) {
            located.addAll(isArray ? elements(here) : lines(here));
        }
        return located;
    }

    private List<Locator.Located> elements(FileRows here) {
        String file = files.patterns(stager.dialect(), List.of(here.file()));
        return stager.query(
                "select zk_record, zk_line from (select cast(json as varchar) as zk_line, row_number() over () as zk_record"
                        + " from read_json_objects(" + file + "," + (hasLargeObjects ? LARGE_OBJECTS : "")
                        + " format = 'array')) as records"
                        + " where zk_record - 1 + " + here.first() + " in " + numbers(here.wanted()) + " order by 1",
                row -> new Locator.Located(
                        row.number(1) - 1 + here.first(), files.shown(here.file()), row.number(1), row.text(2)));
    }

    private List<Locator.Located> lines(FileRows here) {
        List<Locator.Located> located = new ArrayList<>();
        Path file = files.paths().get(here.file());
        try (BufferedReader reader = new BufferedReader(TextFiles.open(file, CsvForm.STANDARD.encoding()))) {
            long row = here.first();
            long number = 0;
            for (String line = reader.readLine();
                    line != null && located.size() < here.wanted().size();
                    line = reader.readLine()) {
                number++;
                if (line.isBlank()) {
                    continue;
                }
                if (here.wanted().contains(row)) {
                    located.add(new Locator.Located(row, files.shown(file), number, line));
                }
                row++;
            }
        } catch (IOException unreadable) {
            throw new StagingException("Cannot read " + files.shown(file) + ": " + unreadable.getMessage(), unreadable);
        }
        return located;
    }
}
