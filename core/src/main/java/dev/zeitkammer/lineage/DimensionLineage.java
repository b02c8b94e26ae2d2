package dev.zeitkammer.lineage;

import dev.zeitkammer.calendar.CalendarLoad;
import dev.zeitkammer.calendar.MinutesLoad;
import dev.zeitkammer.definition.Attribute;
import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Dimension.Kind;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.MemberLookup;
import dev.zeitkammer.definition.SurrogateKey;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.lineage.Flow.Part;
import java.util.Collection;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.stream.Stream;

/** Reads the lineage of a dimension's columns off its definition. */
final class DimensionLineage {

    private final Collected collected;
    private final InputLineage inputs;

    DimensionLineage(Collected collected, InputLineage inputs) {
        this.collected = collected;
        this.inputs = inputs;
    }

    void read(Dimension dimension) {
        Dataset table = DefinitionLineage.dataset(dimension);
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
        if (!dimension.isOthers()) {
            audit(dimension, table);
        }
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
        if (dimension.isOthers()) {
            return "surrogate key, of those who load it";
        }
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

    /** The value of a staged column, whatever its name looks like. */
    private void staged(Optional<Input> input, Word name, Field to) {
        input.ifPresent(from -> collected.flow(List.of(inputs.column(from, name.text())), to, Part.VALUE));
    }

    private void business(Dimension dimension, Dataset table, Field surrogate) {
        boolean isCombination = dimension.kind() == Kind.COMBINATION;
        for (Word key : dimension.key()) {
            Word taken = taken(dimension, key);
            Field column = collected.field(
                    table,
                    key.text(),
                    (isCombination ? "of the combination" : "business key") + InputLineage.expressed(key, taken));
            value(dimension.from(), taken, column);
            if (dimension.surrogate().by() != SurrogateKey.By.TAKE && !dimension.isOthers()) {
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

    private void attribute(Dimension dimension, Dataset table, Attribute attribute) {
        Word taken = attribute.take().orElse(attribute.name());
        Field column = collected.field(
                table,
                attribute.name().text(),
                "attribute of " + attribute.change().word() + InputLineage.expressed(attribute.name(), taken));
        if (attribute.take().isPresent()) {
            value(dimension.from(), taken, column);
        } else {
            staged(dimension.from(), attribute.name(), column);
        }
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
        dimension
                .from()
                .ifPresent(input -> new LookupLineage(collected, inputs).found(input, lookup.lookup(), List.of(key)));
        if (lookup.hierarchy()) {
            Dataset bridge = new Dataset(Dataset.Kind.VIEW, dimension.bridgeTable());
            collected.flow(key, collected.field(bridge, "ancestor_key", "bridge of the hierarchy"), Part.KEY);
        }
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
                staged(dimension.from(), attribute.name(), column);
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
}
