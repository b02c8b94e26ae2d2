package dev.zeitkammer.engine;

import java.util.OptionalLong;

/**
 * What upkeep of files did.
 *
 * @param what a table, or the file in which all tables stand
 */
public record Upkeep(String what, Size before, Size after) {

    /**
     * How much room something takes.
     *
     * @param files empty where the engine does not tell them apart
     * @param bytes on disk, with what older readers may still need
     */
    public record Size(OptionalLong files, long bytes) {}
}
