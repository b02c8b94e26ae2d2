package dev.zeitkammer.profile;

import dev.zeitkammer.engine.SqlType;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.regex.Pattern;

/** What names and values of columns suggest; never more than a suggestion. */
final class Guess {

    private static final Pattern CHANGE =
            Pattern.compile("chang|updat|modif|effective|valid_?from|as_?of|geaendert", Pattern.CASE_INSENSITIVE);
    private static final Pattern MARK =
            Pattern.compile("status|delet|remov|^del$|^op$|action|operation", Pattern.CASE_INSENSITIVE);
    private static final Pattern MEMBERS_OWN = Pattern.compile(
            "creat|regist|open|clos|birth|born|join|found|sign|updat|chang|modif|insert|load|valid|since|from|until|expir|last",
            Pattern.CASE_INSENSITIVE);
    private static final Pattern KEY =
            Pattern.compile("(^|_)(no|nr|id|code|key|number|num)$", Pattern.CASE_INSENSITIVE);
    private static final List<String> DELETED = List.of("d", "del", "deleted", "x", "removed");

    private static final Pattern SAID = Pattern.compile("delet|remov", Pattern.CASE_INSENSITIVE);
    private static final List<String> YES = List.of("y", "yes", "j", "ja", "true", "t");

    private Guess() {}

    static boolean isDateOfChange(String column) {
        return CHANGE.matcher(column).find();
    }

    /** Whether a moment is one of a member's own, such as the one when it came, and not that of something that happens. */
    static boolean isMomentOfMember(String column) {
        return MEMBERS_OWN.matcher(column).find();
    }

    static boolean isKeyName(String column) {
        return KEY.matcher(column).find();
    }

    /** A condition that holds for deleted rows, where a column seems to mark them. */
    static Optional<String> deletion(ColumnProfile column) {
        if (!MARK.matcher(column.name()).find()) {
            return Optional.empty();
        }
        String name = '"' + column.name().replace("\"", "\"\"") + '"';
        if (column.type().equals(SqlType.BOOLEAN)) {
            return Optional.of(name);
        }
        boolean isSaid = SAID.matcher(column.name()).find();
        if (isSaid && !column.type().isText() && List.of("0", "1").containsAll(column.few())) {
            return column.few().isEmpty() ? Optional.empty() : Optional.of(name + " = 1");
        }
        return column.few().stream()
                .filter(value -> column.type().isText())
                .filter(value -> DELETED.contains(value.toLowerCase(Locale.ROOT))
                        || isSaid && YES.contains(value.toLowerCase(Locale.ROOT)))
                .map(value -> name + " = '" + value.replace("'", "''") + "'")
                .findFirst();
    }
}
