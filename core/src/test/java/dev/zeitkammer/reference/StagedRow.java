package dev.zeitkammer.reference;

import java.time.LocalDate;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * A staged row of the random dimension: a key of two columns, attributes of type 0, 1 and 3, two of type 2, the member of
 * another dimension that owns it, and the number by which the last of several rows is chosen.
 */
record StagedRow(
        @Nullable String code,
        @Nullable String part,
        LocalDate effective,
        @Nullable String first,
        @Nullable String over,
        @Nullable String zone,
        @Nullable String text,
        @Nullable String number,
        @Nullable String owner,
        @Nullable Integer sent,
        boolean deletes) {

    static final String HEADER = "code,part,effective,first,over,zone,text,number,owner,sent,status";

    /** The place of the attribute of type 1 among the columns of a delivery. */
    static final int OVER = 4;

    /** The row of a delivery that lacks that attribute. */
    StagedRow withoutOver() {
        return new StagedRow(code, part, effective, first, null, zone, text, number, owner, sent, deletes);
    }

    /** Everything that the definition loads, but for key and effective. */
    List<@Nullable String> loaded(Settings settings) {
        List<@Nullable String> loaded = new ArrayList<>();
        if (!deletes || settings.adds()) {
            loaded.addAll(Arrays.asList(first, over, zone, text, number));
            if (settings.owned() > 0) {
                loaded.add(owner);
            }
        }
        return loaded;
    }

    boolean hasBadNumber() {
        return "many".equals(number);
    }

    boolean hasBlankKey() {
        return code == null || part == null;
    }

    /** @param copy what makes the member one of several that are alike */
    String csv(Days days, String copy) {
        String sentText = sent == null ? "" : sent.toString();
        return String.join(
                ",",
                Arrays.asList(
                                code == null ? null : code + copy,
                                part,
                                days.told(effective),
                                first,
                                over,
                                zone,
                                text,
                                number,
                                owner,
                                sentText,
                                deletes ? "D" : "A")
                        .stream()
                        .map(value -> value == null ? "" : value)
                        .toList());
    }
}
