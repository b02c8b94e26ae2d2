package dev.zeitkammer.adopt;

import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.UsageException;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.profile.Drafting;
import dev.zeitkammer.profile.Drafting.Delivered;
import dev.zeitkammer.profile.Drafting.Kind;
import java.nio.file.Path;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;

/** Writes definitions that go on with tables that others made. */
public final class Adopting {

    private final Project project;
    private final Warehouse warehouse;

    public Adopting(Project project, Warehouse warehouse) {
        this.project = project;
        this.warehouse = warehouse;
    }

    /**
     * A definition that was written.
     *
     * @param added the columns that aligning will add to the table, filled from what stands
     */
    public record Adopted(Path file, String table, long rows, List<String> added) {}

    /**
     * Looks at a table that stands and writes a definition that goes on with it.
     *
     * @param standing the table's name in the warehouse
     * @param delivered what is delivered to it from now on, where that is there to be looked at
     * @throws UsageException where there is no such table, nothing identifies its rows, or the definition is there already
     */
    public Adopted adopt(Kind kind, String name, String standing, Optional<Delivered> delivered) {
        Path file = new Drafting(project, warehouse).free(kind, name);
        refuseIfDefined(standing);
        if (!warehouse.has(standing)) {
            throw new UsageException("There is no table " + standing + " in " + warehouse.title());
        }
        StandingTable table = new StandingTable(warehouse, standing);
        return kind == Kind.DIMENSION ? dimension(file, name, table, delivered) : fact(file, name, table, delivered);
    }

    private void refuseIfDefined(String standing) {
        Stream.<Definition>concat(project.dimensions().stream(), project.facts().stream())
                .filter(definition -> definition.table().equalsIgnoreCase(standing))
                .findFirst()
                .ifPresent(definition -> {
                    throw new UsageException("The table " + standing + " is already that of \"" + definition.name()
                            + "\", in " + definition.name().place() + "; nothing was written");
                });
    }

    private Adopted dimension(Path file, String name, StandingTable table, Optional<Delivered> delivered) {
        StandingDimension dimension = new StandingDimension(table).look();
        if (dimension.surrogate().isEmpty()) {
            throw new UsageException(
                    "No column of " + table.name() + " can be its surrogate key: a whole number, never null,"
                            + " that no two rows share; nothing was written");
        }
        if (dimension.key().isEmpty()) {
            throw new UsageException(
                    "No column of " + table.name() + ", and no two together, can be its business key: never"
                            + " null, and "
                            + (dimension.hasVersions()
                                    ? "different in all rows that begin at one time"
                                    : "different in all rows")
                            + "; nothing was written");
        }
        AdoptedDraft draft = new AdoptedDraft(project, name, table, delivered);
        Drafting.write(file, draft.dimension(dimension));
        return new Adopted(file, table.name(), table.rows(), names(draft, dimension.lacking(draft.hasEffective())));
    }

    private Adopted fact(Path file, String name, StandingTable table, Optional<Delivered> delivered) {
        StandingFact fact = new StandingFact(table, warehouse, project.dimensions()).look();
        if (fact.grain().isEmpty()) {
            throw new UsageException("No column of " + table.name()
                    + ", and no two together, tell all its rows apart; nothing was written");
        }
        AdoptedDraft draft = new AdoptedDraft(project, name, table, delivered);
        Drafting.write(file, draft.fact(fact));
        List<AuditColumn> lacking = AuditColumn.STAMPS.stream()
                .filter(column -> !fact.audit().containsKey(column))
                .toList();
        return new Adopted(file, table.name(), table.rows(), names(draft, lacking));
    }

    private static List<String> names(AdoptedDraft draft, List<AuditColumn> columns) {
        return columns.stream().map(draft::added).toList();
    }
}
