package dev.zeitkammer.load;

import dev.zeitkammer.align.Alignment;
import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Conventions;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.DefinitionException;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Fact;
import dev.zeitkammer.definition.Problem;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.ZeitkammerException;
import dev.zeitkammer.load.Preview.Ready;
import dev.zeitkammer.staging.LoadDate;
import dev.zeitkammer.staging.StagedRows;
import dev.zeitkammer.verify.Verifier;
import java.time.Clock;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.SortedSet;
import java.util.TreeSet;

/** Checks the definitions against the newest staged data and the warehouse; changes neither. */
public final class Checker {

    private final Project project;
    private Preview preview;
    private final boolean keepsConstraints;
    private final Warehouse warehouse;

    public Checker(Project project, Warehouse warehouse, Clock clock) {
        this.warehouse = warehouse;
        this.project = project;
        this.preview = Preview.withALook(project, warehouse, clock);
        this.keepsConstraints = warehouse.dialect().keepsConstraints();
    }

    /** Checks the deliveries of a load date, instead of the newest ones. */
    public Checker on(Optional<LoadDate> day) {
        preview = preview.on(day);
        return this;
    }

    /**
     * What was found.
     *
     * @param problems errors with their places in the definitions
     * @param failures what else stands in the way, one message a table
     * @param findings what was checked and is well, or only worth knowing
     */
    public record Report(List<Problem> problems, List<String> failures, List<Finding> findings) {

        public boolean isSound() {
            return problems.isEmpty() && failures.isEmpty();
        }
    }

    /** Something worth knowing about a table. */
    public record Finding(String table, String text) {}

    public Report check() {
        SortedSet<Problem> problems = new TreeSet<>();
        List<String> failures = new ArrayList<>();
        List<Finding> findings = new ArrayList<>();
        for (Definition definition : project.definitions()) {
            try {
                findings.addAll(findings(definition, preview.of(definition)));
            } catch (DefinitionException wrong) {
                problems.addAll(wrong.problems());
            } catch (ZeitkammerException wrong) {
                failures.add(definition.table() + ": " + wrong.getMessage());
            }
        }
        return new Report(List.copyOf(problems), failures, findings);
    }

    private List<Finding> findings(Definition definition, Optional<Ready> ready) {
        String table = definition.table();
        if (ready.isEmpty()) {
            String missing = preview.missing(definition.from().orElseThrow());
            return List.of(new Finding(table, "no delivery to check against: " + missing));
        }
        List<Finding> findings = new ArrayList<>();
        ready.get()
                .staged()
                .ifPresentOrElse(
                        staged -> findings.add(
                                new Finding(table, "fits " + staged.delivery().shown())),
                        () -> findings.add(new Finding(table, "makes its own rows")));
        ready.get()
                .staged()
                .filter(staged -> !staged.unusable().isEmpty())
                .ifPresent(staged -> findings.add(new Finding(
                        table,
                        staged.unusable().size() == 1
                                ? "1 line of it is no row and would be set aside"
                                : staged.unusable().size() + " lines of it are no rows and would be set aside")));
        ready.get()
                .feeds()
                .forEach(feed -> feed.staged()
                        .ifPresent(staged -> findings.add(new Finding(
                                table, "fits its feed " + staged.delivery().shown()))));
        ready.get()
                .staged()
                .map(Checker::unused)
                .filter(columns -> !columns.isEmpty())
                .ifPresent(columns ->
                        findings.add(new Finding(table, "staged and not used: " + String.join(", ", columns))));
        if (definition.conventions().standing()) {
            findings.add(
                    new Finding(table, made(definition, ready.get().prepared().alignment())));
            if (definition instanceof Dimension dimension && warehouse.has(table)) {
                new Verifier(warehouse)
                        .unsound(dimension)
                        .forEach(verdict ->
                                findings.add(new Finding(table, verdict.told() + "; the first load stops at that")));
            }
        }
        if (ready.get().prepared().alignment().creates()) {
            findings.add(new Finding(table, "the table does not exist yet; the first load creates it"));
        } else if (!ready.get().prepared().alignment().statements().isEmpty()) {
            findings.add(new Finding(table, "the table will be changed to fit; see: zeitkammer align --show"));
        }
        boolean isEnforced = definition instanceof Fact fact
                ? fact.isEnforced()
                : definition instanceof Dimension dimension && dimension.isEnforced();
        if (isEnforced && !keepsConstraints) {
            findings.add(
                    new Finding(table, "this warehouse keeps no foreign keys; verify proves what they would enforce"));
        }
        ready.get().stumbles().forEach(text -> findings.add(new Finding(table, text)));
        ready.get().feeds().stream()
                .flatMap(feed -> feed.stumbles().stream())
                .forEach(text -> findings.add(new Finding(table, text)));
        ready.get().prepared().alignment().notes().forEach(note -> findings.add(new Finding(table, note)));
        return findings;
    }

    /** What a definition means for a table that others made. */
    private static String made(Definition definition, Alignment alignment) {
        List<String> parts = new ArrayList<>();
        if (definition instanceof Dimension dimension) {
            parts.add(dimension.keyColumn() + " is its surrogate key");
        }
        Conventions conventions = definition.conventions();
        for (AuditColumn audit : AuditColumn.values()) {
            String column = conventions.column(audit);
            if (!column.equals(audit.columnName())) {
                parts.add(column + " is " + audit.columnName());
            }
        }
        String added = alignment.added().isEmpty()
                ? "; nothing is added to it"
                : "; added to it, and filled from what stands: " + String.join(", ", alignment.added());
        return "others made it" + (parts.isEmpty() ? "" : ": " + String.join(", ", parts)) + added;
    }

    private static List<String> unused(StagedRows staged) {
        return staged.delivery().header().stream()
                .filter(column -> staged.type(column).isEmpty())
                .toList();
    }
}
