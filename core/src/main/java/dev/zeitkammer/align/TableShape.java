package dev.zeitkammer.align;

import dev.zeitkammer.engine.Column;
import java.util.List;

/**
 * The form that a table must have.
 *
 * @param name the table's name
 * @param columns its columns, in order
 * @param identity the columns without which an existing table is not one of this program's
 */
public record TableShape(String name, List<Column> columns, List<String> identity) {

    public TableShape {
        columns = List.copyOf(columns);
        identity = List.copyOf(identity);
    }
}
