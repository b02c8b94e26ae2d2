package dev.zeitkammer.dimension.table;

import dev.zeitkammer.definition.Attribute;
import dev.zeitkammer.definition.ChangeType;
import dev.zeitkammer.definition.MemberLookup;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.SqlType;
import java.util.List;
import java.util.Optional;

/**
 * A column of a dimension's table and what it is for.
 *
 * @param take the expression that makes its value; empty otherwise
 * @param compared the columns that tell whether its value is another one: itself, or what identifies the member that a lookup
 *     found
 * @param follows the column of type 3 whose previous value it keeps
 * @param was the name that it had before
 * @param about what it means, for readers of the catalog
 * @param isDelivered whether the deliveries of a load say something of it; a version that they make else has the value of the version
 *     beside it
 */
public record DimensionColumn(
        String name,
        SqlType type,
        Role role,
        Optional<Word> take,
        List<String> compared,
        Optional<String> follows,
        Optional<String> was,
        Optional<String> about,
        boolean isDelivered) {

    /** What a column is for. */
    public enum Role {
        SURROGATE,
        MEMBER_KEY,
        KEY,
        TYPE_0,
        TYPE_1,
        TYPE_2,
        TYPE_3,
        PREVIOUS,
        VALID_FROM,
        VALID_TO,
        IS_CURRENT,
        VERSION,
        LAST_STATED,
        IS_DELETED,
        ROW_ORIGIN,
        INSERTED_AT,
        UPDATED_AT,
        INSERTED_BY,
        UPDATED_BY
    }

    public DimensionColumn {
        compared = List.copyOf(compared);
    }

    /** A column of which nothing more is said. */
    public static DimensionColumn plain(String name, SqlType type, Role role) {
        return new DimensionColumn(
                name,
                type,
                role,
                Optional.empty(),
                List.of(name),
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                true);
    }

    private static Role role(ChangeType change) {
        return switch (change) {
            case TYPE_0 -> Role.TYPE_0;
            case TYPE_1 -> Role.TYPE_1;
            case TYPE_2 -> Role.TYPE_2;
            case TYPE_3 -> Role.TYPE_3;
        };
    }

    /** A column of the business key that is taken from something else than the staged column of its name. */
    public static DimensionColumn key(String name, SqlType type, Word take) {
        return new DimensionColumn(
                name,
                type,
                Role.KEY,
                Optional.of(take),
                List.of(name),
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                true);
    }

    /** A column of the business key. */
    public static DimensionColumn key(Attribute attribute, SqlType type) {
        return described(attribute, type, Role.KEY);
    }

    /** The column of an attribute. */
    public static DimensionColumn of(Attribute attribute, SqlType type) {
        return described(attribute, type, role(attribute.change()));
    }

    private static DimensionColumn described(Attribute attribute, SqlType type, Role role) {
        String name = attribute.name().text();
        return new DimensionColumn(
                name,
                type,
                role,
                attribute.take(),
                List.of(name),
                Optional.empty(),
                attribute.was().map(Word::text),
                attribute.about().map(Word::text),
                true);
    }

    /** The column that keeps the previous value of an attribute of type 3. */
    public static DimensionColumn previous(Word name, Attribute attribute, SqlType type) {
        return new DimensionColumn(
                name.text(),
                type,
                Role.PREVIOUS,
                Optional.empty(),
                List.of(name.text()),
                Optional.of(attribute.name().text()),
                Optional.empty(),
                Optional.empty(),
                true);
    }

    /** The column of a lookup's key. */
    public static DimensionColumn of(MemberLookup lookup, List<String> identity) {
        return new DimensionColumn(
                lookup.column(),
                SqlType.BIGINT,
                role(lookup.change()),
                Optional.empty(),
                identity,
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                true);
    }

    /** The same in another type. */
    DimensionColumn as(SqlType other) {
        return new DimensionColumn(name, other, role, take, compared, follows, was, about, isDelivered);
    }

    /** A column of an attribute of which this load's deliveries say nothing. */
    public static DimensionColumn notDelivered(String name, SqlType type) {
        DimensionColumn column = plain(name, type, Role.TYPE_0);
        return new DimensionColumn(
                name, type, column.role, column.take, column.compared, column.follows, column.was, column.about, false);
    }

    /** Whether the program makes its values, rather than a delivery. */
    public boolean isOwn() {
        return switch (role) {
            case KEY, TYPE_0, TYPE_1, TYPE_2, TYPE_3, PREVIOUS -> isLookedUp();
            default -> true;
        };
    }

    /** Whether its value is a key that a lookup found. */
    public boolean isLookedUp() {
        return !compared.equals(List.of(name));
    }
}
