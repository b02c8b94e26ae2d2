package dev.zeitkammer.cli.command;

import dev.zeitkammer.cli.output.CheckOutput;
import dev.zeitkammer.cli.output.ProfileOutput;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.engine.Warehouse.Access;
import dev.zeitkammer.load.Checker;
import dev.zeitkammer.load.Checker.Finding;
import dev.zeitkammer.load.Checker.Report;
import dev.zeitkammer.profile.Profiler;
import dev.zeitkammer.staging.LoadDate;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;

/** {@code zeitkammer check}. */
@Command(
        name = "check",
        description = {
            "Checks the definitions against each other, the newest delivery and the warehouse; changes nothing.",
            "Every error is reported at once, as file:line:column."
        })
final class CheckCommand extends BaseCommand {

    @Option(
            names = "--profile",
            description = "Shows what the newest delivery of every input looks like, column by column, instead.")
    private boolean profile;

    @Option(
            names = "--date",
            paramLabel = "D",
            description = "Goes by the deliveries of this load date, instead of the newest ones.")
    private @Nullable LoadDate date;

    @Override
    int run() {
        Project project = project();
        List<String> refused = refused(project);
        if (!refused.isEmpty() && !profile) {
            new CheckOutput(output())
                    .write(definitionsOnly(refused), format(), options().quiet());
            return ExitStatus.DONE;
        }
        if (profile) {
            return withWarehouse(project, Access.PLAN, warehouse -> {
                Profiler profiler = new Profiler(project, warehouse);
                new ProfileOutput(output())
                        .write(
                                inputs(project).stream()
                                        .flatMap(input -> profiler.of(input).stream())
                                        .toList(),
                                format());
                return ExitStatus.DONE;
            });
        }
        return withWarehouse(project, Access.PLAN, warehouse -> {
            Report report = new Checker(project, warehouse, clock())
                    .on(Optional.ofNullable(date))
                    .check();
            new CheckOutput(output()).write(report, format(), options().quiet());
            if (report.isSound()) {
                return ExitStatus.DONE;
            }
            return report.problems().isEmpty() ? ExitStatus.FAILED : ExitStatus.USAGE;
        });
    }

    /** The definitions are sound, or they could not have been read. */
    private static Report definitionsOnly(List<String> refused) {
        List<Finding> findings = new ArrayList<>();
        findings.add(new Finding(
                Project.FILE,
                "only the definitions were checked: the project asks for more than its own folder, and you have not vouched for it"
                        + " (zeitkammer vouch)"));
        refused.forEach(each -> findings.add(new Finding(Project.FILE, "it " + each)));
        return new Report(List.of(), List.of(), findings);
    }

    /** Every input with a file of its own, and those that definitions write inline. */
    private static Set<Input> inputs(Project project) {
        Set<Input> inputs = new LinkedHashSet<>(project.inputs());
        project.definitions().forEach(definition -> definition.from().ifPresent(inputs::add));
        return inputs;
    }
}
