package dev.zeitkammer.definition;

import dev.zeitkammer.engine.DatabaseAddress;
import dev.zeitkammer.engine.OwnFolder;
import dev.zeitkammer.engine.Warehouses;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;

/**
 * What a project asks for beyond its own folder: connections, variables, files elsewhere, commands. A project that nobody has
 * vouched for gets none of it.
 */
public final class Reach {

    private final Project project;
    private final Set<String> asked = new LinkedHashSet<>();

    private Reach(Project project) {
        this.project = project;
    }

    /**
     * What a project asks for in a warehouse, one line each; nothing where it keeps to its folder.
     *
     * @param project as it is read where nobody has vouched for it
     */
    public static List<String> of(Project project, DatabaseAddress warehouse) {
        Reach reach = new Reach(project);
        if (!Warehouses.isWithin(warehouse, project.folder())) {
            reach.connects("the warehouse", warehouse);
        }
        reach.variables(project.withheld().orElse(Set.of()));
        reach.inputs();
        reach.writes();
        reach.commands();
        return List.copyOf(reach.asked);
    }

    private void connects(String what, DatabaseAddress address) {
        asked.add("connects to " + what + " " + address);
        variables(address.variables());
        Optional.ofNullable(address.passwordFile())
                .ifPresent(file -> asked.add("reads a password from the file " + file));
    }

    private void variables(Set<String> names) {
        names.forEach(name -> asked.add("reads the variable " + name + " of the environment"));
    }

    private void inputs() {
        for (Input input : project.allInputs()) {
            if (input.origin() instanceof Input.Files files
                    && !isOwn(fixed(files.pattern().text()))) {
                asked.add("reads " + files.pattern() + " (" + files.pattern().place() + ")");
            }
            databaseOf(input).ifPresent(database -> connects("the database", database));
        }
    }

    private static Optional<DatabaseAddress> databaseOf(Input input) {
        if (input.origin() instanceof Input.Table table) {
            return table.database();
        }
        return input.origin() instanceof Input.Query query ? query.database() : Optional.empty();
    }

    /** The folders of a pattern before the first part that stands for several. */
    private static String fixed(String pattern) {
        List<String> parts = new ArrayList<>();
        for (String part : pattern.split("/", -1)) {
            if (part.matches(".*[*?\\[{].*")) {
                break;
            }
            parts.add(part);
        }
        return pattern.startsWith("/") ? "/" + String.join("/", parts) : String.join("/", parts);
    }

    private void writes() {
        project.definitions().stream()
                .flatMap(definition -> definition.publish().stream())
                .map(project::publishedTo)
                .filter(to -> !isOwn(to.text()))
                .forEach(to -> asked.add("publishes to " + to + " (" + to.place() + ")"));
        Optional<Events> events = project.settings().events();
        events.filter(Events::isSent)
                .ifPresent(each -> asked.add(
                        "sends events to " + each.to() + " (" + each.to().place() + ")"));
        events.filter(each -> !each.isSent() && !isOwn(each.to().text()))
                .ifPresent(each -> asked.add(
                        "writes events to " + each.to() + " (" + each.to().place() + ")"));
        project.settings()
                .metrics()
                .filter(to -> !isOwn(to.text()))
                .ifPresent(to -> asked.add("writes metrics to " + to + " (" + to.place() + ")"));
    }

    private void commands() {
        project.extra().stream()
                .filter(step -> !step.command().isEmpty())
                .forEach(step -> asked.add("runs the command " + String.join(" ", step.command()) + " ("
                        + step.name().place() + ")"));
    }

    private boolean isOwn(String path) {
        return OwnFolder.holds(project.folder(), Path.of(path));
    }
}
