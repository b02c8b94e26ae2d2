package dev.zeitkammer.lineage;

import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.ExtraStep;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.Publish;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.lineage.Flow.Part;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;

/** Reads the lineage of a project off its definitions. */
public final class DefinitionLineage {

    private final Project project;
    private final Collected collected = new Collected();
    private final InputLineage inputs;

    private DefinitionLineage(Project project, Headers headers) {
        this.project = project;
        this.inputs = new InputLineage(project, headers, collected);
    }

    /** The lineage of everything that a project loads. */
    public static Lineage of(Project project, Headers headers) {
        DefinitionLineage lineage = new DefinitionLineage(project, headers);
        project.known()
                .forEach(definition -> lineage.collected.named(definition.name().text(), dataset(definition)));
        project.dimensions().forEach(new DimensionLineage(lineage.collected, lineage.inputs)::read);
        project.facts().forEach(new FactLineage(lineage.collected, lineage.inputs)::read);
        project.definitions().forEach(lineage::around);
        return lineage.collected.done();
    }

    /** The table of the project that a name stands for, with or without a schema before it. */
    static Optional<Dataset> table(Project project, String name) {
        String bare = name.substring(name.lastIndexOf('.') + 1);
        return project.definitions().stream()
                .filter(definition -> definition.table().equalsIgnoreCase(bare))
                .findFirst()
                .map(DefinitionLineage::dataset);
    }

    static Dataset dataset(Definition definition) {
        return new Dataset(
                definition instanceof Dimension ? Dataset.Kind.DIMENSION : Dataset.Kind.FACT, definition.table());
    }

    /** What stands around a table: views of it, files of it, steps before and after it. */
    private void around(Definition definition) {
        Dataset table = dataset(definition);
        List<Field> columns = List.copyOf(collected.columns(table));
        definition.publish().ifPresent(publish -> copies(published(definition, publish), columns, "published"));
        definition
                .knownView()
                .ifPresent(view -> copies(new Dataset(Dataset.Kind.VIEW, view.text()), columns, "as it was known"));
        if (definition instanceof Dimension dimension) {
            dimension
                    .views()
                    .current()
                    .ifPresent(view ->
                            copies(new Dataset(Dataset.Kind.VIEW, view.text()), columns, "of the current version"));
        }
        project.extra().stream()
                .filter(extra -> extra.anchor().equals(definition.name().text())
                        || extra.sql()
                                .filter(sql -> mentions(sql, definition.table()))
                                .isPresent())
                .forEach(extra -> collected.rule(table, extra(extra), List.of()));
    }

    private static boolean mentions(Word sql, String table) {
        return Stream.of(sql.text().split("[^\\p{L}\\p{N}_]+")).anyMatch(table::equalsIgnoreCase);
    }

    private static String extra(ExtraStep extra) {
        String what = extra.sql().map(InputLineage::oneLine).orElseGet(() -> String.join(" ", extra.command()));
        return "the step \"" + extra.name() + "\", " + extra.where() + ": " + what;
    }

    private static Dataset published(Definition definition, Publish publish) {
        return new Dataset(Dataset.Kind.PUBLISHED, publish.to().text().replace("{table}", definition.table()));
    }

    private void copies(Dataset copy, List<Field> columns, String meaning) {
        columns.forEach(column -> collected.flow(column, collected.field(copy, column.name(), meaning), Part.VALUE));
    }
}
