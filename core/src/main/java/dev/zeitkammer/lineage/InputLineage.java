package dev.zeitkammer.lineage;

import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.DatabaseAddress;
import dev.zeitkammer.lineage.Dataset.Kind;
import dev.zeitkammer.lineage.ExpressionColumns.Mention;
import dev.zeitkammer.lineage.Flow.Part;
import dev.zeitkammer.staging.Wanted;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/** Staged columns, and what is behind them: files, tables, queries, joins. */
final class InputLineage {

    private final Project project;
    private final Headers headers;
    private final Collected collected;
    private final Map<Input, Optional<QueryColumns.Relation>> queries = new HashMap<>();
    private final Set<Input> ruled = new HashSet<>();

    InputLineage(Project project, Headers headers, Collected collected) {
        this.project = project;
        this.headers = headers;
        this.collected = collected;
    }

    /** The input under its name; one that a fact writes inline has its kind before it where a dimension has the name too. */
    private Dataset dataset(Input input) {
        boolean isShared = project.dimensions().stream()
                .anyMatch(
                        dimension -> dimension.name().text().equals(input.name().text()));
        return new Dataset(
                Kind.INPUT, isShared ? input.remembered() : input.name().text());
    }

    Optional<List<String>> header(Input input) {
        return headers.of(input);
    }

    /** What a definition takes a value from: a staged column, or the columns of an expression over them. */
    List<Field> taken(Input input, Word value) {
        boolean isStaged = header(input)
                .map(names -> names.stream().anyMatch(value.text()::equalsIgnoreCase))
                .orElse(false);
        return isStaged || Wanted.isName(value) ? List.of(column(input, value.text())) : expression(input, value);
    }

    /** The staged columns that an expression mentions; all of them where it cannot be read. */
    List<Field> expression(Input input, Word sql) {
        return mentions(input, sql).stream()
                .map(mention -> column(input, mention.column()))
                .distinct()
                .toList();
    }

    /** The columns of what a fact holds already that an expression mentions, behind the word "stored". */
    List<String> stored(Word sql) {
        return ExpressionColumns.of(sql.text()).orElse(List.of()).stream()
                .filter(mention ->
                        mention.table().filter("stored"::equalsIgnoreCase).isPresent())
                .map(Mention::column)
                .toList();
    }

    private List<Mention> mentions(Input input, Word sql) {
        Optional<List<String>> header = header(input);
        Optional<List<Mention>> read = ExpressionColumns.of(sql.text());
        if (read.isEmpty()) {
            collected.unread(sql, "the expression \"" + oneLine(sql) + "\"");
            return header.orElse(List.of()).stream()
                    .map(name -> new Mention(Optional.empty(), name))
                    .toList();
        }
        return read.get().stream()
                .filter(mention ->
                        mention.table().filter("stored"::equalsIgnoreCase).isEmpty())
                .filter(mention -> header.map(names -> names.stream().anyMatch(mention.column()::equalsIgnoreCase))
                        .orElse(true))
                .toList();
    }

    /** The expression, where a column is not simply what is staged under its name. */
    static String expressed(Word column, Word taken) {
        return taken.text().equalsIgnoreCase(column.text()) ? "" : ": " + oneLine(taken);
    }

    static String oneLine(Word sql) {
        return sql.text().strip().replaceAll("\\s+", " ");
    }

    /** A staged column. */
    Field column(Input input, String name) {
        rules(input);
        String written = header(input)
                .flatMap(names -> names.stream().filter(name::equalsIgnoreCase).findFirst())
                .orElse(name);
        Dataset staged = dataset(input);
        Field field = new Field(staged, written);
        if (!collected.holds(field)) {
            collected.field(staged, written, meaning(input));
            collected.flow(behind(input, written), field, Part.VALUE);
        }
        return field;
    }

    private static String meaning(Input input) {
        if (input.origin() instanceof Input.Files files) {
            return "column of " + files.pattern();
        }
        if (input.origin() instanceof Input.Table table) {
            return "column of " + table.name();
        }
        return input.origin() instanceof Input.Query ? "selected by a query" : "of a join";
    }

    private void rules(Input input) {
        if (!ruled.add(input)) {
            return;
        }
        Dataset staged = dataset(input);
        input.where()
                .ifPresent(where -> collected.rule(staged, "rows where " + oneLine(where), expression(input, where)));
        input.newer()
                .ifPresent(newer -> collected.rule(
                        staged,
                        "rows beyond the mark of " + newer.column(),
                        List.of(column(input, newer.column().text()))));
        input.keep()
                .ifPresent(keep -> collected.rule(
                        staged,
                        "the latest row of each "
                                + String.join(
                                        ", ", keep.by().stream().map(Word::text).toList()) + " is kept",
                        keep.by().stream().map(by -> column(input, by.text())).toList()));
        if (input.origin() instanceof Input.Join join) {
            join.with()
                    .forEach(joined -> joined.by().forEach(match -> {
                        List<Field> read = new ArrayList<>(taken(match.earlier(), match.column()));
                        read.addAll(taken(joined.input(), match.joinedColumn()));
                        collected.rule(
                                staged,
                                "joined by " + match.earlier().name() + ": " + oneLine(match.column()) + " = "
                                        + joined.input().name() + ": " + oneLine(match.joinedColumn()),
                                read);
                    }));
        }
    }

    private List<Field> behind(Input input, String column) {
        if (input.origin() instanceof Input.Files files) {
            return List.of(
                    collected.field(new Dataset(Kind.FILES, files.pattern().text()), column, "delivered"));
        }
        if (input.origin() instanceof Input.Table table) {
            return List.of(outside(table.name().text(), table.database(), column));
        }
        if (input.origin() instanceof Input.Join join) {
            return joined(join, column);
        }
        return queried(input, (Input.Query) input.origin(), column);
    }

    /** A column of a table that a definition reads: of the project's own, or of one outside. */
    private Field outside(String table, Optional<DatabaseAddress> database, String column) {
        if (database.isEmpty()) {
            Optional<Dataset> own = DefinitionLineage.table(project, table);
            if (own.isPresent()) {
                return new Field(own.get(), column.toLowerCase(Locale.ROOT));
            }
        }
        return collected.field(
                new Dataset(Kind.OUTSIDE, table),
                column,
                database.isPresent() ? "of an operational database" : "of the warehouse");
    }

    private List<Field> queried(Input input, Input.Query query, String column) {
        Optional<QueryColumns.Relation> relation = queries.computeIfAbsent(
                input, first -> QueryColumns.of(query.sql().text(), name -> relation(query, name)));
        if (relation.isEmpty()) {
            collected.unread(query.sql(), "the query of the input \"" + input.name() + "\"");
            return query.inputs().stream()
                    .flatMap(each -> header(each).orElse(List.of()).stream().map(name -> column(each, name)))
                    .toList();
        }
        return relation.get().behind(column).stream()
                .map(field -> query.inputs().stream()
                        .filter(each -> dataset(each).equals(field.dataset()))
                        .findFirst()
                        .map(each -> column(each, field.name()))
                        .orElseGet(() -> outside(field.dataset().name(), query.database(), field.name())))
                .distinct()
                .toList();
    }

    private QueryColumns.Relation relation(Input.Query query, String table) {
        return query.inputs().stream()
                .filter(each -> each.name().text().equalsIgnoreCase(table))
                .findFirst()
                .map(each -> new QueryColumns.Known(dataset(each), header(each)))
                .orElseGet(() -> new QueryColumns.Known(new Dataset(Kind.OUTSIDE, table), Optional.empty()));
    }

    /** The first input that has a column has it; a column of a later one has its input's name before it where it must. */
    private List<Field> joined(Input.Join join, String column) {
        List<Input> parts = new ArrayList<>(List.of(join.from()));
        join.with().forEach(joined -> parts.add(joined.input()));
        for (Input part : parts) {
            if (header(part).stream().flatMap(List::stream).anyMatch(column::equalsIgnoreCase)) {
                return List.of(column(part, column));
            }
        }
        for (Input part : parts) {
            String prefix = part.name() + "_";
            if (column.regionMatches(true, 0, prefix, 0, prefix.length())
                    && header(part).stream()
                            .flatMap(List::stream)
                            .anyMatch(column.substring(prefix.length())::equalsIgnoreCase)) {
                return List.of(column(part, column.substring(prefix.length())));
            }
        }
        return parts.stream()
                .filter(part -> header(part).isEmpty())
                .map(part -> column(part, column))
                .toList();
    }
}
