package dev.zeitkammer.load;

import dev.zeitkammer.books.Known;
import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Fact;
import dev.zeitkammer.definition.Lookup;
import dev.zeitkammer.definition.Lookup.Blank;
import dev.zeitkammer.definition.Lookup.Ended;
import dev.zeitkammer.definition.Lookup.Unmatched;
import dev.zeitkammer.definition.MemberLookup;
import dev.zeitkammer.dimension.DimensionLoad;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.ZeitkammerException;
import dev.zeitkammer.step.TableLoad;
import dev.zeitkammer.step.TableLoad.Prepared;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.function.Consumer;
import java.util.stream.Stream;

/** The dimensions that a table looks up stand, and fit, before it is loaded. */
final class LookedUpDimensions {

    private final LoadContext context;
    private final Definition definition;
    private final Known known;
    private final Consumer<Prepared> seeding;

    /** @param seeding makes the table of a dimension to which nothing was delivered, with its reserved members */
    LookedUpDimensions(LoadContext context, Definition definition, Known known, Consumer<Prepared> seeding) {
        this.context = context;
        this.definition = definition;
        this.known = known;
        this.seeding = seeding;
    }

    /** A dimension to which nothing was delivered yet has its reserved members at least, for facts to point at. */
    void stand() {
        lookups().filter(lookup -> lookup.dimension().isOthers()).forEach(this::reservedStand);
        for (String name : definition.dependsOn()) {
            Definition dimension = context.project().definition(name);
            refuseUnaligned(dimension);
            if (!context.warehouse().has(dimension.table())) {
                TableLoad load = new TableLoads(context.project(), context.warehouse(), known).of(dimension);
                if (!(load instanceof DimensionLoad members)
                        || ((Dimension) dimension).kind() != Dimension.Kind.MEMBERS
                        || !context.request().align()) {
                    throw new ZeitkammerException("Cannot look up " + dimension.table()
                            + ": it has never been loaded; load it first, or load everything at once");
                }
                seeding.accept(members.undelivered(context.stamp()));
            }
        }
    }

    private Stream<Lookup> lookups() {
        return definition instanceof Fact fact
                ? fact.lookups().stream()
                : ((Dimension) definition).lookups().stream().map(MemberLookup::lookup);
    }

    /** Rows that stand in for a value that finds nobody must be there, since nobody but the others can make them. */
    private void reservedStand(Lookup lookup) {
        Dimension others = lookup.dimension();
        Warehouse warehouse = context.warehouse();
        warehouse.columns(others.table()); // says so where it cannot be read
        Map<String, Long> needed = new LinkedHashMap<>();
        if (lookup.unmatched() == Unmatched.STAND_IN) {
            needed.put("unmatched", lookup.standIns().unmatched());
        }
        if (lookup.blank() == Blank.STAND_IN) {
            needed.put("blank", lookup.standIns().blank());
        }
        if (lookup.ended() == Ended.STAND_IN) {
            needed.put("ended", lookup.standIns().ended());
        }
        needed.forEach((keyword, key) -> {
            long rows = warehouse.number("select count(*) from " + warehouse.table(others.table()) + " as o where "
                    + warehouse.dialect().column("o", others.keyColumn()) + " = " + key);
            if (rows == 0) {
                throw new ZeitkammerException(others.table() + ", which others load, has no row with the key " + key
                        + ", to which the lookup \"" + lookup.role() + "\" of " + definition.table()
                        + " would point (\""
                        + keyword + "\"): name its own row under reserved: in the dimension \"" + others.name()
                        + "\", or say " + keyword + ": set-aside in the lookup");
            }
        });
    }

    /** A dimension that others made lacks columns that lookups need until it is loaded, or aligned. */
    private void refuseUnaligned(Definition dimension) {
        String by = dimension.conventions().column(AuditColumn.INSERTED_BY);
        List<Column> columns = context.warehouse().columns(dimension.table());
        if (dimension.conventions().standing()
                && !columns.isEmpty()
                && columns.stream().noneMatch(column -> column.name().equalsIgnoreCase(by))) {
            throw new ZeitkammerException("Cannot look up " + dimension.table()
                    + ": others made it, and it has not been loaded yet; load it first, or run zeitkammer align");
        }
        boolean lacksMemberKeys = dimension instanceof Dimension members
                && storesMemberKeys(members)
                && !columns.isEmpty()
                && columns.stream().noneMatch(column -> column.name().equalsIgnoreCase(members.memberKeyColumn()));
        if (lacksMemberKeys) {
            throw new ZeitkammerException("Cannot look up " + dimension.table()
                    + ": its member keys are not there yet; load it first, or run zeitkammer align");
        }
    }

    private boolean storesMemberKeys(Dimension dimension) {
        return definition instanceof Fact fact
                && fact.lookups().stream()
                        .anyMatch(lookup -> lookup.memberColumn().isPresent()
                                && lookup.dimension().table().equals(dimension.table()));
    }
}
