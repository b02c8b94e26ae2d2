package dev.zeitkammer.cli.output;

import dev.zeitkammer.profile.ColumnProfile;
import dev.zeitkammer.profile.Profile;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** What staged data looks like, column by column. */
public final class ProfileOutput {

    private static final int LONGEST = 24;

    private final Output output;

    public ProfileOutput(Output output) {
        this.output = output;
    }

    public void write(List<Profile> profiles, Format format) {
        switch (format) {
            case TEXT -> profiles.forEach(this::text);
            case JSON ->
                output.data(Json.of(profiles.stream().map(ProfileOutput::json).toList()));
            case CSV -> csv(profiles);
        }
    }

    private void text(Profile profile) {
        output.line(Style.strong(profile.source()) + ": " + profile.rows() + (profile.rows() == 1 ? " row" : " rows"));
        TextTable table = new TextTable()
                .text("column")
                .text("type")
                .number("null")
                .number("distinct")
                .text("length")
                .text("least")
                .text("greatest")
                .text("looks like");
        profile.columns()
                .forEach(column -> table.row(
                        column.name(),
                        column.type().toString(),
                        Values.count(column.nulls()),
                        String.valueOf(column.distinct()),
                        column.shortest() == column.longest()
                                ? String.valueOf(column.longest())
                                : column.shortest() + "-" + column.longest(),
                        cut(column.least()),
                        cut(column.greatest()),
                        profile.remark(column)));
        output.block(table.render(""));
        output.line("");
    }

    private static String cut(@Nullable String value) {
        String shown = value == null ? "" : Values.shown(value);
        return shown.length() <= LONGEST ? shown : shown.substring(0, LONGEST - 1) + "…";
    }

    private static Map<String, Object> json(Profile profile) {
        Map<String, Object> json = new LinkedHashMap<>();
        json.put("source", profile.source());
        json.put("rows", profile.rows());
        json.put("keys", profile.keys());
        json.put(
                "columns",
                profile.columns().stream().map(column -> json(profile, column)).toList());
        return json;
    }

    private static Map<String, @Nullable Object> json(Profile profile, ColumnProfile column) {
        Map<String, @Nullable Object> json = new LinkedHashMap<>();
        json.put("column", column.name());
        json.put("type", column.type().toString());
        json.put("nulls", column.nulls());
        json.put("distinct", column.distinct());
        json.put("shortest", column.shortest());
        json.put("longest", column.longest());
        json.put("least", column.least());
        json.put("greatest", column.greatest());
        json.put("looksLike", profile.remark(column));
        return json;
    }

    private void csv(List<Profile> profiles) {
        output.data(Csv.line(List.of(
                "source",
                "column",
                "type",
                "nulls",
                "distinct",
                "shortest",
                "longest",
                "least",
                "greatest",
                "looksLike")));
        profiles.forEach(profile -> profile.columns()
                .forEach(column -> output.data(Csv.line(Arrays.asList(
                        profile.source(),
                        column.name(),
                        column.type().toString(),
                        column.nulls(),
                        column.distinct(),
                        column.shortest(),
                        column.longest(),
                        column.least(),
                        column.greatest(),
                        profile.remark(column))))));
    }
}
