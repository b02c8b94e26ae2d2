package dev.zeitkammer.engine;

import java.time.LocalDateTime;
import org.jspecify.annotations.Nullable;

/** One row of a result; columns count from 1. */
public interface Row {

    int width();

    @Nullable
    String text(int column);

    /** A whole number; 0 for null. */
    long number(int column);

    @Nullable
    LocalDateTime timestamp(int column);

    boolean flag(int column);

    /** The value as a plain Java object: text, number, boolean, LocalDate, LocalDateTime, LocalTime or null. */
    @Nullable
    Object value(int column);
}
