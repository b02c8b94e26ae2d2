package dev.zeitkammer.lineage;

import dev.zeitkammer.calendar.CalendarLoad;
import dev.zeitkammer.calendar.MinutesLoad;
import dev.zeitkammer.definition.Attribute;
import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Dimension.Kind;
import dev.zeitkammer.definition.ExtraStep;
import dev.zeitkammer.definition.Fact;
import dev.zeitkammer.definition.Feed;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Lookup;
import dev.zeitkammer.definition.Lookup.Unmatched;
import dev.zeitkammer.definition.Measure;
import dev.zeitkammer.definition.MemberLookup;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.Publish;
import dev.zeitkammer.definition.SurrogateKey;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.lineage.Flow.Part;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/** Reads the lineage of a project off its definitions. */
public final class DefinitionLineage {

    private final Project project;
    private final Collected collected = new Collected();
    private final InputLineage inputs;

    private DefinitionLineage(Project project, Headers headers) {
        this.project = project;
        this.inputs = new InputLineage(project, headers, collected);
    }

    /** The lineage of everything that a project loads. */
    public static Lineage of(Project project, Headers headers) {
        DefinitionLineage lineage = new DefinitionLineage(project, headers);
        project.definitions()
                .forEach(definition -> lineage.collected.named(definition.name().text(), dataset(definition)));
        project.dimensions().forEach(lineage::dimension);
        project.facts().forEach(lineage::fact);
        project.definitions().forEach(lineage::around);
        return lineage.collected.done();
    }

    /** The table of the project that a name stands for, with or without a schema before it. */
    static Optional<Dataset> table(Project project, String name) {
        String bare = name.substring(name.lastIndexOf('.') + 1);
        return project.definitions().stream()
                .filter(definition -> definition.table().equalsIgnoreCase(bare))
                .findFirst()
                .map(DefinitionLineage::dataset);
    }

    static Dataset dataset(Definition definition) {
        return new Dataset(
                definition instanceof Dimension ? Dataset.Kind.DIMENSION : Dataset.Kind.FACT, definition.table());
    }

    private void dimension(Dimension dimension) {
        Dataset table = dataset(dimension);
        Field surrogate = collected.field(table, dimension.keyColumn(), surrogate(dimension));
        if (dimension.surrogate().take().isPresent()) {
            value(dimension.from(), dimension.surrogate().take().get(), surrogate);
        }
        if (dimension.hasMemberKey()) {
            Field member =
                    collected.field(table, dimension.memberKeyColumn(), "key that all versions of a member share");
            collected.flow(surrogate, member, Part.VALUE);
        }
        if (dimension.calendar().isPresent() || dimension.kind() == Kind.MINUTES) {
            computed(dimension, table);
        } else {
            business(dimension, table, surrogate);
            dimension.attributes().stream()
                    .filter(attribute -> dimension.kind() == Kind.MEMBERS)
                    .forEach(attribute -> attribute(dimension, table, attribute));
            others(dimension, table);
            dimension.lookups().forEach(lookup -> lookup(dimension, table, lookup));
        }
        audit(dimension, table);
        dimension
                .deletions()
                .when()
                .ifPresent(when -> dimension
                        .from()
                        .ifPresent(input -> collected.rule(
                                table,
                                "a member ends where " + InputLineage.oneLine(when),
                                inputs.expression(input, when))));
        if (dimension.deletions().absent()) {
            collected.rule(table, "a member ends that is not delivered", List.of());
        }
    }

    private static String surrogate(Dimension dimension) {
        if (dimension.kind() == Kind.CALENDAR) {
            return "surrogate key, the number yyyymmdd";
        }
        if (dimension.kind() == Kind.MINUTES) {
            return "surrogate key, the number hhmm";
        }
        return switch (dimension.surrogate().by()) {
            case SEQUENCE -> "surrogate key, counted on";
            case HASH -> "surrogate key, a hash";
            case TAKE ->
                "surrogate key: "
                        + dimension
                                .surrogate()
                                .take()
                                .map(InputLineage::oneLine)
                                .orElse("");
        };
    }

    private void value(Optional<Input> input, Word taken, Field to) {
        input.ifPresent(from -> collected.flow(inputs.taken(from, taken), to, Part.VALUE));
    }

    private void business(Dimension dimension, Dataset table, Field surrogate) {
        boolean isCombination = dimension.kind() == Kind.COMBINATION;
        for (Word key : dimension.key()) {
            Word taken = taken(dimension, key);
            Field column = collected.field(
                    table, key.text(), (isCombination ? "of the combination" : "business key") + expressed(key, taken));
            value(dimension.from(), taken, column);
            if (dimension.surrogate().by() != SurrogateKey.By.TAKE) {
                collected.flow(column, surrogate, Part.IDENTITY);
            }
        }
    }

    private static Word taken(Dimension dimension, Word key) {
        return dimension.attributes().stream()
                .filter(attribute -> dimension.kind() == Kind.COMBINATION
                        && attribute.name().text().equals(key.text()))
                .flatMap(attribute -> attribute.take().stream())
                .findFirst()
                .orElseGet(() -> dimension.taken().of(key));
    }

    /** The expression, where a column is not simply what is staged under its name. */
    private static String expressed(Word column, Word taken) {
        return taken.text().equalsIgnoreCase(column.text()) ? "" : ": " + InputLineage.oneLine(taken);
    }

    private void attribute(Dimension dimension, Dataset table, Attribute attribute) {
        Word taken = attribute.take().orElse(attribute.name());
        Field column = collected.field(
                table,
                attribute.name().text(),
                "attribute of " + attribute.change().word() + expressed(attribute.name(), taken));
        value(dimension.from(), taken, column);
        attribute
                .previous()
                .ifPresent(previous -> collected.flow(
                        column,
                        collected.field(table, previous.text(), "the value of " + attribute.name() + " before"),
                        Part.VALUE));
    }

    /** What {@code all-others} takes, where a delivery tells which columns there are. */
    private void others(Dimension dimension, Dataset table) {
        dimension
                .allOthers()
                .ifPresent(change -> dimension
                        .from()
                        .ifPresent(input -> inputs.header(input).orElse(List.of()).stream()
                                .filter(name -> !isNamed(dimension, name))
                                .forEach(name -> collected.flow(
                                        inputs.column(input, name),
                                        collected.field(
                                                table,
                                                name.toLowerCase(Locale.ROOT),
                                                "attribute of " + change.word() + ", all-others"),
                                        Part.VALUE))));
    }

    private static boolean isNamed(Dimension dimension, String staged) {
        Stream<String> lookedUp = dimension.lookups().stream()
                .flatMap(lookup -> lookup.lookup().match().stream())
                .map(Word::text);
        return Stream.of(
                        dimension.keyTaken().stream().map(Word::text),
                        dimension.attributes().stream()
                                .map(attribute -> attribute
                                        .take()
                                        .orElse(attribute.name())
                                        .text()),
                        dimension.attributes().stream()
                                .map(attribute -> attribute.name().text()),
                        dimension.history().effective().stream().map(Word::text),
                        lookedUp)
                .flatMap(names -> names)
                .anyMatch(staged::equalsIgnoreCase);
    }

    private void lookup(Dimension dimension, Dataset table, MemberLookup lookup) {
        String versions = lookup.followsNewest() ? ", newest version" : ", valid at the row's date";
        Field key = collected.field(
                table,
                lookup.column(),
                lookup.change().word() + ", key in "
                        + lookup.lookup().dimension().table()
                        + (lookup.lookup().dimension().hasHistory() ? versions : ""));
        dimension.from().ifPresent(input -> found(input, lookup.lookup(), List.of(key)));
        if (lookup.hierarchy()) {
            Dataset bridge = new Dataset(Dataset.Kind.VIEW, dimension.bridgeTable());
            collected.flow(key, collected.field(bridge, "ancestor_key", "bridge of the hierarchy"), Part.KEY);
        }
    }

    /** The columns that keys of a lookup stand in, and what decides them. */
    private void found(Input input, Lookup lookup, List<Field> keys) {
        Dimension other = lookup.dimension();
        Dataset table = dataset(other);
        for (int place = 0; place < keys.size(); place++) {
            String column = place == 0 ? other.keyColumn() : other.memberKeyColumn();
            collected.flow(new Field(table, column), keys.get(place), Part.VALUE);
        }
        for (int place = 0; place < lookup.match().size(); place++) {
            List<Field> matched = inputs.taken(input, lookup.match().get(place));
            keys.forEach(key -> collected.flow(matched, key, Part.KEY));
            if (lookup.unmatched() == Unmatched.PLACEHOLDER || isMadeByFacts(other)) {
                Field business = new Field(table, other.key().get(place).text());
                collected.flow(matched, business, isMadeByFacts(other) ? Part.VALUE : Part.PLACEHOLDER);
            }
        }
        lookup.asOf()
                .ifPresent(asOf ->
                        keys.forEach(key -> collected.flow(inputs.column(input, asOf.text()), key, Part.MOMENT)));
    }

    private static boolean isMadeByFacts(Dimension dimension) {
        return dimension.kind() == Kind.COMBINATION && dimension.from().isEmpty();
    }

    private void computed(Dimension dimension, Dataset table) {
        String made = dimension.kind() == Kind.MINUTES ? "made of the minutes of a day" : "made of the days";
        Collection<String> own = dimension.kind() == Kind.MINUTES ? MinutesLoad.names() : CalendarLoad.names(dimension);
        own.forEach(name -> collected.field(table, name, made));
        boolean bringsAttributes = dimension.attributes().stream()
                .anyMatch(attribute -> attribute.take().isEmpty());
        dimension.from().filter(input -> !bringsAttributes).ifPresent(input -> {
            Stream.of("is_holiday", "holiday_name")
                    .filter(own::contains)
                    .forEach(name -> collected.flow(
                            List.of(inputs.column(
                                    input, name.equals("is_holiday") ? CalendarLoad.DAY : CalendarLoad.NAME)),
                            new Field(table, name),
                            Part.VALUE));
        });
        for (Attribute attribute : dimension.attributes()) {
            Field column = collected.field(
                    table,
                    attribute.name().text(),
                    "attribute"
                            + attribute
                                    .take()
                                    .map(take -> ": " + InputLineage.oneLine(take))
                                    .orElse(""));
            if (attribute.take().isEmpty()) {
                value(dimension.from(), attribute.name(), column);
            } else {
                computed(dimension, table, attribute.take().get(), column, own);
            }
        }
    }

    private void computed(Dimension dimension, Dataset table, Word take, Field column, Collection<String> own) {
        ExpressionColumns.of(take.text())
                .ifPresentOrElse(
                        mentions -> mentions.forEach(mention -> {
                            if (own.contains(mention.column().toLowerCase(Locale.ROOT))) {
                                collected.flow(new Field(table, mention.column()), column, Part.VALUE);
                            } else {
                                dimension
                                        .from()
                                        .ifPresent(input -> collected.flow(
                                                inputs.column(input, mention.column()), column, Part.VALUE));
                            }
                        }),
                        () -> {
                            collected.unread(take, "the expression \"" + InputLineage.oneLine(take) + "\"");
                            own.forEach(name -> collected.flow(new Field(table, name), column, Part.VALUE));
                        });
    }

    private void audit(Dimension dimension, Dataset table) {
        boolean hasHistory = dimension.hasHistory();
        for (AuditColumn audit : AuditColumn.values()) {
            String meaning = switch (audit) {
                case VALID_FROM -> hasHistory ? "begin of the version" : "";
                case VALID_TO -> hasHistory ? "end of the version" : "";
                case IS_CURRENT -> hasHistory ? "whether the version is the newest" : "";
                case VERSION -> hasHistory ? "number of the version" : "";
                case LAST_STATED -> hasHistory && dimension.hasEffective() ? "last date that confirmed it" : "";
                case IS_DELETED -> "whether the member ended";
                case ROW_ORIGIN -> "delivered, placeholder or reserved";
                case INSERTED_AT, UPDATED_AT, INSERTED_BY, UPDATED_BY -> "stamp of the load";
            };
            if (!meaning.isEmpty()) {
                Field column = collected.field(table, dimension.conventions().column(audit), meaning);
                if (Stream.of(AuditColumn.VALID_FROM, AuditColumn.VALID_TO, AuditColumn.LAST_STATED)
                        .anyMatch(audit::equals)) {
                    dimension.history().effective().ifPresent(effective -> value(dimension.from(), effective, column));
                }
            }
        }
    }

    private void fact(Fact fact) {
        Dataset table = dataset(fact);
        fact.grain().stream()
                .filter(column -> fact.lookup(column.text()).isEmpty())
                .forEach(column -> stored(fact, table, column, "grain"));
        for (Lookup lookup : fact.lookups()) {
            String what = (fact.isGrain(lookup) ? "grain, " : "") + "key in "
                    + lookup.dimension().table()
                    + (lookup.dimension().hasHistory()
                            ? lookup.asOf()
                                    .map(asOf -> ", version valid at " + asOf)
                                    .orElse(", current version")
                            : "");
            List<Field> keys = new ArrayList<>(List.of(collected.field(table, lookup.keyColumn(), what)));
            lookup.memberColumn()
                    .ifPresent(member ->
                            keys.add(collected.field(table, member, "key that all versions of the member share")));
            if (!fact.isFed(lookup.role().text())) {
                found(fact.source(), lookup, keys);
            }
            feeding(fact, lookup.role()).forEach(feed -> found(feed.from(), lookup, keys));
        }
        fact.degenerate().forEach(column -> stored(fact, table, column, "degenerate"));
        fact.measures().forEach(measure -> measure(fact, table, measure));
        fact.deletions()
                .ifPresent(deletions -> collected.rule(
                        table,
                        "a fact is cancelled where " + InputLineage.oneLine(deletions.when()),
                        inputs.expression(fact.source(), deletions.when())));
        fact.replaces()
                .ifPresent(period -> collected.rule(
                        table,
                        "facts of a delivered " + period + " that are not delivered are removed",
                        List.of(inputs.column(fact.source(), period.text()))));
        for (Feed feed : fact.feeds()) {
            collected.rule(
                    table,
                    "fed by " + feed.from().name() + ": "
                            + feed.updates().stream().map(Word::text).collect(Collectors.joining(", ")),
                    feed.match().stream()
                            .flatMap(match -> inputs.taken(feed.from(), match).stream())
                            .toList());
        }
        if (fact.marksDeleted()) {
            collected.field(table, fact.conventions().column(AuditColumn.IS_DELETED), "whether the fact was cancelled");
        }
        AuditColumn.STAMPS.forEach(
                stamp -> collected.field(table, fact.conventions().column(stamp), "stamp of the load"));
    }

    private static List<Feed> feeding(Fact fact, Word name) {
        return fact.feeds().stream().filter(feed -> feed.writes(name.text())).toList();
    }

    private void stored(Fact fact, Dataset table, Word column, String what) {
        Word taken = fact.taken().of(column);
        Field field = collected.field(table, column.text(), what + expressed(column, taken));
        List<Feed> feeds = feeding(fact, column);
        if (feeds.isEmpty()) {
            collected.flow(inputs.taken(fact.source(), taken), field, Part.VALUE);
        }
        feeds.forEach(feed -> collected.flow(inputs.taken(feed.from(), taken), field, Part.VALUE));
    }

    private void measure(Fact fact, Dataset table, Measure measure) {
        Word taken = measure.take().orElse(measure.name());
        Field field = collected.field(table, measure.name().text(), "measure" + expressed(measure.name(), taken));
        List<Feed> feeds = feeding(fact, measure.name());
        if (feeds.isEmpty()) {
            collected.flow(inputs.taken(fact.source(), taken), field, Part.VALUE);
        }
        for (Feed feed : feeds) {
            collected.flow(inputs.taken(feed.from(), taken), field, Part.VALUE);
            inputs.stored(taken).forEach(name -> collected.flow(new Field(table, name), field, Part.VALUE));
        }
    }

    /** What stands around a table: views of it, files of it, steps before and after it. */
    private void around(Definition definition) {
        Dataset table = dataset(definition);
        List<Field> columns = List.copyOf(collected.columns(table));
        definition.publish().ifPresent(publish -> copies(published(definition, publish), columns, "published"));
        definition
                .knownView()
                .ifPresent(view -> copies(new Dataset(Dataset.Kind.VIEW, view.text()), columns, "as it was known"));
        if (definition instanceof Dimension dimension) {
            dimension
                    .views()
                    .current()
                    .ifPresent(view ->
                            copies(new Dataset(Dataset.Kind.VIEW, view.text()), columns, "of the current version"));
        }
        project.extra().stream()
                .filter(extra -> extra.anchor().equals(definition.name().text())
                        || extra.sql()
                                .filter(sql -> mentions(sql, definition.table()))
                                .isPresent())
                .forEach(extra -> collected.rule(table, extra(extra), List.of()));
    }

    private static boolean mentions(Word sql, String table) {
        return Stream.of(sql.text().split("[^\\p{L}\\p{N}_]+")).anyMatch(table::equalsIgnoreCase);
    }

    private static String extra(ExtraStep extra) {
        String what = extra.sql().map(InputLineage::oneLine).orElseGet(() -> String.join(" ", extra.command()));
        return "the step \"" + extra.name() + "\", " + extra.where() + ": " + what;
    }

    private static Dataset published(Definition definition, Publish publish) {
        return new Dataset(Dataset.Kind.PUBLISHED, publish.to().text().replace("{table}", definition.table()));
    }

    private void copies(Dataset copy, List<Field> columns, String meaning) {
        columns.forEach(column -> collected.flow(column, collected.field(copy, column.name(), meaning), Part.VALUE));
    }
}
