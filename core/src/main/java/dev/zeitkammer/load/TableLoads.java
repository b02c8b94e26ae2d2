package dev.zeitkammer.load;

import dev.zeitkammer.books.Books;
import dev.zeitkammer.calendar.CalendarLoad;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Fact;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.dimension.DimensionLoad;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.fact.FactLoad;
import dev.zeitkammer.step.TableLoad;

/** Finds the way to load a definition. */
final class TableLoads {

    private final Project project;
    private final Warehouse warehouse;

    TableLoads(Project project, Warehouse warehouse) {
        this.project = project;
        this.warehouse = warehouse;
    }

    TableLoad of(Definition definition) {
        if (definition instanceof Dimension dimension) {
            return dimension.calendar().isPresent()
                    ? new CalendarLoad(dimension, project.conventions(), warehouse)
                    : new DimensionLoad(
                            dimension,
                            project.conventions(),
                            warehouse,
                            new Books(warehouse).highestKeySql(dimension.table()));
        }
        return new FactLoad((Fact) definition, project.conventions(), warehouse);
    }

    static String kind(Definition definition) {
        return definition instanceof Dimension ? "dimension" : "fact";
    }
}
