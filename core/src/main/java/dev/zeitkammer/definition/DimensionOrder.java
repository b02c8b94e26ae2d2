package dev.zeitkammer.definition;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/** Puts dimensions in the order in which they must be loaded: those that are looked up come first. */
final class DimensionOrder {

    private final Problems problems;
    private final Map<String, Dimension> byName = new LinkedHashMap<>();
    private final List<Dimension> ordered = new ArrayList<>();
    private final List<Dimension> path = new ArrayList<>();

    private DimensionOrder(List<Dimension> dimensions, Problems problems) {
        this.problems = problems;
        dimensions.forEach(dimension -> byName.putIfAbsent(dimension.name().text(), dimension));
    }

    /** The dimensions in order of loading, otherwise as they were; a cycle is a problem that names its path. */
    static List<Dimension> of(List<Dimension> dimensions, Problems problems) {
        DimensionOrder order = new DimensionOrder(dimensions, problems);
        dimensions.forEach(order::visit);
        return List.copyOf(order.ordered);
    }

    private void visit(Dimension dimension) {
        if (ordered.contains(dimension)) {
            return;
        }
        int before = path.indexOf(dimension);
        if (before >= 0) {
            refuse(path.subList(before, path.size()), dimension);
            return;
        }
        path.add(dimension);
        dimension.dependsOn().stream().map(byName::get).forEach(this::visit);
        path.remove(path.size() - 1);
        if (!ordered.contains(dimension)) {
            ordered.add(dimension);
        }
    }

    private void refuse(List<Dimension> cycle, Dimension first) {
        List<String> names =
                new ArrayList<>(cycle.stream().map(each -> each.name().text()).toList());
        names.add(first.name().text());
        problems.add(
                first.name().place(),
                "these dimensions look each other up in a circle, so that none can be loaded first: "
                        + String.join(" → ", names));
    }
}
