package dev.zeitkammer.cli.command;

import dev.zeitkammer.cli.output.VerifyOutput;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.engine.Warehouse.Access;
import dev.zeitkammer.engine.ZeitkammerException;
import dev.zeitkammer.verify.Verdict;
import dev.zeitkammer.verify.Verifier;
import java.util.ArrayList;
import java.util.List;
import picocli.CommandLine.Command;
import picocli.CommandLine.Parameters;

/** {@code zeitkammer verify}. */
@Command(
        name = "verify",
        description =
                "Proves on whole tables what must always hold: one current row a member, no overlaps, unique keys, every"
                        + " fact's keys in their dimensions, the books in agreement. Changes nothing.")
final class VerifyCommand extends BaseCommand {

    @Parameters(arity = "0..*", paramLabel = "TABLE", description = "The tables to prove (default: all).")
    private List<String> tables = new ArrayList<>();

    @Override
    int run() {
        Project project = project();
        List<Definition> definitions = tables.isEmpty()
                ? project.definitions()
                : tables.stream().map(project::definition).toList();
        return withWarehouse(project, Access.READ, warehouse -> {
            List<Verdict> verdicts = new Verifier(warehouse).verify(definitions);
            if (verdicts.isEmpty() && !definitions.isEmpty()) {
                throw new ZeitkammerException("Nothing is proven: none of the tables stands in " + warehouse.title()
                        + " yet; load them first, with: zeitkammer load");
            }
            new VerifyOutput(output()).write(verdicts, format());
            return verdicts.stream().allMatch(Verdict::holds) ? ExitStatus.DONE : ExitStatus.FAILED;
        });
    }
}
