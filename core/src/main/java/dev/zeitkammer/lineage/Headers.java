package dev.zeitkammer.lineage;

import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.ZeitkammerException;
import dev.zeitkammer.staging.Delivery;
import dev.zeitkammer.staging.Earlier;
import dev.zeitkammer.staging.Staging;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** The columns that inputs deliver, as far as a delivery is there to tell them. */
public interface Headers {

    /** No delivery is looked at. */
    Headers UNKNOWN = input -> Optional.empty();

    /** The columns of an input; empty where nothing tells them. */
    Optional<List<String>> of(Input input);

    /** Those of the newest deliveries. What cannot be read is not known: lineage is of definitions, and goes on without. */
    static Headers newest(Project project, Warehouse warehouse) {
        Staging staging = new Staging(warehouse, project.folder());
        Map<Input, Optional<List<String>>> known = new HashMap<>();
        return input -> known.computeIfAbsent(input, each -> {
            try {
                return staging.newest(each, Earlier.NOTHING)
                        .map(Delivery::header)
                        .filter(header -> !header.isEmpty());
            } catch (ZeitkammerException unreadable) {
                return Optional.empty();
            }
        });
    }
}
