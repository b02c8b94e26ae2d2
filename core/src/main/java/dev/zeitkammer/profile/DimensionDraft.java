package dev.zeitkammer.profile;

import dev.zeitkammer.definition.Project;
import dev.zeitkammer.engine.Counted;
import dev.zeitkammer.engine.SqlType;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/** A first definition of a dimension. */
final class DimensionDraft extends Draft {

    private static final int CATEGORY = 20;

    DimensionDraft(Project project, Profile profile, String name, List<String> from) {
        super(project, profile, name, from);
    }

    @Override
    String written() {
        DraftText text = text();
        Profile profile = profile();
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
                    "a row holds from here on; without it, from the load date" + undated(column));
        });
        profile.deletion()
                .ifPresent(when ->
                        text.line("deletions: {when: " + DraftText.quoted(when) + "}", "these rows end their members"));
        return text.toString();
    }

    private String undated(String column) {
        long nulls = profile().column(column).nulls();
        return nulls == 0 ? "" : "; " + Counted.rowsHave(nulls) + " none and will be set aside";
    }

    /** Of a key that holds the date of change, what is left identifies the member. */
    private List<String> businessKey(Optional<String> effective) {
        List<List<String>> keys = profile().keys().stream()
                .filter(columns -> columns.stream().allMatch(this::isFree))
                .toList();
        if (keys.isEmpty()) {
            return List.of(profile().columns().stream()
                    .map(ColumnProfile::name)
                    .filter(this::isFree)
                    .findFirst()
                    .orElse(profile().columns().get(0).name()));
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
                && column.distinct() <= Math.max(CATEGORY, profile().rows() / CATEGORY)
                && column.distinct() * 2 <= profile().rows();
    }

    private String about(ColumnProfile column) {
        if (column.distinct() == 0) {
            return "no value yet: nothing tells its type";
        }
        String nulls = column.nulls() > 0 ? ", " + column.nulls() + " null" : "";
        String member = Optional.ofNullable(profile().members().get(column.name()))
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
}
