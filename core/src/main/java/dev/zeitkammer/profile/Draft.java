package dev.zeitkammer.profile;

import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.engine.Counted;
import java.util.Arrays;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;

/** Writes a first definition from a profile: it loads as it stands, and a comment says what each guess is built on. */
abstract class Draft {

    private final Project project;
    private final Profile profile;
    private final String name;
    private final List<String> from;
    private final DraftText text = new DraftText();

    /** @param from the lines below {@code from:}, or the name of an input as the only one */
    Draft(Project project, Profile profile, String name, List<String> from) {
        this.project = project;
        this.profile = profile;
        this.name = name;
        this.from = List.copyOf(from);
    }

    /** The definition. */
    abstract String written();

    final Project project() {
        return project;
    }

    final Profile profile() {
        return profile;
    }

    final String name() {
        return name;
    }

    final DraftText text() {
        return text;
    }

    final void head(String kind) {
        text.line("# " + drafted(profile) + " What stands behind a # is a guess to look at.");
        text.line(kind + ": " + DraftText.scalar(name));
        if (from.size() == 1 && !from.get(0).contains(":")) {
            text.line("from: " + from.get(0));
        } else {
            text.line("from:");
            from.forEach(line -> text.line("  " + line));
        }
    }

    /** What a definition was made of. */
    static String drafted(Profile profile) {
        return "Drafted from " + profile.source() + ": " + Counted.of(profile.rows(), "row") + ", "
                + Counted.of(profile.columns().size(), "column") + ".";
    }

    final String keyRemark(List<String> key, Optional<String> effective) {
        if (profile.keys().isEmpty()
                || !effective.isPresent() && !profile.keys().contains(key)) {
            return profile.rows() == 0
                    ? "there are no rows to tell by"
                    : "no column, and no two or three together, tells all rows apart";
        }
        if (!profile.keys().contains(key)) {
            return "with " + effective.orElse("") + " it tells all rows apart";
        }
        List<List<String>> others =
                profile.keys().stream().filter(other -> !other.equals(key)).toList();
        return "tells all rows apart, without nulls" + (others.isEmpty() ? "" : "; so do " + told(others));
    }

    /** Other keys: single columns by name; of combinations, which may be many by chance, the first. */
    private static String told(List<List<String>> others) {
        List<String> single = others.stream()
                .filter(key -> key.size() == 1)
                .map(key -> key.get(0))
                .toList();
        return single.isEmpty() ? String.join(" with ", others.get(0)) : String.join(", ", single);
    }

    /** Whether no column that the program keeps itself has this name. */
    final boolean isFree(String column) {
        Set<String> taken = new HashSet<>(List.of(name + "_key"));
        Arrays.stream(AuditColumn.values())
                .forEach(housekeeping ->
                        taken.add(project.settings().conventions().column(housekeeping)));
        return !taken.contains(column.toLowerCase(Locale.ROOT));
    }
}
