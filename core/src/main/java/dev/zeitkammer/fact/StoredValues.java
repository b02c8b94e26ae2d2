package dev.zeitkammer.fact;

import dev.zeitkammer.definition.DefinitionException;
import dev.zeitkammer.definition.Measure;
import dev.zeitkammer.definition.Problem;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.WarehouseException;
import dev.zeitkammer.staging.StagedRows;
import dev.zeitkammer.step.RowValidation;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/**
 * Measures of a feed that are computed of what a fact holds already, named {@code stored.COLUMN}, beside the staged columns: one
 * value for each fact that a row reaches.
 */
final class StoredValues {

    private static final Pattern STORED =
            Pattern.compile("(?i)\\bstored\\s*\\.\\s*(?:\"((?:[^\"]|\"\")++)\"|([\\p{L}_][\\p{L}\\p{N}_]*))");
    private static final String PREFIX = "zk_stored_";

    private final FactTable table;
    private final Warehouse warehouse;
    private final Dialect dialect;
    private final List<Measure> measures;
    private final List<String> matched;

    /** @param matched the stored columns by which facts are found */
    StoredValues(FactTable table, Warehouse warehouse, List<Measure> measures, List<String> matched) {
        this.table = table;
        this.warehouse = warehouse;
        this.dialect = warehouse.dialect();
        this.measures = measures.stream().filter(StoredValues::isOfStored).toList();
        this.matched = List.copyOf(matched);
    }

    /** Whether a measure is computed of what a fact holds already. */
    static boolean isOfStored(Measure measure) {
        return measure.take().filter(take -> STORED.matcher(take.text()).find()).isPresent();
    }

    boolean any() {
        return !measures.isEmpty();
    }

    List<String> names() {
        return measures.stream().map(measure -> measure.name().text()).toList();
    }

    /**
     * Tries each expression by itself.
     *
     * @throws DefinitionException where one cannot be evaluated, with its place
     */
    void check() {
        List<Problem> problems = new ArrayList<>();
        for (Measure measure : measures) {
            problem(measure)
                    .ifPresent(why -> problems.add(new Problem(
                            measure.take().orElseThrow().place(),
                            "\"take\" of \"" + measure.name()
                                    + "\" cannot be evaluated over staged and stored columns: " + why)));
        }
        if (!problems.isEmpty()) {
            throw new DefinitionException(problems);
        }
    }

    private Optional<String> problem(Measure measure) {
        Optional<String> unknown = storedColumns(measure).stream()
                .filter(name -> stands(name) == null)
                .findFirst();
        if (unknown.isPresent()) {
            return Optional.of(table.definition().table() + " has no column " + unknown.get());
        }
        try {
            warehouse.describe("select " + sql(measure) + " as x from (\n" + beside("true") + "\n) as x");
            return Optional.empty();
        } catch (WarehouseException refused) {
            return refused.getMessage().lines().findFirst();
        }
    }

    private @Nullable String stands(String name) {
        return table.columns().stream()
                .map(Column::name)
                .filter(name::equalsIgnoreCase)
                .findFirst()
                .orElse(null);
    }

    private static Set<String> storedColumns(Measure measure) {
        Set<String> names = new LinkedHashSet<>();
        Matcher stored = STORED.matcher(measure.take().orElseThrow().text());
        while (stored.find()) {
            names.add(
                    stored.group(1) == null ? stored.group(2) : stored.group(1).replace("\"\"", "\""));
        }
        return names;
    }

    /** The expression over staged columns and columns of the fact under names of their own. */
    private String sql(Measure measure) {
        String text = STORED.matcher(measure.take().orElseThrow().text())
                .replaceAll(found -> Matcher.quoteReplacement(dialect.quote(PREFIX
                        + (found.group(1) == null
                                ? found.group(2).toLowerCase(Locale.ROOT)
                                : found.group(1).replace("\"\"", "\"").toLowerCase(Locale.ROOT)))));
        return "(" + text.strip() + "\n)";
    }

    /** The staged rows beside the facts that they reach. */
    private String beside(String condition) {
        Set<String> columns = new LinkedHashSet<>();
        measures.forEach(measure -> columns.addAll(storedColumns(measure)));
        String stored = columns.stream()
                .filter(name -> stands(name) != null)
                .map(name -> ", " + dialect.column("f", String.valueOf(stands(name))) + " as "
                        + dialect.quote(PREFIX + name.toLowerCase(Locale.ROOT)))
                .collect(Collectors.joining());
        String grain = dialect.list(
                table.grainNames(), name -> dialect.column("f", name) + " as " + dialect.quote("zk_of_" + name));
        boolean isTried = condition.equals("true");
        return Sql.of("select s.*, ${grain}${stored}\nfrom ${staged} as s${rows} join ${target} as f on ${matches}")
                .with("grain", grain)
                .with("stored", stored)
                .with("staged", StagedRows.TABLE)
                .with("rows", isTried ? "" : " join " + RowValidation.ROWS + " as r on r.zk_row = s.zk_row")
                .with("target", warehouse.table(table.definition().table()))
                .with("matches", isTried ? "true" : dialect.allEqual(matched, "r", "f"))
                .text();
    }

    /** A relation of the values, by row and grain, to join with the rows, alias {@code n}, and the facts, alias {@code f}. */
    String joined() {
        String values = measures.stream()
                .map(measure -> dialect.cast(sql(measure), measure.type()) + " as "
                        + dialect.quote(measure.name().text()))
                .collect(Collectors.joining(", "));
        String grain = dialect.list(table.grainNames(), name -> dialect.quote("zk_of_" + name));
        String same = table.grainNames().stream()
                .map(name -> dialect.column("k", "zk_of_" + name) + " = " + dialect.column("f", name))
                .collect(Collectors.joining(" and "));
        return "\njoin (select zk_row, " + grain + ", " + values + " from (\n" + beside("found")
                + "\n) as x) as k on k.zk_row = n.zk_row and " + same;
    }
}
