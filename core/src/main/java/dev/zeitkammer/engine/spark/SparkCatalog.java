package dev.zeitkammer.engine.spark;

import dev.zeitkammer.engine.Catalog;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** What the catalog of the cluster says of tables and views; remembered until a statement may have changed it. */
final class SparkCatalog implements Catalog {

    private static final Pattern REQUIRED = Pattern.compile("^\\s*(?:`((?:[^`]|``)+)`|(\\w+)) [^']*?NOT NULL");

    private final SparkWarehouse warehouse;
    private final Dialect dialect;
    private final String schema;
    private final Set<String> namespaces = new HashSet<>();
    private final Map<String, Boolean> branched = new HashMap<>();
    private @Nullable Set<String> standing;

    SparkCatalog(SparkWarehouse warehouse, String schema) {
        this.warehouse = warehouse;
        this.dialect = warehouse.dialect();
        this.schema = schema;
    }

    /** The schema of the books. */
    String booksSchema() {
        return "zeitkammer_" + schema;
    }

    void forget() {
        standing = null;
        branched.clear();
    }

    /** The tables of the star, of inputs that remember and of the books, each with its schema, quoted. */
    Set<String> standing() {
        if (standing == null) {
            Set<String> all = new LinkedHashSet<>();
            relations("tables", warehouse.stagingSchema()).stream()
                    .map(table -> dialect.quote(warehouse.stagingSchema()) + "." + dialect.quote(table))
                    .filter(this::isBranched)
                    .forEach(all::add);
            for (String each : List.of(schema, booksSchema())) {
                relations("tables", each).forEach(table -> all.add(dialect.quote(each) + "." + dialect.quote(table)));
            }
            standing = all;
        }
        return standing;
    }

    /** Whether transactions hold what is written into a staging table; those of the staged rows of a load are not held. */
    boolean isBranched(String table) {
        return branched.computeIfAbsent(
                table,
                any -> warehouse
                        .query(
                                "show tblproperties " + warehouse.catalogName() + "." + table + " ('" + Branches.ENABLED
                                        + "')",
                                row -> "true".equals(row.text(2)))
                        .contains(true));
    }

    /** A cluster says so only in the statement that would make the table again. */
    @Override
    public List<String> required(String table) {
        return warehouse.firstText("show create table " + warehouse.table(table)).stream()
                .flatMap(String::lines)
                .flatMap(line -> REQUIRED.matcher(line).results())
                .map(found ->
                        found.group(1) == null ? found.group(2) : found.group(1).replace("``", "`"))
                .toList();
    }

    /** Whether a table is one of the books. */
    boolean isBook(String table) {
        return table.startsWith(dialect.quote(booksSchema()) + ".");
    }

    @Override
    public Set<String> books() {
        Set<String> books = new HashSet<>(bookTables());
        books.remove(GatheredBooks.TABLE);
        books.addAll(warehouse.gatheredBooks());
        return Set.copyOf(books);
    }

    /** The tables in the schema of the books. */
    Set<String> bookTables() {
        String prefix = dialect.quote(booksSchema()) + ".";
        return standing().stream()
                .filter(name -> name.startsWith(prefix))
                .map(name -> name.substring(prefix.length() + 1, name.length() - 1))
                .collect(Collectors.toUnmodifiableSet());
    }

    /** Whether a namespace is there. */
    boolean stands(String namespace) {
        if (!namespaces.contains(namespace) && isThere(namespace)) {
            namespaces.add(namespace);
        }
        return namespaces.contains(namespace);
    }

    private boolean isThere(String namespace) {
        return !warehouse
                .query(
                        "show namespaces in " + warehouse.catalogName() + " like " + dialect.text(namespace),
                        row -> true)
                .isEmpty();
    }

    private List<String> relations(String kind, String of) {
        return stands(of)
                ? warehouse.query(
                        "show " + kind + " in " + warehouse.catalogName() + "." + dialect.quote(of),
                        row -> String.valueOf(row.text(2)))
                : List.of();
    }

    private Optional<String> standingAs(String kind, String relation) {
        return relations(kind, schema).stream()
                .filter(relation::equalsIgnoreCase)
                .findFirst();
    }

    @Override
    public List<Column> columns(String table) {
        String name = (dialect.quote(schema) + "." + dialect.quote(table)).toLowerCase(Locale.ROOT);
        boolean stands = standing().stream().anyMatch(name::equalsIgnoreCase);
        return stands ? warehouse.describe("select * from " + warehouse.table(table)) : List.of();
    }

    @Override
    public List<Column> viewColumns(String view) {
        return standingAs("views", view).isPresent()
                ? warehouse.describe("select * from " + warehouse.table(view))
                : List.of();
    }

    @Override
    public Map<String, String> comments(String table) {
        return standingAs("tables", table).isPresent() ? described(warehouse.table(table)) : Map.of();
    }

    @Override
    public Optional<String> comment(String schemaOfRelation, String relation) {
        boolean stands = Stream.of("tables", "views")
                .flatMap(kind -> relations(kind, schemaOfRelation).stream())
                .anyMatch(relation::equalsIgnoreCase);
        return stands
                ? Optional.of(described(warehouse.catalogName() + "." + dialect.quote(schemaOfRelation) + "."
                                + dialect.quote(relation))
                        .getOrDefault("", ""))
                : Optional.empty();
    }

    /** Comments by the name of the column, that of the relation itself under an empty one. */
    private Map<String, String> described(String relation) {
        Map<String, String> comments = new HashMap<>();
        Set<Boolean> isBehindColumns = new HashSet<>();
        warehouse.query("describe table extended " + relation, row -> {
            String name = String.valueOf(row.text(1));
            String about = row.text(isBehindColumns.isEmpty() ? 3 : 2);
            if (name.isEmpty() || name.startsWith("#")) {
                isBehindColumns.add(true);
            } else if (isBehindColumns.isEmpty() && about != null && !about.isEmpty()) {
                comments.put(name, about);
            } else if (name.equals("Comment") && about != null) {
                comments.put("", about);
            }
            return true;
        });
        return comments;
    }
}
