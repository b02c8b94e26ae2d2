package dev.zeitkammer.cli.command;

import dev.zeitkammer.cli.output.Output;
import dev.zeitkammer.definition.DefinitionException;
import dev.zeitkammer.definition.Nearest;
import dev.zeitkammer.definition.UsageException;
import dev.zeitkammer.engine.GuardException;
import dev.zeitkammer.engine.Secrets;
import dev.zeitkammer.engine.Warehouses;
import dev.zeitkammer.engine.ZeitkammerException;
import dev.zeitkammer.staging.LoadDate;
import java.io.PrintStream;
import java.io.PrintWriter;
import java.nio.charset.StandardCharsets;
import java.nio.file.InvalidPathException;
import java.nio.file.Path;
import java.time.DateTimeException;
import java.time.Duration;
import java.util.Arrays;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import picocli.CommandLine;
import picocli.CommandLine.HelpCommand;
import picocli.CommandLine.Model.OptionSpec;
import picocli.CommandLine.ParameterException;
import picocli.CommandLine.TypeConversionException;
import picocli.CommandLine.UnmatchedArgumentException;

/** The whole program behind the process: parses the arguments, runs the command, turns failures into messages and statuses. */
public final class CommandLineProgram {

    private static final Pattern NUMBER = Pattern.compile("\\d{1,9}");
    private static final Pattern DURATION = Pattern.compile("(\\d{1,6}) ?([smhd])?");

    /** The commands by name, in the order of the help. */
    private static final Map<String, Class<?>> COMMANDS = new LinkedHashMap<>();

    static {
        COMMANDS.put("demo", DemoCommand.class);
        COMMANDS.put("new", NewCommand.class);
        COMMANDS.put("draft", DraftCommand.class);
        COMMANDS.put("check", CheckCommand.class);
        COMMANDS.put("align", AlignCommand.class);
        COMMANDS.put("rehearse", RehearseCommand.class);
        COMMANDS.put("load", LoadCommand.class);
        COMMANDS.put("undo", UndoCommand.class);
        COMMANDS.put("show", ShowCommand.class);
        COMMANDS.put("history", HistoryCommand.class);
        COMMANDS.put("lineage", LineageCommand.class);
        COMMANDS.put("draw", DrawCommand.class);
        COMMANDS.put("compare", CompareCommand.class);
        COMMANDS.put("explain", ExplainCommand.class);
        COMMANDS.put("verify", VerifyCommand.class);
        COMMANDS.put("journal", JournalCommand.class);
        COMMANDS.put("set-aside", SetAsideCommand.class);
        COMMANDS.put("publish", PublishCommand.class);
        COMMANDS.put("tidy", TidyCommand.class);
        COMMANDS.put("vouch", VouchCommand.class);
        COMMANDS.put("schema", SchemaCommand.class);
        COMMANDS.put("completion", CompletionCommand.class);
        COMMANDS.put("manual", ManualCommand.class);
        COMMANDS.put("help", HelpCommand.class);
    }

    /** Commands that open a warehouse as soon as they have read the definitions. */
    private static final Set<String> OPENING = Set.of(
            "demo",
            "align",
            "rehearse",
            "load",
            "show",
            "history",
            "explain",
            "verify",
            "journal",
            "set-aside",
            "undo",
            "compare",
            "tidy");

    private final PrintStream out;
    private final PrintStream err;
    private final Map<String, String> environment;
    private final Path here;

    /** @param here the folder against which paths of the command line are resolved */
    public CommandLineProgram(PrintStream out, PrintStream err, Map<String, String> environment, Path here) {
        this.out = out;
        this.err = err;
        this.environment = environment;
        this.here = here;
    }

    /** Runs one command line and returns its exit status. */
    public int run(String... args) {
        if (Arrays.stream(args).noneMatch(OPENING::contains)
                || asksForHelp(args)
                || Arrays.asList(args).contains("completion")) {
            return execute(args);
        }
        Thread engine = Warehouses.makeReady();
        try {
            return execute(args);
        } finally {
            await(engine);
        }
    }

    /** A process must not end while a library is being loaded into it. */
    private static void await(Thread engine) {
        try {
            engine.join();
        } catch (InterruptedException interrupted) {
            Thread.currentThread().interrupt();
        }
    }

    private int execute(String... args) {
        RootCommand root = new RootCommand(new Context(out, err, environment, here));
        // commands take over the settings that are made when they are there
        CommandLine line = new CommandLine(root);
        named(args).forEach(line::addSubcommand);
        line.setOut(new PrintWriter(out, true, StandardCharsets.UTF_8))
                .setErr(new PrintWriter(err, true, StandardCharsets.UTF_8))
                .setCaseInsensitiveEnumValuesAllowed(true)
                .setUsageHelpWidth(80)
                .setUsageHelpAutoWidth(System.console() != null)
                .setParameterExceptionHandler(this::wrongUsage)
                .setExecutionExceptionHandler((failure, command, result) -> failed(failure, root, args));
        line.getSubcommands().values().forEach(command -> command.setUsageHelpWidth(80));
        if (asksForHelp(args)) {
            Examples.addTo(line);
        }
        line.registerConverter(Path.class, here::resolve);
        line.registerConverter(LoadDate.class, CommandLineProgram::loadDate);
        line.registerConverter(Duration.class, CommandLineProgram::duration);
        line.registerConverter(Long.class, CommandLineProgram::number);
        line.registerConverter(int.class, text -> Math.toIntExact(number(text)));
        return line.execute(args);
    }

    /** All commands, to be looked at rather than run. */
    static CommandLine everyCommand(Map<String, String> environment) {
        CommandLine line =
                new CommandLine(new RootCommand(new Context(System.out, System.err, environment, Path.of(""))));
        COMMANDS.values().forEach(line::addSubcommand);
        line.registerConverter(LoadDate.class, CommandLineProgram::loadDate);
        line.registerConverter(Duration.class, CommandLineProgram::duration);
        line.setCaseInsensitiveEnumValuesAllowed(true);
        return line;
    }

    private static boolean asksForHelp(String... args) {
        return Arrays.stream(args).anyMatch(Set.of("-h", "--help", "help")::contains);
    }

    /** The commands that the arguments name; all of them where they name none. What is not named need not be made ready. */
    private static Collection<Class<?>> named(String... args) {
        Map<String, Class<?>> named = new LinkedHashMap<>(COMMANDS);
        named.keySet().retainAll(Arrays.asList(args));
        return named.isEmpty() || named.containsKey("help") ? COMMANDS.values() : named.values();
    }

    private static Duration duration(String text) {
        Matcher form = DURATION.matcher(text);
        if (!form.matches()) {
            throw new TypeConversionException("\"" + text + "\" is no time such as 90s, 5m, 26h or 2d");
        }
        long amount = Long.parseLong(form.group(1));
        return switch (String.valueOf(form.group(2))) {
            case "m" -> Duration.ofMinutes(amount);
            case "h" -> Duration.ofHours(amount);
            case "d" -> Duration.ofDays(amount);
            default -> Duration.ofSeconds(amount);
        };
    }

    private static long number(String text) {
        if (!NUMBER.matcher(text).matches()) {
            throw new TypeConversionException("\"" + text + "\" is no whole number");
        }
        return Long.parseLong(text);
    }

    private static LoadDate loadDate(String text) {
        try {
            return LoadDate.parse(text);
        } catch (DateTimeException neither) {
            throw new TypeConversionException(
                    "\"" + text + "\" is neither a date such as 2026-03-01 nor a moment such as 2026-03-01T14:00");
        }
    }

    private int wrongUsage(ParameterException wrong, String[] args) {
        Output output = new Output(out, err);
        CommandLine command = wrong.getCommandLine();
        if (wrong instanceof UnmatchedArgumentException unmatched && command.getParent() == null) {
            String found = unmatched.getUnmatched().get(0);
            output.error("There is no command \"" + found + "\"; " + Nearest.hint(found, COMMANDS.keySet()));
        } else {
            output.error(
                    wrong instanceof UnmatchedArgumentException unmatched
                            ? unknown(unmatched, command)
                            : String.valueOf(wrong.getMessage()));
            output.aside("See: " + command.getCommandSpec().qualifiedName() + " --help");
        }
        return ExitStatus.USAGE;
    }

    private static String unknown(UnmatchedArgumentException wrong, CommandLine command) {
        String found = wrong.getUnmatched().get(0).replaceFirst("=.*", "");
        return found.startsWith("--")
                ? "There is no option \"" + found + "\"; "
                        + Nearest.hint(
                                found,
                                command.getCommandSpec().options().stream()
                                        .filter(option -> !option.hidden())
                                        .map(OptionSpec::longestName)
                                        .toList())
                : String.valueOf(wrong.getMessage());
    }

    private int failed(Exception failure, RootCommand root, String[] args) {
        Output output = new Output(out, err);
        if (failure instanceof DefinitionException wrong) {
            wrong.problems().forEach(problem -> output.error(problem.toString()));
        } else if (failure instanceof ZeitkammerException known) {
            output.error(known.getMessage());
        } else if (failure instanceof InvalidPathException path) {
            output.error("The path \"" + path.getInput().replace("\0", "␀") + "\" cannot be one: " + path.getReason());
        } else {
            output.error("This is a fault of the program, not yours: "
                    + Objects.requireNonNullElse(failure.getMessage(), "it said nothing more")
                    + "; run the command again with -v and"
                    + " report what it prints (" + String.join(" ", Arrays.asList(args)) + ")");
        }
        if (root.options().verbose()) {
            err.print(Secrets.stack(failure));
        }
        return statusOf(failure);
    }

    private static int statusOf(Exception failure) {
        if (failure instanceof DefinitionException || failure instanceof UsageException) {
            return ExitStatus.USAGE;
        }
        return failure instanceof GuardException ? ExitStatus.STOPPED : ExitStatus.FAILED;
    }
}
