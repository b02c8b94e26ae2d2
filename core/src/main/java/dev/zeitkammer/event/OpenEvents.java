package dev.zeitkammer.event;

import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.annotation.JsonInclude.Include;
import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.SerializationFeature;
import com.fasterxml.jackson.databind.json.JsonMapper;
import com.fasterxml.jackson.datatype.jsr310.JavaTimeModule;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.engine.Caption;
import dev.zeitkammer.engine.DatabaseAddress;
import dev.zeitkammer.engine.Secrets;
import dev.zeitkammer.lineage.Dataset;
import dev.zeitkammer.lineage.Dataset.Kind;
import dev.zeitkammer.lineage.Field;
import dev.zeitkammer.lineage.Flow;
import dev.zeitkammer.lineage.Lineage;
import dev.zeitkammer.load.LoadListener;
import io.openlineage.client.OpenLineage;
import io.openlineage.client.OpenLineage.ColumnLineageDatasetFacetFieldsBuilder;
import io.openlineage.client.OpenLineage.InputDataset;
import io.openlineage.client.OpenLineage.InputField;
import io.openlineage.client.OpenLineage.OutputDataset;
import io.openlineage.client.OpenLineage.RunEvent.EventType;
import io.openlineage.client.OpenLineage.RunFacetsBuilder;
import java.net.URI;
import java.time.Clock;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.time.ZonedDateTime;
import java.util.HashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.UUID;

/**
 * Tells of each table's load as OpenLineage events: START when it begins, then COMPLETE, or FAIL, or ABORT where a guard stopped it,
 * with the columns that it comes from, row counts and the error. The form is that of the OpenLineage specification.
 */
public final class OpenEvents implements LoadListener {

    private static final JsonMapper MAPPER = JsonMapper.builder()
            .addModule(new JavaTimeModule())
            .disable(SerializationFeature.WRITE_DATES_AS_TIMESTAMPS)
            .defaultPropertyInclusion(JsonInclude.Value.construct(Include.NON_NULL, Include.NON_NULL))
            .build();

    private final LoadListener other;
    private final Project project;
    private final DatabaseAddress warehouse;
    private final Lineage lineage;
    private final EventSink sink;
    private final LocalDate day;
    private final Clock clock;
    private final OpenLineage form = new OpenLineage(URI.create("https://zeitkammer.example/"));
    private final Map<String, UUID> runs = new HashMap<>();

    /** What events tell of: a project's tables in a warehouse, and where their columns come from. */
    public record Told(Project project, DatabaseAddress warehouse, Lineage lineage) {}

    /**
     * @param other who hears everything too
     * @param day the date of the load
     */
    public OpenEvents(LoadListener other, Told told, EventSink sink, LocalDate day, Clock clock) {
        this.other = other;
        this.project = told.project();
        this.warehouse = told.warehouse();
        this.lineage = told.lineage();
        this.sink = sink;
        this.day = day;
        this.clock = clock;
    }

    @Override
    public synchronized void step(String table, Caption step) {
        if (!table.isEmpty() && !runs.containsKey(table)) {
            runs.put(table, UUID.randomUUID());
            tell(table, EventType.START, form.newRunFacetsBuilder(), List.of(), List.of());
        }
        other.step(table, step);
    }

    @Override
    public synchronized void ended(TableEntry entry) {
        boolean begun = runs.containsKey(entry.table());
        boolean failed = entry.status() == LoadStatus.FAILED || entry.status() == LoadStatus.STOPPED;
        if (begun || failed) {
            runs.putIfAbsent(entry.table(), UUID.randomUUID());
            RunFacetsBuilder facets = form.newRunFacetsBuilder();
            entry.error()
                    .filter(error -> failed)
                    .ifPresent(error ->
                            facets.errorMessage(form.newErrorMessageRunFacet(Secrets.cleaned(error), "SQL", null)));
            tell(entry.table(), type(entry), facets, inputs(entry), List.of(output(entry)));
        }
        other.ended(entry);
    }

    private static EventType type(TableEntry entry) {
        return switch (entry.status()) {
            case FAILED -> EventType.FAIL;
            case STOPPED -> EventType.ABORT;
            default -> EventType.COMPLETE;
        };
    }

    @Override
    public void notes(String table, List<String> notes) {
        other.notes(table, notes);
    }

    @Override
    public void cause(Throwable cause) {
        other.cause(cause);
    }

    private void tell(
            String table,
            EventType type,
            RunFacetsBuilder facets,
            List<InputDataset> inputs,
            List<OutputDataset> outputs) {
        ZonedDateTime now = clock.instant().atZone(ZoneOffset.UTC);
        facets.nominalTime(form.newNominalTimeRunFacet(day.atStartOfDay(ZoneOffset.UTC), null));
        OpenLineage.RunEvent event = form.newRunEventBuilder()
                .eventType(type)
                .eventTime(now)
                .run(form.newRunBuilder()
                        .runId(runs.get(table))
                        .facets(facets.build())
                        .build())
                .job(form.newJobBuilder()
                        .namespace(project.name())
                        .name(table)
                        .facets(form.newJobFacetsBuilder()
                                .jobType(form.newJobTypeJobFacet("BATCH", "ZEITKAMMER", "LOAD", null))
                                .build())
                        .build())
                .inputs(inputs)
                .outputs(outputs)
                .build();
        try {
            sink.take(MAPPER.writeValueAsString(event));
        } catch (JsonProcessingException impossible) {
            throw new IllegalStateException(impossible);
        }
    }

    private List<InputDataset> inputs(TableEntry entry) {
        Dataset table = lineage.named(entry.table()).dataset();
        Set<Dataset> sources = new LinkedHashSet<>();
        lineage.fields(table)
                .forEach(field ->
                        sources(field, table).stream().map(Field::dataset).forEach(sources::add));
        long staged = entry.count("staged");
        long files =
                sources.stream().filter(source -> source.kind() == Kind.FILES).count();
        return sources.stream()
                .map(source -> form.newInputDatasetBuilder()
                        .namespace(namespace(source))
                        .name(name(source))
                        .inputFacets(
                                files == 1 && source.kind() == Kind.FILES
                                        ? form.newInputDatasetInputFacetsBuilder()
                                                .inputStatistics(
                                                        form.newInputStatisticsInputDatasetFacet(staged, null, null))
                                                .build()
                                        : form.newInputDatasetInputFacetsBuilder()
                                                .build())
                        .build())
                .toList();
    }

    private OutputDataset output(TableEntry entry) {
        Dataset table = lineage.named(entry.table()).dataset();
        ColumnLineageDatasetFacetFieldsBuilder columns = form.newColumnLineageDatasetFacetFieldsBuilder();
        for (Field field : lineage.fields(table)) {
            List<InputField> from = sources(field, table).stream()
                    .map(source -> form.newInputField(
                            namespace(source.dataset()), name(source.dataset()), source.name(), null))
                    .toList();
            if (!from.isEmpty()) {
                columns.put(
                        field.name(),
                        form.newColumnLineageDatasetFacetFieldsAdditional(from, lineage.meaning(field), null));
            }
        }
        return form.newOutputDatasetBuilder()
                .namespace(namespace(table))
                .name(name(table))
                .facets(form.newDatasetFacetsBuilder()
                        .schema(form.newSchemaDatasetFacet(lineage.fields(table).stream()
                                .map(field -> form.newSchemaDatasetFacetFieldsBuilder()
                                        .name(field.name())
                                        .description(lineage.meaning(field))
                                        .build())
                                .toList()))
                        .columnLineage(form.newColumnLineageDatasetFacet(columns.build(), null))
                        .build())
                .outputFacets(form.newOutputDatasetOutputFacetsBuilder()
                        .outputStatistics(form.newOutputStatisticsOutputDatasetFacet(
                                entry.inserted() + entry.updated(), null, null))
                        .build())
                .build();
    }

    /** The columns of files and other tables behind a column; inputs and the table itself lie between. */
    private Set<Field> sources(Field field, Dataset table) {
        Set<Field> found = new LinkedHashSet<>();
        collect(field, table, new LinkedHashSet<>(), found);
        return found;
    }

    private void collect(Field field, Dataset table, Set<Field> seen, Set<Field> found) {
        for (Flow flow : lineage.into(field)) {
            Field from = flow.from();
            boolean isBetween =
                    from.dataset().kind() == Kind.INPUT || from.dataset().equals(table);
            if (!isBetween) {
                found.add(from);
            } else if (seen.add(from)) {
                collect(from, table, seen, found);
            }
        }
    }

    private String namespace(Dataset dataset) {
        return dataset.kind() == Kind.FILES ? "file" : warehouse.shownUrl().replaceFirst("^jdbc:", "");
    }

    private String name(Dataset dataset) {
        if (dataset.kind() == Kind.FILES) {
            return project.folder().resolve(dataset.name()).normalize().toString();
        }
        return warehouse.schema() == null || !dataset.isTable()
                ? dataset.name()
                : warehouse.schema() + "." + dataset.name();
    }
}
