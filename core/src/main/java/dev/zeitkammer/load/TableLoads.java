package dev.zeitkammer.load;

import dev.zeitkammer.books.Books;
import dev.zeitkammer.books.Known;
import dev.zeitkammer.calendar.CalendarLoad;
import dev.zeitkammer.calendar.MinutesLoad;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Fact;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.dimension.DimensionLoad;
import dev.zeitkammer.dimension.DimensionLoad.KeptOfTable;
import dev.zeitkammer.dimension.members.PlaceholderMembers.Noted;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.fact.FactBooks;
import dev.zeitkammer.fact.FactLoad;
import dev.zeitkammer.step.Marks;
import dev.zeitkammer.step.TableLoad;

/** Finds the way to load a definition. */
final class TableLoads {

    private final Project project;
    private final Warehouse warehouse;
    private final Known known;

    TableLoads(Project project, Warehouse warehouse, Known known) {
        this.project = project;
        this.warehouse = warehouse;
        this.known = known;
    }

    TableLoad of(Definition definition) {
        if (definition instanceof Dimension dimension) {
            return switch (dimension.kind()) {
                case CALENDAR -> new CalendarLoad(dimension, warehouse);
                case MINUTES -> new MinutesLoad(dimension, warehouse);
                case MEMBERS, COMBINATION -> new DimensionLoad(dimension, warehouse, kept(dimension));
            };
        }
        return new FactLoad((Fact) definition, warehouse, factBooks(definition));
    }

    private KeptOfTable kept(Dimension dimension) {
        return new KeptOfTable(
                new Books(warehouse).highestKeySql(dimension.table()),
                known.addedColumns(dimension.table()),
                marks(dimension),
                known.newestDate(dimension.table()),
                new Books(warehouse).lastLoadSql(dimension.table()));
    }

    Marks marks(Definition definition) {
        return new Marks(known.marks(definition.table()));
    }

    private FactBooks factBooks(Definition fact) {
        Books books = new Books(warehouse);
        return new FactBooks(
                books.waiting(),
                books.misplaced(),
                new Noted(books.highestKeys(), books.placeholders()),
                books.lastLoadSql(fact.table()),
                known.newestDate(fact.table()).isPresent(),
                marks(fact));
    }

    static String kind(Definition definition) {
        return definition instanceof Dimension ? "dimension" : "fact";
    }
}
