package dev.zeitkammer.cli.drawing;

import dev.zeitkammer.cli.drawing.Diagram.Box;
import dev.zeitkammer.cli.drawing.Diagram.Line;
import dev.zeitkammer.cli.drawing.Diagram.Row;
import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Fact;
import dev.zeitkammer.definition.Lookup;
import dev.zeitkammer.definition.MemberLookup;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.lineage.Dataset;
import dev.zeitkammer.lineage.Field;
import dev.zeitkammer.lineage.Flow;
import dev.zeitkammer.lineage.Flow.Part;
import dev.zeitkammer.lineage.Lineage;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/** The diagrams of a project. */
final class Diagrams {

    /** Of the columns of a table in a star, so many are shown. */
    private static final int MOST_ROWS = 16;

    /** So many tables are drawn with their columns in one picture. */
    private static final int MOST_TABLES = 12;

    private final Project project;
    private final Lineage lineage;

    Diagrams(Project project, Lineage lineage) {
        this.project = project;
        this.lineage = lineage;
    }

    /** Facts and the dimensions that they point at, role by role. */
    Diagram stars() {
        return tables("Stars of " + project.name(), "s", project.known(), true);
    }

    /** Whether the columns of all tables together are too many for one picture that can be read. */
    boolean areMany() {
        return project.known().size() > MOST_TABLES && project.facts().size() > 1;
    }

    /** All tables by their names alone, and what points at what. */
    Diagram overview() {
        return tables("Stars of " + project.name(), "o", project.known(), false);
    }

    /** One fact, the dimensions that it points at, and those at which they point. */
    Diagram star(Fact fact) {
        Set<Definition> shown = new LinkedHashSet<>();
        List<Definition> open = new ArrayList<>(List.of(fact));
        while (!open.isEmpty()) {
            Definition next = open.remove(0);
            if (shown.add(next)) {
                lookups(next).forEach(lookup -> open.add(lookup.dimension()));
            }
        }
        String prefix = "f" + project.facts().indexOf(fact) + "t";
        return tables("Star of " + fact.table(), prefix, List.copyOf(shown), true);
    }

    /**
     * Tables, and lines from a role's key to the dimension that it finds.
     *
     * @param prefix how the ids of this picture begin
     * @param hasColumns whether tables are drawn with their columns
     */
    private Diagram tables(String title, String prefix, List<Definition> shown, boolean hasColumns) {
        Map<String, Box> boxes = new LinkedHashMap<>();
        for (Definition definition : shown) {
            String id = prefix + boxes.size();
            boxes.put(
                    definition.table(),
                    new Box(id, kind(definition), definition.table(), hasColumns ? rows(id, definition) : List.of()));
        }
        Set<Box> left = left(shown, boxes);
        List<Line> lines = new ArrayList<>();
        for (Definition definition : shown) {
            Box from = Objects.requireNonNull(boxes.get(definition.table()));
            for (Lookup lookup : lookups(definition)) {
                Box to = Objects.requireNonNull(boxes.get(lookup.dimension().table()));
                lines.add(line(from, lookup, to, left.contains(to)));
            }
        }
        return new Diagram(title, List.copyOf(boxes.values()), lines);
    }

    private static List<Lookup> lookups(Definition definition) {
        return definition instanceof Fact fact
                ? fact.lookups()
                : ((Dimension) definition)
                        .lookups().stream()
                                .filter(lookup -> !lookup.isParentIn((Dimension) definition))
                                .map(MemberLookup::lookup)
                                .toList();
    }

    /** The dimensions to the left of facts, so that both sides are about as high; what they look up lies beyond them. */
    private static Set<Box> left(List<Definition> shown, Map<String, Box> boxes) {
        Set<Box> left = new HashSet<>();
        Set<Box> placed = new HashSet<>();
        int[] heights = new int[2];
        for (Definition fact : shown) {
            for (Lookup lookup : fact instanceof Fact ? lookups(fact) : List.<Lookup>of()) {
                boolean goesLeft = heights[0] < heights[1];
                List<Dimension> beyond = new ArrayList<>(List.of(lookup.dimension()));
                while (!beyond.isEmpty()) {
                    Dimension dimension = beyond.remove(0);
                    Box box = Objects.requireNonNull(boxes.get(dimension.table()));
                    if (placed.add(box)) {
                        heights[goesLeft ? 0 : 1] += 3 + box.rows().size();
                        if (goesLeft) {
                            left.add(box);
                        }
                        lookups(dimension).forEach(next -> beyond.add(next.dimension()));
                    }
                }
            }
        }
        return left;
    }

    private static String kind(Definition definition) {
        return definition instanceof Fact ? "fact" : "dimension";
    }

    /** From the key that a role is stored as to the key that it is. */
    private static Line line(Box box, Lookup lookup, Box to, boolean leftwards) {
        return new Line(
                box.id(),
                row(box, lookup.keyColumn()),
                to.id(),
                row(to, lookup.dimension().keyColumn()),
                lookup.role().text(),
                lookup.asOf().isPresent(),
                leftwards);
    }

    private static Optional<String> row(Box box, String name) {
        return box.rows().stream()
                .filter(row -> row.name().equals(name))
                .map(Row::id)
                .findFirst();
    }

    private List<Row> rows(String id, Definition definition) {
        Dataset table = lineage.named(definition.table()).dataset();
        Set<String> audit = Arrays.stream(AuditColumn.values())
                .map(column -> definition.conventions().column(column))
                .collect(Collectors.toSet());
        List<Field> own = lineage.fields(table).stream()
                .filter(field -> !audit.contains(field.name()))
                .toList();
        int shown = own.size() > MOST_ROWS ? MOST_ROWS - 1 : own.size();
        List<Row> rows = new ArrayList<>();
        for (Field field : own.subList(0, shown)) {
            rows.add(new Row(
                    id + "r" + rows.size(),
                    mark(definition, field.name()),
                    field.name(),
                    lineage.meaning(field),
                    field.toString(),
                    List.of()));
        }
        if (shown < own.size()) {
            List<Field> more = own.subList(shown, own.size());
            rows.add(new Row(
                    id + "r" + rows.size(),
                    "",
                    "… " + more.size() + " more",
                    more.stream().map(Field::name).collect(Collectors.joining(", ")),
                    table.name(),
                    more.stream().map(Field::toString).toList()));
        }
        return rows;
    }

    private static String mark(Definition definition, String column) {
        if (definition instanceof Fact fact) {
            boolean isGrain = fact.grain().stream().map(fact::grainColumn).anyMatch(column::equals);
            Optional<String> asOf = fact.lookups().stream()
                    .filter(lookup -> lookup.keyColumn().equals(column))
                    .flatMap(lookup -> lookup.asOf().stream())
                    .map(moment -> "@" + moment)
                    .findFirst();
            return Stream.concat(isGrain ? Stream.of("grain") : Stream.empty(), asOf.stream())
                    .collect(Collectors.joining(" "));
        }
        Dimension dimension = (Dimension) definition;
        if (dimension.key().stream().anyMatch(key -> key.text().equals(column))) {
            return "key";
        }
        return dimension.attributes().stream()
                .filter(attribute -> attribute.name().text().equals(column))
                .filter(attribute -> dimension.kind() == Dimension.Kind.MEMBERS)
                .map(attribute -> attribute.change().word())
                .findFirst()
                .orElse("");
    }

    /** Every column from the files to the tables and what is made of them. */
    Diagram lineage() {
        List<Box> boxes = new ArrayList<>();
        Map<Field, Row> rows = new HashMap<>();
        Map<Dataset, String> ids = new HashMap<>();
        for (Dataset dataset : lineage.datasets()) {
            String id = "l" + boxes.size();
            ids.put(dataset, id);
            List<Row> own = new ArrayList<>();
            for (Field field : lineage.fields(dataset)) {
                if (lineage.isConnected(field)) {
                    Row row = new Row(
                            id + "r" + own.size(),
                            "",
                            field.name(),
                            lineage.meaning(field),
                            field.toString(),
                            List.of());
                    rows.put(field, row);
                    own.add(row);
                }
            }
            boxes.add(new Box(id, dataset.kind().word(), dataset.name(), own));
        }
        List<Line> lines = new ArrayList<>();
        for (Flow flow : lineage.flows()) {
            Row from = rows.get(flow.from());
            Row to = rows.get(flow.to());
            if (from != null && to != null) {
                lines.add(new Line(
                        ids.get(flow.from().dataset()),
                        Optional.of(from.id()),
                        ids.get(flow.to().dataset()),
                        Optional.of(to.id()),
                        flow.part() == Part.VALUE ? "" : flow.part().word(),
                        flow.part() != Part.VALUE,
                        false));
            }
        }
        return new Diagram("Lineage of " + project.name(), boxes, lines);
    }
}
