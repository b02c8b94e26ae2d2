package dev.zeitkammer.load;

import dev.zeitkammer.definition.Project;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.extra.ExtraSteps;
import dev.zeitkammer.load.Loader.Request;
import dev.zeitkammer.step.Stamp;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;

/**
 * What every table of a load goes by.
 *
 * @param warehouse the connection that loads; side by side, each has its own
 * @param request what was asked for
 * @param stamp the number, the date and the moment of the load
 * @param extra the extra steps of the load
 * @param sealed the tables whose seals the load has entered
 */
record LoadContext(
        Project project,
        Warehouse warehouse,
        LoadListener listener,
        Request request,
        Stamp stamp,
        ExtraSteps extra,
        Set<String> sealed) {

    LoadContext(
            Project project,
            Warehouse warehouse,
            LoadListener listener,
            Request request,
            Stamp stamp,
            ExtraSteps extra) {
        this(project, warehouse, listener, request, stamp, extra, ConcurrentHashMap.newKeySet());
    }

    /** The same load over another connection. */
    LoadContext over(Warehouse another) {
        return new LoadContext(project, another, listener, request, stamp, extra, sealed);
    }
}
