package dev.zeitkammer.cli.drawing;

import dev.zeitkammer.cli.drawing.Diagram.Box;
import dev.zeitkammer.cli.drawing.Diagram.Line;
import java.util.ArrayList;
import java.util.EnumSet;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.eclipse.elk.alg.layered.options.LayerConstraint;
import org.eclipse.elk.alg.layered.options.LayeredMetaDataProvider;
import org.eclipse.elk.alg.layered.options.LayeredOptions;
import org.eclipse.elk.core.RecursiveGraphLayoutEngine;
import org.eclipse.elk.core.data.LayoutMetaDataService;
import org.eclipse.elk.core.math.ElkPadding;
import org.eclipse.elk.core.options.CoreOptions;
import org.eclipse.elk.core.options.Direction;
import org.eclipse.elk.core.options.EdgeRouting;
import org.eclipse.elk.core.options.PortConstraints;
import org.eclipse.elk.core.options.PortSide;
import org.eclipse.elk.core.options.SizeConstraint;
import org.eclipse.elk.core.util.BasicProgressMonitor;
import org.eclipse.elk.graph.ElkBendPoint;
import org.eclipse.elk.graph.ElkEdge;
import org.eclipse.elk.graph.ElkEdgeSection;
import org.eclipse.elk.graph.ElkNode;
import org.eclipse.elk.graph.ElkPort;
import org.eclipse.elk.graph.util.ElkGraphUtil;

/**
 * A diagram with places, in pixels: boxes in layers from left to right, lines along right angles.
 *
 * @param boxes in order of the diagram's
 * @param lines in order of the diagram's
 */
record Arrangement(Diagram diagram, double width, double height, List<Placed> boxes, List<List<Point>> lines) {

    static final double HEAD = 34;
    static final double ROW = 20;

    private static final double LETTER = 6.7;
    private static final double MARK_LETTER = 5.6;
    private static final double AROUND = 36;
    private static final double NARROWEST = 130;
    private static final double MARGIN = 24;
    private static final double BETWEEN = 34;
    private static final double BETWEEN_NAMES = 12;
    private static final double BETWEEN_LAYERS = 70;
    private static final double BETWEEN_LINES = 9;

    /** A box with its place. */
    record Placed(Box box, double x, double y, double width, double height) {

        /** The middle of the row at a place, from 0. */
        double middle(int row) {
            return y + HEAD + row * ROW + ROW / 2;
        }
    }

    /** A corner of a line. */
    record Point(double x, double y) {}

    static {
        LayoutMetaDataService.getInstance().registerLayoutMetaDataProviders(new LayeredMetaDataProvider());
    }

    /** Finds places for everything. */
    static Arrangement of(Diagram diagram) {
        ElkNode graph = ElkGraphUtil.createGraph();
        graph.setProperty(CoreOptions.ALGORITHM, "org.eclipse.elk.layered");
        graph.setProperty(CoreOptions.DIRECTION, Direction.RIGHT);
        graph.setProperty(CoreOptions.EDGE_ROUTING, EdgeRouting.ORTHOGONAL);
        graph.setProperty(CoreOptions.PADDING, new ElkPadding(MARGIN));
        boolean hasRows = diagram.boxes().stream().anyMatch(box -> !box.rows().isEmpty());
        graph.setProperty(CoreOptions.SPACING_NODE_NODE, hasRows ? BETWEEN : BETWEEN_NAMES);
        graph.setProperty(CoreOptions.SPACING_EDGE_EDGE, BETWEEN_LINES);
        graph.setProperty(LayeredOptions.SPACING_NODE_NODE_BETWEEN_LAYERS, BETWEEN_LAYERS);
        graph.setProperty(LayeredOptions.SPACING_EDGE_EDGE_BETWEEN_LAYERS, BETWEEN_LINES);
        Map<String, ElkNode> nodes = new HashMap<>();
        Map<String, Integer> places = new HashMap<>();
        for (Box box : diagram.boxes()) {
            ElkNode node = ElkGraphUtil.createNode(graph);
            node.setDimensions(width(box), HEAD + box.rows().size() * ROW + 6);
            node.setProperty(CoreOptions.PORT_CONSTRAINTS, PortConstraints.FIXED_POS);
            node.setProperty(CoreOptions.NODE_SIZE_CONSTRAINTS, EnumSet.noneOf(SizeConstraint.class));
            if (box.kind().equals("files")) {
                node.setProperty(LayeredOptions.LAYERING_LAYER_CONSTRAINT, LayerConstraint.FIRST);
            }
            nodes.put(box.id(), node);
            for (int row = 0; row < box.rows().size(); row++) {
                places.put(box.rows().get(row).id(), row);
            }
        }
        List<ElkEdge> edges = new ArrayList<>();
        Map<String, ElkPort> ports = new HashMap<>();
        for (Line line : diagram.lines()) {
            ElkNode from = nodes.get(line.fromBox());
            ElkNode to = nodes.get(line.toBox());
            PortSide out = line.leftwards() ? PortSide.WEST : PortSide.EAST;
            PortSide in = from.equals(to) || line.leftwards() ? PortSide.EAST : PortSide.WEST;
            // what comes from one column may share a way until it parts; what comes from different ones never does
            String shared = line.dashed() ? "dashed" : "";
            String own = "line " + edges.size();
            ElkPort start =
                    port(ports, from, line.fromBox(), line.fromRow(), places, out, line.leftwards() ? own : shared);
            ElkPort end = port(ports, to, line.toBox(), line.toRow(), places, in, line.leftwards() ? shared : own);
            edges.add(
                    line.leftwards()
                            ? ElkGraphUtil.createSimpleEdge(end, start)
                            : ElkGraphUtil.createSimpleEdge(start, end));
        }
        new RecursiveGraphLayoutEngine().layout(graph, new BasicProgressMonitor());
        return new Arrangement(
                diagram,
                graph.getWidth(),
                graph.getHeight(),
                diagram.boxes().stream()
                        .map(box -> placed(box, nodes.get(box.id())))
                        .toList(),
                edges.stream().map(Arrangement::corners).toList());
    }

    private static ElkPort port(
            Map<String, ElkPort> ports,
            ElkNode node,
            String box,
            Optional<String> row,
            Map<String, Integer> places,
            PortSide side,
            String way) {
        return ports.computeIfAbsent(row.orElse(box) + side + way, first -> {
            ElkPort port = ElkGraphUtil.createPort(node);
            port.setProperty(CoreOptions.PORT_SIDE, side);
            double y = row.map(id -> HEAD + places.get(id) * ROW + ROW / 2).orElse(HEAD / 2);
            port.setLocation(side == PortSide.EAST ? node.getWidth() : 0, y);
            return port;
        });
    }

    private static Placed placed(Box box, ElkNode node) {
        return new Placed(box, node.getX(), node.getY(), node.getWidth(), node.getHeight());
    }

    private static List<Point> corners(ElkEdge edge) {
        List<Point> points = new ArrayList<>();
        for (ElkEdgeSection section : edge.getSections()) {
            points.add(new Point(section.getStartX(), section.getStartY()));
            for (ElkBendPoint bend : section.getBendPoints()) {
                points.add(new Point(bend.getX(), bend.getY()));
            }
            points.add(new Point(section.getEndX(), section.getEndY()));
        }
        return points;
    }

    private static double width(Box box) {
        double rows = box.rows().stream()
                .mapToDouble(row -> shortened(row.name()).length() * LETTER
                        + (row.mark().isEmpty() ? 0 : row.mark().length() * MARK_LETTER + 12))
                .max()
                .orElse(0);
        return Math.max(
                NARROWEST, AROUND + Math.max(rows, shortened(box.title()).length() * (LETTER + 0.7) + 22));
    }

    /** A name that fits into a box. */
    static String shortened(String name) {
        int longest = 36;
        return name.length() <= longest ? name : name.substring(0, longest - 1) + "…";
    }
}
