package dev.zeitkammer.adopt;

import static dev.zeitkammer.profile.DraftText.list;
import static dev.zeitkammer.profile.DraftText.quoted;
import static dev.zeitkammer.profile.DraftText.scalar;

import dev.zeitkammer.adopt.StandingDimension.Attribute;
import dev.zeitkammer.adopt.StandingDimension.Found;
import dev.zeitkammer.adopt.StandingFact.Role;
import dev.zeitkammer.adopt.StandingTable.Held;
import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Dimension.Kind;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Counted;
import dev.zeitkammer.profile.ColumnProfile;
import dev.zeitkammer.profile.DraftText;
import dev.zeitkammer.profile.Drafting.Delivered;
import java.util.ArrayList;
import java.util.EnumMap;
import java.util.EnumSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/** The text of a definition that goes on with a table that others made; a comment says what each guess is built on. */
final class AdoptedDraft {

    private final Project project;
    private final String name;
    private final StandingTable table;
    private final Optional<Delivered> delivered;
    private final DraftText text = new DraftText();

    /** @param delivered what is delivered to the table from now on; where that is not known, names are taken to be the same */
    AdoptedDraft(Project project, String name, StandingTable table, Optional<Delivered> delivered) {
        this.project = project;
        this.name = name;
        this.table = table;
        this.delivered = delivered;
    }

    boolean hasEffective() {
        return delivered.flatMap(rows -> rows.profile().effective()).isPresent();
    }

    String dimension(StandingDimension dimension) {
        head("dimension");
        text.line(
                "surrogate: {column: " + scalar(dimension.surrogate()) + "}",
                "new keys go on after the highest that stands");
        columnsOf("key", dimension.key(), dimension.hasVersions() ? "one row for each beginning" : "one row each");
        attributes(dimension.attributes());
        history(dimension);
        if (dimension.hasReservedZero()) {
            text.line(
                    "reserved: {unknown: {key: 0}}",
                    "the row with the key 0 stands for nobody; where it is a member, leave this out");
        }
        audit(dimension);
        return text.toString();
    }

    private void head(String kind) {
        text.line("# Drafted from the table " + table.name() + " as it stands: " + Counted.rows(table.rows()) + ", "
                + table.columns().size() + " columns. What stands behind a # is a guess to look at.");
        text.line(kind + ": " + scalar(name));
        text.line("table: " + scalar(table.name()));
        text.line("standing: true", "others made it: what it lacks is added, what stands is not changed");
        if (delivered.isEmpty()) {
            text.line(
                    "from: {files: " + quoted("deliveries/{date}/" + name + "*.csv") + "}",
                    "what is delivered: put your own here");
            return;
        }
        List<String> lines = delivered.get().lines();
        if (lines.size() == 1 && !lines.get(0).contains(":")) {
            text.line("from: " + lines.get(0));
        } else {
            text.line("from:");
            lines.forEach(line -> text.line("  " + line));
        }
    }

    /** The staged column that a column is likely taken from; empty where none is like it. */
    private Optional<String> staged(String column) {
        if (delivered.isEmpty()) {
            return Optional.of(column);
        }
        List<ColumnProfile> columns = delivered.get().profile().columns();
        return columns.stream()
                .map(ColumnProfile::name)
                .filter(column::equalsIgnoreCase)
                .findFirst()
                .or(() -> columns.stream()
                        .map(ColumnProfile::name)
                        .filter(each -> Likeness.areAlike(column, each, name))
                        .findFirst());
    }

    private static boolean isSame(String column, String staged) {
        return column.equalsIgnoreCase(staged);
    }

    /** Columns that must be delivered, in a list where they have their staged names, and with what they are taken from otherwise. */
    private void columnsOf(String keyword, List<String> columns, String why) {
        boolean asNamed = columns.stream()
                .allMatch(column ->
                        staged(column).filter(each -> isSame(column, each)).isPresent());
        if (asNamed) {
            text.line(keyword + ": " + list(columns), why);
            return;
        }
        List<String> pairs = columns.stream()
                .map(column -> scalar(column) + ": " + scalar(staged(column).orElse(column)))
                .toList();
        boolean anyMissing = columns.stream().anyMatch(column -> staged(column).isEmpty());
        text.line(
                keyword + ": {" + String.join(", ", pairs) + "}",
                why + (anyMissing ? "; not all are delivered under a name like it: say what they are taken from" : ""));
    }

    private void attributes(List<Attribute> attributes) {
        List<String> missing = new ArrayList<>();
        List<Attribute> delivering = new ArrayList<>();
        for (Attribute attribute : attributes) {
            if (staged(attribute.column().name()).isPresent()) {
                delivering.add(attribute);
            } else {
                missing.add(attribute.column().name());
            }
        }
        text.line(delivering.isEmpty() ? "attributes: {}" : "attributes:");
        for (Attribute attribute : delivering) {
            String column = attribute.column().name();
            String staged = staged(column).orElseThrow();
            String type = "type " + (attribute.isVersioned() ? "2" : "1");
            text.line(
                    "  " + scalar(column) + ": "
                            + (isSame(column, staged)
                                    ? type
                                    : "{" + type.replace("type ", "type: ") + ", take: "
                                            + quoted('"' + staged.replace("\"", "\"\"") + '"') + "}"),
                    attribute.why());
        }
        undelivered(missing);
    }

    private void undelivered(List<String> missing) {
        if (!missing.isEmpty()) {
            text.line(
                    "# Nothing is delivered under a name like these; they stay as they are, and new rows have none of them: "
                            + String.join(", ", missing));
        }
    }

    private void history(StandingDimension dimension) {
        if (!dimension.hasVersions()) {
            return;
        }
        List<String> said = new ArrayList<>();
        delivered
                .flatMap(rows -> rows.profile().effective())
                .ifPresent(column -> said.add("effective: " + scalar(column)));
        if (!dimension.openEnd().isEmpty() && !dimension.openEnd().equals(openEnd())) {
            said.add("open-end: " + dimension.openEnd());
        }
        if (dimension.tellsItsEnds()
                && dimension.isInclusive() != project.settings().conventions().inclusive()) {
            said.add("valid-to: " + (dimension.isInclusive() ? "inclusive" : "exclusive"));
        }
        if (!said.isEmpty()) {
            text.line("history: {" + String.join(", ", said) + "}", dimension.whyInclusive());
        } else {
            text.line("# Versions end as those of the project do: " + dimension.whyInclusive());
        }
        if (dimension.ended() > 0) {
            text.line(
                    "# " + dimension.ended() + (dimension.ended() == 1 ? " member has" : " members have")
                            + " ended; a row of one brings it back. Where a row tells that its member ends, say deletions: {when: …}.");
        }
    }

    private String openEnd() {
        return project.settings().conventions().openEnd().map(String::valueOf).orElse("none");
    }

    private void audit(StandingDimension dimension) {
        Map<AuditColumn, String> values = new EnumMap<>(AuditColumn.class);
        Map<AuditColumn, String> reasons = new EnumMap<>(AuditColumn.class);
        dimension.audit().forEach((audit, found) -> {
            values.put(audit, value(found));
            reasons.put(audit, found.why());
        });
        columns(EnumSet.allOf(AuditColumn.class), values, reasons);
    }

    /** The names of audit columns that are not the project's: those that stand, and those whose names others have taken. */
    private void columns(Set<AuditColumn> kept, Map<AuditColumn, String> standing, Map<AuditColumn, String> reasons) {
        List<AuditColumn> said = kept.stream()
                .filter(audit -> !standing.getOrDefault(audit, added(audit))
                        .equals(project.settings().conventions().column(audit)))
                .toList();
        if (!said.isEmpty()) {
            text.line("columns:");
        }
        for (AuditColumn audit : said) {
            text.line(
                    "  " + audit.columnName() + ": " + standing.getOrDefault(audit, added(audit)),
                    reasons.getOrDefault(
                            audit,
                            "the table has a column "
                                    + project.settings().conventions().column(audit) + " that holds something else"));
        }
    }

    /** The name that an audit column gets when it is added to the table: the project's, unless the table has such a column. */
    String added(AuditColumn audit) {
        String free = project.settings().conventions().column(audit);
        while (table.column(free).isPresent()) {
            free += "_audit";
        }
        return free;
    }

    private static String value(Found found) {
        return found.yes() != null
                ? "{column: " + scalar(found.column()) + ", true: " + quoted(found.yes()) + ", false: "
                        + quoted(String.valueOf(found.no())) + "}"
                : scalar(found.column());
    }

    String fact(StandingFact fact) {
        head("fact");
        columnsOf("grain", fact.grain(), "tells all rows apart");
        if (!fact.roles().isEmpty()) {
            text.line("lookups:");
            fact.roles().forEach(this::role);
        }
        List<String> degenerates = delivering(fact.degenerates());
        if (!degenerates.isEmpty()) {
            columnsOf("degenerate", degenerates, "stored as they are");
        }
        measures(fact);
        List<String> missing = new ArrayList<>();
        List<Held> rest = new ArrayList<>(fact.degenerates());
        rest.addAll(fact.measures());
        rest.stream().map(Held::name).filter(column -> staged(column).isEmpty()).forEach(missing::add);
        undelivered(missing);
        fact.own()
                .ifPresent(
                        column -> text.line(
                                "# " + column
                                        + " counts the rows of the table, and is not loaded: the database must give it, or let it be null"));
        Map<AuditColumn, String> values = new EnumMap<>(AuditColumn.class);
        Map<AuditColumn, String> reasons = new EnumMap<>(AuditColumn.class);
        fact.audit().forEach((audit, column) -> {
            values.put(audit, scalar(column));
            reasons.put(audit, "by its name");
        });
        columns(AuditColumn.STAMPS, values, reasons);
        return text.toString();
    }

    private void role(Role role) {
        Dimension dimension = role.dimension();
        List<String> details = new ArrayList<>();
        if (!role.name().equals(dimension.name().text())) {
            details.add("dimension: " + scalar(dimension.name().text()));
        }
        if (!role.column().name().equals(role.name() + "_key")) {
            details.add("column: " + scalar(role.column().name()));
        }
        Optional<String> calendarDay = dimension.kind() == Kind.CALENDAR ? day(role) : Optional.empty();
        calendarDay.ifPresent(column -> details.add("match: " + scalar(column)));
        role.asOf().flatMap(this::staged).ifPresent(column -> details.add("as-of: " + scalar(column)));
        text.line(
                "  " + scalar(role.name()) + ": {" + String.join(", ", details) + "}",
                "all its values are keys of " + dimension.table() + match(dimension, calendarDay)
                        + role.asOf()
                                .map(date -> "; all its versions were valid on " + date)
                                .orElse(""));
    }

    /** What a lookup goes by where nothing else is said. */
    private static String match(Dimension dimension, Optional<String> found) {
        return found.isPresent()
                ? ""
                : "; it finds them by "
                        + String.join(
                                ", ", dimension.key().stream().map(Word::text).toList())
                        + ", unless match: names other staged columns";
    }

    /** The staged date from which the day of a role comes, where a name says so. */
    private Optional<String> day(Role role) {
        return delivered.stream()
                .flatMap(rows -> rows.profile().columns().stream())
                .filter(column -> column.type().isMoment())
                .map(ColumnProfile::name)
                .filter(column -> column.toLowerCase(Locale.ROOT).startsWith(role.name()))
                .findFirst();
    }

    private List<String> delivering(List<Held> columns) {
        return columns.stream()
                .map(Held::name)
                .filter(column -> staged(column).isPresent())
                .toList();
    }

    private void measures(StandingFact fact) {
        List<Held> delivering = fact.measures().stream()
                .filter(column -> staged(column.name()).isPresent())
                .toList();
        if (delivering.isEmpty()) {
            return;
        }
        text.line("measures:");
        for (Held column : delivering) {
            String staged = staged(column.name()).orElseThrow();
            String type = DraftText.typeName(column.column().type());
            text.line(
                    "  " + scalar(column.name()) + ": "
                            + (isSame(column.name(), staged)
                                    ? type
                                    : "{as: " + type + ", take: " + quoted('"' + staged.replace("\"", "\"\"") + '"')
                                            + "}"),
                    column.least() == null ? "" : column.least() + " to " + column.greatest());
        }
    }
}
