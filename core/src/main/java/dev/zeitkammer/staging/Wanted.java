package dev.zeitkammer.staging;

import dev.zeitkammer.definition.DefinitionException;
import dev.zeitkammer.definition.Input.ListedColumn;
import dev.zeitkammer.definition.Nearest;
import dev.zeitkammer.definition.Problem;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.SqlType;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * The staged columns that a table needs, with their types where the table decides them. Columns that nobody needs are not
 * converted, so that a bad value in them sets no row aside.
 */
public final class Wanted {

    private static final Pattern IDENTIFIER = Pattern.compile("\"((?:[^\"]|\"\")++)\"|[\\p{L}_][\\p{L}\\p{N}_$]*");

    private static final Pattern NAME = Pattern.compile("[\\p{L}_][\\p{L}\\p{N}_]*(?: [\\p{L}\\p{N}_]+)*+");

    private final Delivery delivery;
    private final List<Problem> problems = new ArrayList<>();
    private final Set<String> moments = new HashSet<>();
    private final Map<String, Optional<SqlType>> types = new LinkedHashMap<>();

    public Wanted(Delivery delivery) {
        this.delivery = delivery;
    }

    /** A column that must be there. {@code purpose} tells the reader what it is for. */
    public void column(Word name, String purpose, Optional<SqlType> type) {
        Optional<String> column = delivery.column(name.text());
        if (column.isEmpty()) {
            problems.add(new Problem(
                    name.place(),
                    "the column \"" + name + "\" (" + purpose + ") is not staged: " + delivery.shown()
                            + " has no such column; " + Nearest.hint(name.text(), delivery.header())));
            return;
        }
        add(column.get(), type);
    }

    /** What a column of the table is taken from: a staged column, which must be there, or an expression over them. */
    public void taken(Word value, String purpose, Optional<SqlType> type) {
        if (delivery.column(value.text()).isEmpty() && !isName(value)) {
            expression(value);
        } else {
            column(value, purpose, type);
        }
    }

    /** Whether a text reads like the name of a column, so that it is taken for one that is missing where it is not staged. */
    public static boolean isName(Word value) {
        return NAME.matcher(value.text()).matches();
    }

    /** Whether a column is there. */
    public boolean isStaged(Word name) {
        return delivery.column(name.text()).isPresent();
    }

    /** A column that must hold dates or timestamps; what is neither is a bad value, also where inference decides. */
    public void moment(Word name, String purpose) {
        column(name, purpose, Optional.empty());
        delivery.column(name.text()).ifPresent(moments::add);
    }

    Set<String> moments() {
        return moments;
    }

    /** A column that is known to be there. */
    public void column(String name, Optional<SqlType> type) {
        add(name, type);
    }

    /** Every column that is staged. */
    public List<String> all() {
        return delivery.header();
    }

    /** The columns that an expression mentions. */
    public void expression(Word sql) {
        Matcher identifiers = IDENTIFIER.matcher(sql.text());
        while (identifiers.find()) {
            String name = identifiers.group(1) == null
                    ? identifiers.group()
                    : identifiers.group(1).replace("\"\"", "\"");
            delivery.column(name).ifPresent(column -> add(column, Optional.empty()));
            if (Names.isOwn(name)) {
                problems.add(ownName(sql, name));
            }
        }
    }

    private Problem ownName(Word sql, String name) {
        String staged = Names.of(name);
        return new Problem(
                sql.place(),
                "\"" + name + "\" would be a column of this program's own; "
                        + (delivery.column(staged).isPresent()
                                ? "the staged column of that name is called \"" + staged + "\""
                                : Nearest.hint(name, delivery.header())));
    }

    private void add(String column, Optional<SqlType> type) {
        types.merge(column, type, (before, now) -> before.isPresent() ? before : now);
    }

    /** Throws every missing column in one go. */
    public void throwIfMissing() {
        if (!problems.isEmpty()) {
            throw new DefinitionException(problems.stream().distinct().sorted().toList());
        }
    }

    /** The wanted columns in order of the delivery's columns, with their types where known. */
    Map<String, Optional<SqlType>> inOrder() {
        Map<String, SqlType> listed = new HashMap<>();
        for (ListedColumn known : delivery.input().columns()) {
            listed.putIfAbsent(Word.folded(known.name().text()), known.type());
        }
        Map<String, Optional<SqlType>> ordered = new LinkedHashMap<>();
        for (String column : delivery.header().isEmpty() ? types.keySet() : delivery.header()) {
            Optional<SqlType> type = types.get(column);
            if (type != null) {
                ordered.put(
                        column,
                        Optional.ofNullable(listed.get(Word.folded(column))).or(() -> type));
            }
        }
        return ordered;
    }
}
