package dev.zeitkammer.cli.command;

import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.ParameterException;
import picocli.CommandLine.ScopeType;
import picocli.CommandLine.Spec;

/** {@code zeitkammer} without a command. */
@Command(
        name = "zeitkammer",
        description = "Loads staged data into dimensions with history and into fact tables.",
        mixinStandardHelpOptions = true,
        scope = ScopeType.INHERIT,
        versionProvider = Version.class,
        sortOptions = false,
        synopsisSubcommandLabel = "COMMAND",
        footer = {
            "",
            "Exit status: 0 done; 1 a load or a proof failed; 2 wrong usage or definitions; 3 stopped by a guard (a stop in a definition,"
                    + " an older load date)."
        })
final class RootCommand implements Runnable {

    @Mixin
    private final CommonOptions options = new CommonOptions();

    @Spec
    private CommandSpec spec;

    private final Context context;

    RootCommand(Context context) {
        this.context = context;
        this.spec = CommandSpec.create();
    }

    CommonOptions options() {
        return options;
    }

    Context context() {
        return context;
    }

    @Override
    public void run() {
        throw new ParameterException(spec.commandLine(), "Which command? Start with: zeitkammer demo");
    }
}
