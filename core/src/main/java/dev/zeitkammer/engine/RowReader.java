package dev.zeitkammer.engine;

/** Makes a value of a row; called once a row, in order. */
@FunctionalInterface
public interface RowReader<T> {
    T read(Row row);
}
