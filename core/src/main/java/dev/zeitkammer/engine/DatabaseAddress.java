package dev.zeitkammer.engine;

import org.jspecify.annotations.Nullable;

/**
 * Where a database is and how to get in.
 *
 * @param name the name the project gives it
 * @param url a JDBC URL; a relative file in it is relative to the project's folder
 * @param user the user, or null when none is needed
 * @param password the password, or null; never printed
 * @param schema the schema that holds the tables, or null for the engine's default
 */
public record DatabaseAddress(
        String name,
        String url,
        @Nullable String user,
        @Nullable String password,
        @Nullable String schema) {

    /** The URL without its parameters, which may hold a password, and without a user before the host. */
    public String shownUrl() {
        return url.replaceAll("[?;].*", "").replaceAll("//[^/@]*@", "//");
    }

    @Override
    public String toString() {
        return name + " (" + shownUrl() + ")";
    }
}
