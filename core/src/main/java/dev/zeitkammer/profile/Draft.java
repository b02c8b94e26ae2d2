package dev.zeitkammer.profile;

import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.engine.SqlType;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;

/** Writes a first definition from a profile: it loads as it stands, and a comment says what each guess is built on. */
public final class Draft {

    private static final int CATEGORY = 20;

    private final Project project;
    private final Profile profile;
    private final String name;
    private final List<String> from;
    private final DraftText text = new DraftText();

    /** @param from the lines below {@code from:}, or the name of an input as the only one */
    public Draft(Project project, Profile profile, String name, List<String> from) {
        this.project = project;
        this.profile = profile;
        this.name = name;
        this.from = List.copyOf(from);
    }

    /** A dimension. */
    public String dimension() {
        head("dimension");
        Optional<String> effective = profile.effective();
        List<String> key = businessKey(effective);
        text.line("key: " + DraftText.list(key), keyRemark(key, effective));
        text.line("attributes:");
        for (ColumnProfile column : profile.columns()) {
            boolean has = key.contains(column.name())
                    || effective.filter(column.name()::equals).isPresent();
            if (!has) {
                text.line("  " + attribute(column), about(column));
            }
        }
        if (profile.columns().size() <= key.size() + effective.map(known -> 1).orElse(0)) {
            text.withoutLast("attributes:");
            text.line("all-others: type 1");
        }
        effective.ifPresent(column -> {
            text.line("history:");
            text.line(
                    "  effective: " + DraftText.scalar(column),
                    "a row holds from here on; without it, from the load date");
        });
        profile.deletion()
                .ifPresent(when ->
                        text.line("deletions: {when: " + DraftText.quoted(when) + "}", "these rows end their members"));
        return text.toString();
    }

    private void head(String kind) {
        text.line("# Drafted from " + profile.source() + ": " + profile.rows() + " rows, "
                + profile.columns().size() + " columns. What stands behind a # is a guess to look at.");
        text.line(kind + ": " + DraftText.scalar(name));
        if (from.size() == 1 && !from.get(0).contains(":")) {
            text.line("from: " + from.get(0));
        } else {
            text.line("from:");
            from.forEach(line -> text.line("  " + line));
        }
    }

    /** Of a key that holds the date of change, what is left identifies the member. */
    private List<String> businessKey(Optional<String> effective) {
        List<List<String>> keys = profile.keys().stream()
                .filter(columns -> columns.stream().allMatch(this::isFree))
                .toList();
        if (keys.isEmpty()) {
            return List.of(profile.columns().stream()
                    .map(ColumnProfile::name)
                    .filter(this::isFree)
                    .findFirst()
                    .orElse(profile.columns().get(0).name()));
        }
        List<String> key = keys.stream()
                .filter(columns -> columns.size() > 1
                        && effective.filter(columns::contains).isPresent())
                .findFirst()
                .orElse(keys.get(0));
        List<String> left = key.stream()
                .filter(column -> !effective.filter(column::equals).isPresent())
                .toList();
        return left.isEmpty() ? key : left;
    }

    private String keyRemark(List<String> key, Optional<String> effective) {
        if (profile.keys().isEmpty()
                || !effective.isPresent() && !profile.keys().contains(key)) {
            return profile.rows() == 0
                    ? "there are no rows to tell by"
                    : "no column, and no two or three together, tells all rows apart";
        }
        if (!profile.keys().contains(key)) {
            return "with " + effective.orElse("") + " it tells all rows apart";
        }
        List<String> others = profile.keys().stream()
                .filter(other -> !other.equals(key))
                .map(other -> String.join(" with ", other))
                .toList();
        return "tells all rows apart, without nulls" + (others.isEmpty() ? "" : "; so do " + String.join(", ", others));
    }

    private String attribute(ColumnProfile column) {
        String as = nameFor(column.name());
        String type = looksLikeHistory(column) ? "2" : "1";
        List<String> details = new ArrayList<>(List.of("type: " + type));
        if (!column.type().equals(SqlType.VARCHAR) || column.distinct() == 0) {
            details.add("as: " + DraftText.typeName(column.type()));
        }
        if (!as.equals(column.name())) {
            details.add("take: " + DraftText.quoted('"' + column.name() + '"'));
        }
        return DraftText.scalar(as) + ": "
                + (details.size() == 1 ? "type " + type : "{" + String.join(", ", details) + "}");
    }

    /** Values that many members share describe what a member belongs to, and that is what changes matter for. */
    private boolean looksLikeHistory(ColumnProfile column) {
        return column.distinct() > 1
                && column.distinct() <= Math.max(CATEGORY, profile.rows() / CATEGORY)
                && column.distinct() * 2 <= profile.rows();
    }

    private String about(ColumnProfile column) {
        if (column.distinct() == 0) {
            return "no value yet: nothing tells its type";
        }
        String nulls = column.nulls() > 0 ? ", " + column.nulls() + " null" : "";
        String member = Optional.ofNullable(profile.members().get(column.name()))
                .map(dimension -> "; looks like the key of " + dimension)
                .orElse("");
        return column.distinct()
                + (column.distinct() == 1 ? " value" : " values")
                + nulls
                + (looksLikeHistory(column) ? ": shared by rows, so changes may matter" : "")
                + member;
    }

    private String nameFor(String column) {
        return isFree(column) ? column : "source_" + column;
    }

    /** Whether no column that the program keeps itself has this name. */
    private boolean isFree(String column) {
        Set<String> taken = new HashSet<>(List.of(name + "_key"));
        Arrays.stream(AuditColumn.values())
                .forEach(housekeeping -> taken.add(project.conventions().column(housekeeping)));
        return !taken.contains(column.toLowerCase(Locale.ROOT));
    }

    /** A fact table. */
    public String fact() {
        head("fact");
        List<String> grain =
                profile.keys().isEmpty() ? notMeasured() : profile.keys().get(0);
        text.line("grain: " + DraftText.list(grain), keyRemark(grain, Optional.empty()));
        Set<String> placed = new HashSet<>(grain);
        lookups(grain, placed);
        List<ColumnProfile> rest = profile.columns().stream()
                .filter(column -> !placed.contains(column.name()))
                .toList();
        List<String> stored = rest.stream()
                .filter(column -> !isAmount(column))
                .map(ColumnProfile::name)
                .toList();
        if (!stored.isEmpty()) {
            text.line(
                    "degenerate: " + DraftText.list(stored),
                    "stored as they are; what describes a member belongs into a dimension");
        }
        List<ColumnProfile> amounts = rest.stream().filter(Draft::isAmount).toList();
        if (!amounts.isEmpty()) {
            text.line("measures:");
            amounts.forEach(column -> text.line(
                    "  " + DraftText.scalar(column.name()) + ": " + DraftText.typeName(column.type()),
                    column.distinct() == 0 ? "" : column.least() + " to " + column.greatest()));
        }
        return text.toString();
    }

    private List<String> notMeasured() {
        List<String> columns = profile.columns().stream()
                .filter(column -> !isAmount(column))
                .map(ColumnProfile::name)
                .toList();
        return columns.isEmpty() ? List.of(profile.columns().get(0).name()) : columns;
    }

    private void lookups(List<String> grain, Set<String> placed) {
        List<String> lines = new ArrayList<>();
        List<String> comments = new ArrayList<>();
        Set<String> roles = new HashSet<>();
        Optional<String> moment = profile.columns().stream()
                .filter(column -> column.type().isMoment() && column.nulls() == 0)
                .map(ColumnProfile::name)
                .findFirst();
        for (ColumnProfile column : profile.columns()) {
            String dimension = profile.members().get(column.name());
            if (dimension != null) {
                Dimension found = (Dimension) project.definition(dimension);
                String role = roles.add(dimension) ? dimension : roleOf(column.name(), roles);
                String asOf =
                        found.hasHistory() && moment.isPresent() ? ", as-of: " + DraftText.scalar(moment.get()) : "";
                lines.add("  " + DraftText.scalar(role) + ": {dimension: " + dimension + ", match: {"
                        + DraftText.scalar(found.key().get(0).text()) + ": " + DraftText.scalar(column.name()) + "}"
                        + asOf + "}");
                comments.add("values of " + column.name() + " look like keys of " + dimension
                        + (asOf.isEmpty() ? "" : "; the version valid on " + moment.get()));
                placed.add(column.name());
            }
        }
        calendar()
                .ifPresent(calendar -> profile.columns().stream()
                        .filter(column -> column.type().equals(SqlType.DATE))
                        .forEach(column -> {
                            lines.add("  " + DraftText.scalar(roleOf(column.name(), roles)) + ": {dimension: "
                                    + calendar + ", match: " + DraftText.scalar(column.name()) + "}");
                            comments.add("dates from " + column.least() + " to " + column.greatest());
                            placed.add(column.name());
                        }));
        if (!lines.isEmpty()) {
            text.line("lookups:");
            for (int index = 0; index < lines.size(); index++) {
                text.line(lines.get(index), comments.get(index));
            }
        }
    }

    private Optional<String> calendar() {
        return project.dimensions().stream()
                .filter(dimension -> dimension.kind() == Dimension.Kind.CALENDAR)
                .map(dimension -> dimension.name().text())
                .findFirst();
    }

    private static String roleOf(String column, Set<String> taken) {
        String role = column.toLowerCase(Locale.ROOT).replaceFirst("_(on|at|date|no|nr|id|code|key)$", "");
        String free = role;
        for (int number = 2; !taken.add(free); number++) {
            free = role + "_" + number;
        }
        return free;
    }

    private static boolean isAmount(ColumnProfile column) {
        return switch (column.type().kind()) {
            case SMALLINT, INTEGER, BIGINT, DECIMAL, REAL, DOUBLE -> !Guess.isKeyName(column.name());
            case BOOLEAN, DATE, TIMESTAMP, TIME, VARCHAR -> false;
        };
    }
}
