package dev.zeitkammer.engine;

import java.time.Duration;
import java.util.OptionalLong;

/**
 * A statement that an engine has carried out.
 *
 * @param sql the statement, without what travelled along before it
 * @param rows the rows that it said it wrote, or that it read; empty where the engine does not say
 * @param time from when it was given to the engine until it was done
 */
public record Executed(String sql, OptionalLong rows, Duration time) {}
