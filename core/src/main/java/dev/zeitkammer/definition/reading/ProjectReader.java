package dev.zeitkammer.definition.reading;

import dev.zeitkammer.definition.Conventions;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Events;
import dev.zeitkammer.definition.ExtraStep;
import dev.zeitkammer.definition.Fact;
import dev.zeitkammer.definition.KeptImages;
import dev.zeitkammer.definition.MemberLookup;
import dev.zeitkammer.definition.Nearest;
import dev.zeitkammer.definition.Place;
import dev.zeitkammer.definition.Problems;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.Settings;
import dev.zeitkammer.definition.UsageException;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.definition.check.DefinitionCheck;
import dev.zeitkammer.definition.check.LoadOrder;
import dev.zeitkammer.engine.DatabaseAddress;
import dev.zeitkammer.engine.OwnFolder;
import dev.zeitkammer.engine.Warehouses;
import dev.zeitkammer.engine.ZeitkammerException;
import java.io.IOException;
import java.math.BigDecimal;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Reads a whole project and reports everything that is wrong with it in one go. */
public final class ProjectReader {

    static final Pattern MEMORY = Pattern.compile("[1-9]\\d{0,5} ?[MG]B");
    static final Pattern EVERY = Pattern.compile("every ([1-9]\\d{0,5}) loads?");
    private static final String DEFAULT_WAREHOUSE = "local";
    private static final String WAREHOUSE = "warehouse";
    private static final String CLUSTER = "jdbc:hive2:";
    private static final String DEFAULT_URL = "jdbc:duckdb:warehouse.duckdb";

    private final Path folder;
    private final Variables variables;
    private final Problems problems = new Problems();

    private ProjectReader(Path folder, Variables variables) {
        this.folder = folder.toAbsolutePath().normalize();
        this.variables = variables;
    }

    /**
     * Reads the project in a folder.
     *
     * @param environment the variables that {@code ${NAME}} may take
     * @throws DefinitionException when anything is wrong in any file, with all of it
     */
    public static Project read(Path folder, Map<String, String> environment) {
        return new ProjectReader(folder, Variables.of(environment)).read();
    }

    /**
     * Reads the project in a folder that nobody has vouched for: variables stay as they are written, and what is beyond the folder
     * is not opened.
     *
     * @throws DefinitionException when anything is wrong in any file, with all of it
     */
    public static Project readAlone(Path folder) {
        return new ProjectReader(folder, Variables.withheld()).read();
    }

    private Project read() {
        if (!Files.isRegularFile(folder.resolve(Project.FILE))) {
            throw new UsageException("There is no " + Project.FILE + " in " + folder
                    + "; change to a project's folder, name one with -p, or make one with: zeitkammer new DIR");
        }
        Optional<Node.Mapping> document = document(folder.resolve(Project.FILE));
        Optional<Settings> settings = document.map(this::settings);
        InputNames inputs = inputs(settings.map(Settings::databases).orElse(Map.of()));
        Conventions conventions = settings.map(Settings::conventions).orElse(Conventions.STANDARD);
        Optional<BigDecimal> limit = settings.flatMap(Settings::setAsideLimit);
        TermsReader terms = new TermsReader(problems, inputs, conventions, limit);
        List<Dimension> dimensions = dimensions(new DimensionReader(problems, inputs, terms));
        List<Fact> facts = facts(new FactReader(problems, inputs, byName(dimensions), terms));
        LoadOrder order = new LoadOrder(problems).knowing(dimensions).knowing(facts);
        Map<String, List<String>> follows = order.follows();
        List<Dimension> orderedDimensions = order.of(dimensions);
        List<Fact> orderedFacts = order.of(facts);
        inputs.all();
        DefinitionCheck check = new DefinitionCheck(problems);
        check.check(dimensions, facts);
        check.inputs(inputs.all(), dimensions, facts);
        List<ExtraStep> extra = document.flatMap(
                        mapping -> Section.ofNames(mapping, problems).node("extra"))
                .map(node -> new ExtraReader(problems, names(dimensions, facts)).read(node))
                .orElse(List.of());
        problems.throwIfAny();
        Settings known = settings.orElseThrow();
        return new Project(
                folder, known, extra, inputs.all(), orderedDimensions, orderedFacts, follows, variables.notPutIn());
    }

    private Settings settings(Node.Mapping mapping) {
        Section section = Section.of(mapping, ProjectForms.PROJECT, problems);
        String name = section.required("project", "the project's name")
                .map(Word::text)
                .orElse("");
        Map<String, DatabaseAddress> warehouses = section.mapping("warehouses")
                .map(below -> addresses(below, WAREHOUSE))
                .orElseGet(Map::of);
        if (warehouses.isEmpty()) {
            warehouses = Map.of(
                    DEFAULT_WAREHOUSE, new DatabaseAddress(DEFAULT_WAREHOUSE, DEFAULT_URL, null, null, null, null));
        }
        String use = use(section, warehouses);
        Conventions conventions = section.mapping("conventions")
                .map(new ConventionsReader(problems)::ofProject)
                .orElse(Conventions.STANDARD);
        Map<String, DatabaseAddress> databases = section.mapping("databases")
                .map(below -> addresses(below, "database"))
                .orElseGet(Map::of);
        Optional<String> memory = section.word("memory").filter(this::isMemory).map(Word::text);
        KeptImages images = ImagesReader.read(section).orElse(KeptImages.ALL);
        int tidyEvery = section.word("tidy").map(this::every).orElse(0);
        return new Settings(
                name,
                warehouses,
                use,
                databases,
                memory,
                conventions,
                images,
                tidyEvery,
                section.mapping("events").flatMap(this::events),
                DemandsReader.limit(section),
                section.choice("sealed", Settings.Sealed.class),
                section.mapping("metrics")
                        .flatMap(each -> Section.of(each, ProjectForms.METRICS, problems)
                                .required("to", "a file, such as metrics.txt")));
    }

    private Optional<Events> events(Node.Mapping mapping) {
        Section section = Section.of(mapping, ProjectForms.EVENTS, problems);
        return section.required("to", "a file such as events.jsonl, or an address that begins with http:// or https://")
                .map(to -> new Events(to, section.word("key").map(Word::text)));
    }

    private String use(Section section, Map<String, DatabaseAddress> warehouses) {
        Optional<Word> use = section.word("use");
        if (use.isPresent() && !warehouses.containsKey(use.get().text())) {
            problems.add(
                    use.get().place(),
                    "there is no warehouse \"" + use.get() + "\"; "
                            + Nearest.hint(use.get().text(), warehouses.keySet()));
        }
        return use.map(Word::text)
                .orElseGet(() -> warehouses.keySet().iterator().next());
    }

    private boolean isMemory(Word word) {
        boolean valid = MEMORY.matcher(word.text()).matches();
        if (!valid) {
            problems.malformed(word.place(), "\"memory\" is \"" + word + "\"; expected a size such as 800MB or 4GB");
        }
        return valid;
    }

    private int every(Word word) {
        Matcher every = EVERY.matcher(word.text());
        if (!every.matches()) {
            problems.malformed(
                    word.place(), "\"tidy\" is \"" + word + "\"; expected a number of loads such as every 10 loads");
            return 0;
        }
        return Integer.parseInt(every.group(1));
    }

    private Map<String, DatabaseAddress> addresses(Node.Mapping mapping, String what) {
        Map<String, DatabaseAddress> addresses = new LinkedHashMap<>();
        Section all = Section.ofNames(mapping, problems);
        for (Node.Entry entry : all.entries()) {
            String name = entry.keyword().text();
            all.mappingOf(entry.value(), "the " + what + " \"" + name + "\"").ifPresent(details -> {
                Section section = Section.of(
                        details, what.equals(WAREHOUSE) ? ProjectForms.WAREHOUSE : ProjectForms.DATABASE, problems);
                if (section.has("password") && section.has("password-file")) {
                    problems.add(section.placeOf("password-file"), "there is a \"password\" too; expected one of them");
                }
                String url = section.required("url", "a JDBC URL such as " + DEFAULT_URL)
                        .map(this::supportedUrl)
                        .orElse("");
                addresses.put(
                        name,
                        opened(
                                new DatabaseAddress(
                                        name,
                                        url,
                                        section.word("user").map(Word::text).orElse(null),
                                        section.word("password").map(Word::text).orElse(null),
                                        section.word("password-file")
                                                .map(Word::text)
                                                .orElse(null),
                                        section.word("schema").map(Word::text).orElse(null),
                                        what.equals(WAREHOUSE) ? cluster(section, url) : null,
                                        false),
                                what));
            });
        }
        return addresses;
    }

    private DatabaseAddress opened(DatabaseAddress address, String what) {
        boolean isOwn = what.equals(WAREHOUSE) && Warehouses.isWithin(address, folder);
        return variables.areWithheld() && !isOwn ? address.withheld() : address;
    }

    /** What only a cluster needs, and does need. */
    private DatabaseAddress.@Nullable Cluster cluster(Section section, String url) {
        if (!url.startsWith(CLUSTER)) {
            Stream.of("catalog", "exchange")
                    .filter(section::has)
                    .forEach(word -> problems.add(
                            section.placeOf(word),
                            "\"" + word + "\" is for a warehouse on a cluster, with a URL that begins with "
                                    + CLUSTER));
            return null;
        }
        return new DatabaseAddress.Cluster(
                section.required("catalog", "the catalog of the cluster that holds the tables, such as dw")
                        .map(Word::text)
                        .orElse(null),
                section.required("exchange", "a folder that this machine and the cluster both see, for staged rows")
                        .map(Word::text)
                        .orElse(null));
    }

    private String supportedUrl(Word url) {
        if (!url.text().startsWith("jdbc:") && !url.text().contains("${")) {
            problems.malformed(url.place(), "\"" + url + "\" is not a JDBC URL; expected one such as " + DEFAULT_URL);
        }
        return url.text();
    }

    private InputNames inputs(Map<String, DatabaseAddress> databases) {
        InputNames inputs = new InputNames(problems, databases, variables.areWithheld());
        documents("inputs").forEach(inputs::add);
        return inputs;
    }

    private List<Dimension> dimensions(DimensionReader reader) {
        List<Dimension> read = new ArrayList<>();
        List<Node.Mapping> documents = new ArrayList<>();
        for (Node.Mapping document : documents("dimensions")) {
            reader.read(document).ifPresent(found -> {
                read.add(found);
                documents.add(document);
            });
        }
        Map<String, Dimension> byName = byName(read);
        List<Dimension> complete = new ArrayList<>();
        for (int index = 0; index < read.size(); index++) {
            LookupReader lookups = new LookupReader(problems, byName);
            List<MemberLookup> found = memberLookups(lookups, read.get(index), documents.get(index));
            complete.add(read.get(index).with(found, lookups.described()));
        }
        return complete;
    }

    private List<MemberLookup> memberLookups(LookupReader reader, Dimension dimension, Node.Mapping document) {
        return dimension.kind() != Dimension.Kind.MEMBERS
                ? List.of()
                : Section.ofNames(document, problems)
                        .mapping("lookups")
                        .map(mapping -> reader.ofDimension(dimension, mapping))
                        .orElse(List.of());
    }

    /** The names by which tables can be named: their own, and those of their definitions. */
    private static Map<String, String> names(List<Dimension> dimensions, List<Fact> facts) {
        Map<String, String> names = new LinkedHashMap<>();
        Stream.<Definition>concat(dimensions.stream(), facts.stream()).forEach(definition -> {
            names.putIfAbsent(definition.name().text(), definition.name().text());
            names.putIfAbsent(definition.table(), definition.name().text());
        });
        return names;
    }

    private static Map<String, Dimension> byName(Collection<Dimension> dimensions) {
        Map<String, Dimension> byName = new LinkedHashMap<>();
        dimensions.forEach(dimension -> byName.putIfAbsent(dimension.name().text(), dimension));
        return byName;
    }

    private List<Fact> facts(FactReader reader) {
        return documents("facts").stream()
                .flatMap(document -> reader.read(document).stream())
                .toList();
    }

    private List<Node.Mapping> documents(String subfolder) {
        List<Node.Mapping> documents = new ArrayList<>();
        for (Path file : yamlFiles(folder.resolve(subfolder))) {
            document(file).ifPresent(documents::add);
        }
        return documents;
    }

    private Optional<Node.Mapping> document(Path file) {
        String shown = folder.relativize(file).toString().replace('\\', '/');
        if (variables.areWithheld() && !OwnFolder.holds(folder, file)) {
            problems.add(
                    new Place(shown, 1, 1),
                    "this file is a link that leads out of the project's folder, and nobody has vouched for the project yet; see:"
                            + " zeitkammer vouch");
            return Optional.empty();
        }
        return new YamlReader(shown, variables, problems).read(file);
    }

    private static List<Path> yamlFiles(Path folder) {
        if (!Files.isDirectory(folder)) {
            return List.of();
        }
        try (Stream<Path> files = Files.walk(folder)) {
            return files.filter(file -> file.getFileName().toString().matches(".*\\.ya?ml"))
                    .filter(Files::isRegularFile)
                    .sorted()
                    .toList();
        } catch (IOException unreadable) {
            throw new ZeitkammerException(
                    "Cannot read the folder " + folder + ": " + unreadable.getMessage(), unreadable);
        }
    }
}
