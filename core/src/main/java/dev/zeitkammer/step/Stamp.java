package dev.zeitkammer.step;

import java.time.LocalDate;
import java.time.LocalDateTime;

/**
 * What a load writes into every row it touches.
 *
 * @param load the load's number
 * @param date the load date
 * @param at the moment of the load, UTC, to the microsecond
 */
public record Stamp(long load, LocalDate date, LocalDateTime at) {}
