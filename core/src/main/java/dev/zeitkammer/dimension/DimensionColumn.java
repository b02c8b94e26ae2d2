package dev.zeitkammer.dimension;

import dev.zeitkammer.definition.Attribute;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.SqlType;
import java.util.Optional;

/**
 * A column of a dimension's table and what it is for.
 *
 * @param staged the staged column it takes its value from; empty for expressions and for the program's own columns
 * @param take the expression that makes its value; empty otherwise
 */
public record DimensionColumn(String name, SqlType type, Role role, Optional<String> staged, Optional<Word> take) {

    /** What a column is for. */
    public enum Role {
        SURROGATE,
        KEY,
        TYPE_0,
        TYPE_1,
        TYPE_2,
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

    static DimensionColumn own(String name, SqlType type, Role role) {
        return new DimensionColumn(name, type, role, Optional.empty(), Optional.empty());
    }

    static DimensionColumn of(Attribute attribute, SqlType type) {
        Role role = switch (attribute.change()) {
            case TYPE_0 -> Role.TYPE_0;
            case TYPE_1 -> Role.TYPE_1;
            case TYPE_2 -> Role.TYPE_2;
        };
        String name = attribute.name().text();
        Optional<String> staged = attribute.take().isPresent() ? Optional.empty() : Optional.of(name);
        return new DimensionColumn(name, type, role, staged, attribute.take());
    }
}
