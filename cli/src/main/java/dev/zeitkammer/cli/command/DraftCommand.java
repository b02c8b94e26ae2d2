package dev.zeitkammer.cli.command;

import dev.zeitkammer.adopt.Adopting;
import dev.zeitkammer.adopt.Adopting.Adopted;
import dev.zeitkammer.cli.output.AdoptedOutput;
import dev.zeitkammer.cli.output.Format;
import dev.zeitkammer.cli.output.ProfileOutput;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.UsageException;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.Warehouse.Access;
import dev.zeitkammer.profile.Drafting;
import dev.zeitkammer.profile.Drafting.Delivered;
import dev.zeitkammer.profile.Drafting.Drafted;
import java.nio.file.Path;
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code zeitkammer draft}. */
@Command(
        name = "draft",
        description = {
            "Looks at staged data and writes a definition that loads as it stands, with a comment on every guess.",
            "FILE is relative to where you are, or to the project; TABLE is one of the warehouse, or an input's name."
        })
final class DraftCommand extends BaseCommand {

    @Parameters(index = "0", paramLabel = "dimension|fact", description = "What to draft.")
    private Drafting.Kind kind = Drafting.Kind.DIMENSION;

    @Parameters(index = "1", paramLabel = "NAME", description = "The name to give it.")
    private String name = "";

    @Option(names = "--from", paramLabel = "FILE|TABLE", description = "The data to look at.")
    private @Nullable String from;

    @Option(
            names = "--standing",
            paramLabel = "TABLE",
            description = "A table of the warehouse that others made, for the definition to go on with.")
    private @Nullable String standing;

    @Option(
            names = "--database",
            paramLabel = "NAME",
            description = "The database, of those under databases:, that holds the table.")
    private @Nullable String database;

    @Override
    boolean readsOnlyInputs() {
        return false;
    }

    @Override
    int run() {
        Project project = project();
        Path here = root().context().here().toAbsolutePath();
        if (standing != null) {
            return withWarehouse(project, Access.PLAN, warehouse -> adopt(project, warehouse, here));
        }
        if (from == null) {
            throw new UsageException(
                    "Say what to look at: --from FILE or TABLE, or --standing TABLE for one that others made");
        }
        return withWarehouse(project, Access.PLAN, warehouse -> {
            Drafted drafted =
                    new Drafting(project, warehouse).draft(kind, name, from, Optional.ofNullable(database), here);
            if (!options().quiet() || format() != Format.TEXT) {
                new ProfileOutput(output()).write(List.of(drafted.profile()), format());
            }
            output().aside("Wrote " + drafted.file() + ". Look at its guesses, then try it: zeitkammer rehearse "
                    + name);
            return ExitStatus.DONE;
        });
    }

    private int adopt(Project project, Warehouse warehouse, Path here) {
        Optional<Delivered> delivered = Optional.ofNullable(from)
                .map(rows ->
                        new Drafting(project, warehouse).delivered(name, rows, Optional.ofNullable(database), here));
        Adopted adopted = new Adopting(project, warehouse).adopt(kind, name, String.valueOf(standing), delivered);
        new AdoptedOutput(output()).write(adopted, name, format());
        return ExitStatus.DONE;
    }
}
