package dev.zeitkammer.lineage;

import java.util.List;

/**
 * What decides which rows something has, or when it is written.
 *
 * @param words what it is, with the expression as the definition has it
 * @param fields the columns that it reads
 */
public record Rule(String words, List<Field> fields) {

    public Rule {
        fields = List.copyOf(fields);
    }
}
