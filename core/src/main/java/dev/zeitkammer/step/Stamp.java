package dev.zeitkammer.step;

import dev.zeitkammer.staging.LoadDate;
import java.time.LocalDateTime;

/**
 * What a load writes into every row it touches.
 *
 * @param load the load's number
 * @param date the load date, or its moment
 * @param at the moment of the load, UTC, to the microsecond
 */
public record Stamp(long load, LoadDate date, LocalDateTime at) {}
