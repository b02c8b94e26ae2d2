package dev.zeitkammer.profile;

import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Dimension.Kind;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.SqlType;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;

/** A first definition of a fact: its grain, lookups into the dimensions that the project has, and measures. */
final class FactDraft extends Draft {

    private static final int LONGEST_FLAG = 3;

    private final Set<String> placed = new HashSet<>();
    private final Set<String> roles = new HashSet<>();
    private final List<Line> lookups = new ArrayList<>();

    FactDraft(Project project, Profile profile, String name, List<String> from) {
        super(project, profile, name, from);
    }

    private record Line(String content, String comment) {}

    @Override
    String written() {
        head("fact");
        List<String> grain =
                profile().keys().isEmpty() ? notMeasured() : profile().keys().get(0);
        text().line("grain: " + DraftText.list(grain), keyRemark(grain, Optional.empty()));
        placed.addAll(grain);
        members();
        days();
        minutes();
        combinations();
        if (!lookups.isEmpty()) {
            text().line("lookups:");
            lookups.forEach(line -> text().line(line.content(), line.comment()));
        }
        List<ColumnProfile> rest = profile().columns().stream()
                .filter(column -> !placed.contains(column.name()))
                .toList();
        degenerates(rest.stream().filter(column -> !isAmount(column)).toList());
        measures(rest.stream().filter(FactDraft::isAmount).toList());
        return text().toString();
    }

    private List<String> notMeasured() {
        List<String> columns = profile().columns().stream()
                .filter(column -> !isAmount(column))
                .map(ColumnProfile::name)
                .toList();
        return columns.isEmpty() ? List.of(profile().columns().get(0).name()) : columns;
    }

    private void members() {
        Optional<String> moment = moment();
        for (ColumnProfile column : profile().columns()) {
            String dimension = profile().members().get(column.name());
            if (dimension != null) {
                Dimension found = (Dimension) project().definition(dimension);
                String role = roles.add(dimension) ? dimension : roleOf(column.name());
                String asOf =
                        found.hasHistory() && moment.isPresent() ? ", as-of: " + DraftText.scalar(moment.get()) : "";
                lookup(
                        role,
                        "{dimension: " + dimension + ", match: {"
                                + DraftText.scalar(found.key().get(0).text()) + ": "
                                + DraftText.scalar(column.name()) + "}" + asOf + "}",
                        "values of " + column.name() + " look like keys of " + dimension
                                + (asOf.isEmpty() ? "" : "; the version valid on " + moment.get()));
                placed.add(column.name());
            }
        }
    }

    /** The date of the fact: one that is called like it, or else the first. */
    private Optional<String> moment() {
        return profile().columns().stream()
                .filter(column -> column.type().isMoment() && column.nulls() == 0)
                .map(ColumnProfile::name)
                .max(Comparator.comparing(column -> column.startsWith(name())));
    }

    private void lookup(String role, String details, String comment) {
        lookups.add(new Line("  " + DraftText.scalar(role) + ":" + (details.isEmpty() ? "" : " " + details), comment));
    }

    private void days() {
        calendar(Kind.CALENDAR).ifPresent(calendar -> {
            for (ColumnProfile column : profile().columns()) {
                if (column.type().equals(SqlType.DATE)) {
                    lookup(
                            roleOf(column.name()),
                            "{dimension: " + calendar + ", match: " + DraftText.scalar(column.name()) + "}",
                            "dates from " + column.least() + " to " + column.greatest());
                    placed.add(column.name());
                } else if (column.type().equals(SqlType.TIMESTAMP)) {
                    lookup(
                            roleOf(column.name()) + "_day",
                            "{dimension: " + calendar + ", match: {day: "
                                    + DraftText.quoted("cast(\"" + column.name().replace("\"", "\"\"") + "\" as date)")
                                    + "}}",
                            "the day of " + column.name());
                }
            }
        });
    }

    private void minutes() {
        for (ColumnProfile column : profile().columns()) {
            if (column.type().equals(SqlType.TIME)) {
                calendar(Kind.MINUTES).ifPresent(clock -> {
                    lookup(
                            roleOf(column.name()),
                            "{dimension: " + clock + ", match: " + DraftText.scalar(column.name()) + "}",
                            "times of day from " + column.least() + " to " + column.greatest());
                    placed.add(column.name());
                });
            }
        }
    }

    /** Dimensions of flags, all of which are delivered here. */
    private void combinations() {
        for (Dimension dimension : project().dimensions()) {
            List<String> attributes = dimension.attributes().stream()
                    .map(attribute -> attribute.name().text())
                    .toList();
            boolean isHere = dimension.kind() == Kind.COMBINATION
                    && profile().columns().stream()
                            .map(ColumnProfile::name)
                            .toList()
                            .containsAll(attributes)
                    && attributes.stream().noneMatch(placed::contains);
            if (isHere) {
                String name = dimension.name().text();
                boolean isFree = roles.add(name);
                lookup(
                        isFree ? name : roleOf(name),
                        isFree ? "" : "{dimension: " + name + "}",
                        String.join(", ", attributes) + ": one key for each combination of flags");
                placed.addAll(attributes);
            }
        }
    }

    private Optional<String> calendar(Kind kind) {
        return project().dimensions().stream()
                .filter(dimension -> dimension.kind() == kind)
                .map(Dimension::name)
                .map(Word::text)
                .findFirst();
    }

    private void degenerates(List<ColumnProfile> stored) {
        if (stored.isEmpty()) {
            return;
        }
        List<String> flags = flags(stored);
        List<String> remarks = new ArrayList<>();
        remarks.add("stored as they are; what describes a member belongs into a dimension");
        if (flags.size() > 1) {
            remarks.add(String.join(", ", flags) + " are flags: a dimension of kind: combination would hold them");
        }
        stored.stream()
                .filter(column -> column.type().equals(SqlType.TIME))
                .findFirst()
                .ifPresent(time -> remarks.add(
                        time.name() + " is a time of day: a calendar with grain: minute would have its hours"));
        text().line(
                        "degenerate: "
                                + DraftText.list(
                                        stored.stream().map(ColumnProfile::name).toList()),
                        String.join("; ", remarks));
    }

    private void measures(List<ColumnProfile> amounts) {
        if (!amounts.isEmpty()) {
            text().line("measures:");
            amounts.forEach(column -> text().line(
                            "  " + DraftText.scalar(column.name()) + ": " + DraftText.typeName(column.type()),
                            column.distinct() == 0 ? "" : column.least() + " to " + column.greatest()));
        }
    }

    private String roleOf(String column) {
        String role = column.toLowerCase(Locale.ROOT).replaceFirst("_(on|at|date|time|no|nr|id|code|key)$", "");
        String free = role;
        for (int number = 2; !roles.add(free); number++) {
            free = role + "_" + number;
        }
        return free;
    }

    /** Columns that say yes or no, each in two values. */
    static List<String> flags(List<ColumnProfile> columns) {
        return columns.stream()
                .filter(column -> column.type().equals(SqlType.BOOLEAN)
                        || column.type().isText() && column.distinct() == 2 && column.longest() <= LONGEST_FLAG)
                .map(ColumnProfile::name)
                .toList();
    }

    /** Whether a column holds what can be summed up. */
    static boolean isAmount(ColumnProfile column) {
        return switch (column.type().kind()) {
            case SMALLINT, INTEGER, BIGINT, DECIMAL, REAL, DOUBLE -> !Guess.isKeyName(column.name());
            case BOOLEAN, DATE, TIMESTAMP, TIME, VARCHAR -> false;
        };
    }
}
