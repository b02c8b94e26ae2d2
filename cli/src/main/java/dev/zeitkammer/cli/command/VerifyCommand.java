package dev.zeitkammer.cli.command;

import dev.zeitkammer.cli.output.VerifyOutput;
import dev.zeitkammer.cli.output.VerifyOutput.Altered;
import dev.zeitkammer.cli.output.VerifyOutput.Known;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.UsageException;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.Warehouse.Access;
import dev.zeitkammer.engine.ZeitkammerException;
import dev.zeitkammer.load.Acceptance;
import dev.zeitkammer.publish.PublishedCopy;
import dev.zeitkammer.seal.AlteredRows;
import dev.zeitkammer.seal.Seals;
import dev.zeitkammer.verify.Verdict;
import dev.zeitkammer.verify.Verifier;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code zeitkammer verify}. */
@Command(
        name = "verify",
        description =
                "Proves on whole tables what must always hold: one current row a member, no overlaps, unique keys, every"
                        + " fact's keys in their dimensions, the books in agreement, nothing changed but by loads. Changes nothing, or"
                        + " with --accept only the books.")
final class VerifyCommand extends BaseCommand {

    /** So many values are shown of a table. */
    private static final int MOST_CHANGED = 50;

    @Parameters(arity = "0..*", paramLabel = "TABLE", description = "The tables to prove (default: all).")
    private List<String> tables = new ArrayList<>();

    @Option(
            names = "--seals-to",
            paramLabel = "FILE",
            description =
                    "Adds the seals of the tables to a file, a line each: who can write the books cannot write there.")
    private @Nullable Path sealsTo;

    @Option(
            names = "--accept",
            paramLabel = "REASON",
            description =
                    "Changes by hand that were meant: the books count the tables as they stand from now on; with why, for the journal.")
    private @Nullable String reason;

    @Override
    int run() {
        Project project = project();
        List<Definition> definitions = tables.isEmpty()
                ? project.definitions()
                : tables.stream().map(project::definition).toList();
        String why = reason;
        if (why != null) {
            return accept(project, definitions, why);
        }
        return withWarehouse(project, Access.READ, warehouse -> {
            List<Verdict> verdicts = new Verifier(warehouse, project).verify(definitions);
            if (verdicts.isEmpty() && !definitions.isEmpty()) {
                throw new ZeitkammerException("Nothing is proven: none of the tables stands in " + warehouse.title()
                        + " yet; load them first, with: zeitkammer load");
            }
            new VerifyOutput(output()).write(verdicts, altered(project, warehouse, verdicts), format());
            Path file = sealsTo;
            if (file != null) {
                keepSeals(definitions, warehouse, file);
            }
            return verdicts.stream().allMatch(Verdict::holds) ? ExitStatus.DONE : ExitStatus.FAILED;
        });
    }

    private int accept(Project project, List<Definition> definitions, String why) {
        if (why.isBlank()) {
            throw new UsageException("--accept needs a reason, which stands in the journal");
        }
        return withWarehouse(project, Access.WRITE, warehouse -> {
            new VerifyOutput(output())
                    .accepted(
                            new Acceptance(warehouse, clock())
                                    .accept(definitions, System.getProperty("user.name", ""), why.strip()),
                            "Nobody but loads has changed anything; there is nothing to accept.",
                            format());
            return ExitStatus.DONE;
        });
    }

    /** Of tables that somebody changed, the values as they stand, and as they were published or before the load that wrote them. */
    private static Map<String, Altered> altered(Project project, Warehouse warehouse, List<Verdict> verdicts) {
        Map<String, Altered> altered = new LinkedHashMap<>();
        verdicts.stream()
                .filter(verdict -> verdict.claim().equals(Seals.CLAIM) && !verdict.holds())
                .forEach(verdict -> altered.put(
                        verdict.table(), altered(project, project.definition(verdict.table()), warehouse, verdict)));
        return altered;
    }

    private static Altered altered(Project project, Definition definition, Warehouse warehouse, Verdict verdict) {
        return PublishedCopy.of(project, definition, warehouse)
                .map(copy -> new Altered(Known.PUBLISHED, copy.changed(MOST_CHANGED)))
                .orElseGet(() -> new Altered(
                        Known.BEFORE_LOAD,
                        new AlteredRows(definition, warehouse).sinceImages(Verifier.loads(verdict), MOST_CHANGED)));
    }

    private static void keepSeals(List<Definition> definitions, Warehouse warehouse, Path file) {
        String at = clock().instant().truncatedTo(ChronoUnit.SECONDS).toString();
        List<String> lines = definitions.stream()
                .flatMap(definition -> Seals.told(definition, warehouse).stream()
                        .map(seal -> at + " " + definition.table() + " " + seal))
                .toList();
        try {
            Files.write(file, lines, StandardOpenOption.CREATE, StandardOpenOption.APPEND);
        } catch (IOException refused) {
            throw new ZeitkammerException("Cannot write " + file + ": " + refused.getMessage(), refused);
        }
    }
}
