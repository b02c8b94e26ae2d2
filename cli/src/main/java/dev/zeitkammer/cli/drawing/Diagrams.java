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
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/** The diagrams of a project. */
final class Diagrams {

    /** Of the columns of a table in a star, so many are shown. */
    private static final int MOST_ROWS = 16;

    private final Project project;
    private final Lineage lineage;

    Diagrams(Project project, Lineage lineage) {
        this.project = project;
        this.lineage = lineage;
    }

    /** Facts and the dimensions that they point at, role by role. */
    Diagram stars() {
        Map<String, String> boxes = new HashMap<>();
        List<Box> drawn = new ArrayList<>();
        for (Definition definition : project.known()) {
            String id = "s" + drawn.size();
            boxes.put(definition.table(), id);
            drawn.add(new Box(id, kind(definition), definition.table(), rows(id, definition)));
        }
        Set<String> left = left(drawn, boxes);
        Map<String, Box> byId = drawn.stream().collect(Collectors.toMap(Box::id, box -> box));
        List<Line> lines = new ArrayList<>();
        for (Definition definition : project.known()) {
            Box box = drawn.get(project.known().indexOf(definition));
            lookups(definition).forEach(lookup -> {
                String to = boxes.get(lookup.dimension().table());
                lines.add(line(box, lookup, byId.get(to), left.contains(to)));
            });
        }
        return new Diagram("Stars of " + project.name(), drawn, lines);
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
    private Set<String> left(List<Box> drawn, Map<String, String> boxes) {
        Set<String> left = new HashSet<>();
        Set<String> placed = new HashSet<>();
        int[] heights = new int[2];
        for (Fact fact : project.facts()) {
            for (Lookup lookup : fact.lookups()) {
                boolean goesLeft = heights[0] < heights[1];
                List<Dimension> beyond = new ArrayList<>(List.of(lookup.dimension()));
                while (!beyond.isEmpty()) {
                    Dimension dimension = beyond.remove(0);
                    String id = boxes.get(dimension.table());
                    if (placed.add(id)) {
                        heights[goesLeft ? 0 : 1] += 3
                                + drawn.get(project.known().indexOf(dimension))
                                        .rows()
                                        .size();
                        if (goesLeft) {
                            left.add(id);
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
