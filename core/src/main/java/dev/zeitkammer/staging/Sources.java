package dev.zeitkammer.staging;

import dev.zeitkammer.definition.Input;
import dev.zeitkammer.engine.DatabaseAddress;
import dev.zeitkammer.engine.Stager;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.database.OperationalDatabase;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;

/** Opens the sources of inputs, for a load date or, without one, the newest there are. */
final class Sources {

    private final Warehouse warehouse;
    private final Path folder;
    private final Optional<LoadDate> date;
    private final Earlier earlier;
    private final Staging staging;

    Sources(Warehouse warehouse, Path folder, Optional<LoadDate> date, Earlier earlier, Staging staging) {
        this.warehouse = warehouse;
        this.folder = folder;
        this.date = date;
        this.earlier = earlier;
        this.staging = staging;
    }

    /** The source of an input; empty where there is no delivery, and no row that waits. */
    Optional<Source> of(Input input) {
        return delivered(input).or(() -> waited(input));
    }

    private Optional<Source> delivered(Input input) {
        if (input.origin() instanceof Input.Files) {
            return ofFiles(input);
        }
        if (input.origin() instanceof Input.Given given) {
            return ofFiles(input, given.files());
        }
        if (input.origin() instanceof Input.Table table) {
            return Optional.of(
                    table.database().isPresent()
                            ? DatabaseRows.ofTable(
                                    input, table, opened(table.database().get()), warehouse.stager())
                            : WarehouseRows.ofTable(input, table, warehouse));
        }
        if (input.origin() instanceof Input.Query query) {
            return query.database().isPresent()
                    ? Optional.of(DatabaseRows.ofQuery(
                            input, query, opened(query.database().get()), warehouse.stager()))
                    : ofQuery(input, query);
        }
        return ofJoin(input, (Input.Join) input.origin());
    }

    private OperationalDatabase opened(DatabaseAddress address) {
        return new OperationalDatabase(address, folder);
    }

    private Optional<Source> ofFiles(Input input) {
        FileFinder finder = new FileFinder(folder);
        List<Path> paths = date.map(known -> finder.of(input, known)).orElseGet(() -> finder.newest(input));
        return paths.isEmpty() ? Optional.empty() : ofFiles(input, paths);
    }

    private Optional<Source> ofFiles(Input input, List<Path> paths) {
        DeliveredFiles files = new DeliveredFiles(folder, paths);
        files.readable();
        String name =
                paths.get(0).getFileName().toString().toLowerCase(Locale.ROOT).replaceFirst("\\.(gz|zst)$", "");
        Stager stager = warehouse.stager();
        if (name.endsWith(".parquet")) {
            return Optional.of(new ParquetFiles(input, files.followingLinks(), stager));
        }
        files.intact(input.csv().encoding());
        if (name.endsWith(".jsonl") || name.endsWith(".ndjson") || name.endsWith(".json")) {
            return Optional.of(JsonFiles.open(input, files.followingLinks(), stager));
        }
        return Optional.of(DelimitedFiles.open(input, files, stager));
    }

    /** Rows that wait are tried again though nothing came; but for a full extract, which they alone are not. */
    private Optional<Source> waited(Input input) {
        List<WaitingRow> rows = input.required() || input.extract() == Input.Extract.FULL
                ? List.of()
                : earlier.waiting().apply(earlier.scope() + input.name());
        return rows.isEmpty()
                ? Optional.empty()
                : Optional.of(new WaitedSource(input, warehouse.stager(), missing(input), rows));
    }

    private Sources with(Earlier other) {
        return new Sources(warehouse, folder, date, other, staging);
    }

    private Optional<Source> ofQuery(Input input, Input.Query query) {
        return with(earlier.withoutWaiting())
                .parts(query.inputs(), earlier.withoutWaiting())
                .map(parts -> WarehouseRows.ofQuery(input, query, parts, warehouse, staging, earlier));
    }

    private Optional<Source> ofJoin(Input input, Input.Join join) {
        return with(earlier.withoutWaiting())
                .parts(input.parts(), earlier.inside(input.name().text()))
                .map(parts -> new JoinedRows(input, join, parts, warehouse.stager(), staging));
    }

    /**
     * The sources of the inputs that another is made of; empty where one has no delivery.
     *
     * @param ofFirst what earlier loads left of the first
     */
    private Optional<List<Source>> parts(List<Input> inputs, Earlier ofFirst) {
        List<Source> parts = new ArrayList<>();
        if (inputs.stream().anyMatch(input -> input.keep().isPresent())
                && inputs.stream().noneMatch(this::isDelivered)) {
            return Optional.empty();
        }
        for (Input input : inputs) {
            Optional<Source> part = parts.isEmpty() ? with(ofFirst).part(input) : part(input);
            if (part.isEmpty()) {
                Staging.requires(input, this);
                return Optional.empty();
            }
            parts.add(Staging.withListedColumns(part.get()));
        }
        return Optional.of(parts);
    }

    /** What another input sees of one: of one that keeps its latest rows all of them, and not only what came. */
    private Optional<Source> part(Input input) {
        return input.keep().isPresent() ? WarehouseRows.ofKept(input, warehouse).or(() -> of(input)) : of(input);
    }

    private boolean isDelivered(Input input) {
        return of(input).isPresent();
    }

    /** Which files are not there. */
    String missing(Input input) {
        if (input.origin() instanceof Input.Files files) {
            String pattern = files.pattern().text();
            return "no file matches " + date.map(known -> known.in(pattern)).orElse(pattern);
        }
        List<Input> made = input.parts();
        boolean anyKept = made.stream().anyMatch(part -> part.keep().isPresent());
        return made.stream()
                .filter(part -> of(part).isEmpty())
                .filter(part ->
                        !anyKept || part(part).isEmpty() || made.stream().noneMatch(this::isDelivered))
                .findFirst()
                .map(part -> missing(part) + ", which the input \"" + part.name() + "\" of \"" + input.name()
                        + "\" reads" + (part.keep().isPresent() ? ", and no row of it is kept yet" : ""))
                .orElse("the input \"" + input.name() + "\" has nothing");
    }
}
