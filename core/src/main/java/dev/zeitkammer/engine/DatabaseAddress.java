package dev.zeitkammer.engine;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.LinkedHashSet;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * Where a database is and how to get in.
 *
 * @param name the name the project gives it
 * @param url a JDBC URL; a relative file in it is relative to the project's folder
 * @param user the user, or null when none is needed
 * @param password the password, or null; never printed
 * @param passwordFile a file whose first line is the password, relative to the project; or null
 * @param schema the schema that holds the tables, or null for the engine's default
 * @param cluster what a cluster needs to know beside, or null
 * @param isWithheld whether it is not opened, since it is beyond the folder of a project that nobody has vouched for
 */
public record DatabaseAddress(
        String name,
        String url,
        @Nullable String user,
        @Nullable String password,
        @Nullable String passwordFile,
        @Nullable String schema,
        @Nullable Cluster cluster,
        boolean isWithheld) {

    /**
     * What a cluster needs to know of a warehouse.
     *
     * @param catalog the catalog of the cluster in which the schema is; null for one that it may go without
     * @param exchange a folder that this machine and the cluster both see, relative to the project; staged rows go through it
     */
    public record Cluster(
            @Nullable String catalog, @Nullable String exchange) {}

    /** An address of a database that is no cluster. */
    public DatabaseAddress(
            String name,
            String url,
            @Nullable String user,
            @Nullable String password,
            @Nullable String passwordFile,
            @Nullable String schema) {
        this(name, url, user, password, passwordFile, schema, null, false);
    }

    public DatabaseAddress {
        Secrets.keep(password);
        Secrets.keepThoseOf(url);
    }

    private static final Pattern VARIABLE = Pattern.compile("\\$\\{([A-Za-z_][A-Za-z0-9_]*)}");

    /** The same, which is not opened. */
    public DatabaseAddress withheld() {
        return new DatabaseAddress(name, url, user, password, passwordFile, schema, cluster, true);
    }

    /** The environment variables that it names and that were not put in. */
    public Set<String> variables() {
        return Stream.of(url, user, password, passwordFile, schema)
                .filter(Objects::nonNull)
                .flatMap(text -> VARIABLE.matcher(text).results())
                .map(found -> found.group(1))
                .collect(Collectors.toCollection(LinkedHashSet::new));
    }

    /**
     * Makes sure that it may be opened, and that every environment variable it needs was set.
     *
     * @throws WarehouseException naming the one that is not
     */
    public void known() {
        if (isWithheld) {
            throw new WarehouseException(
                    "Cannot open " + this + ": nobody has vouched for this project yet; see: zeitkammer vouch", null);
        }
        variables().stream().findFirst().ifPresent(missing -> {
            throw new WarehouseException(
                    "Cannot open " + name + ": the environment variable " + missing
                            + ", which zeitkammer.yaml names for it, is not set",
                    null);
        });
    }

    /**
     * The password, from where it stands.
     *
     * @throws WarehouseException when its file cannot be read
     */
    public Optional<String> secret(Path folder) {
        if (passwordFile == null) {
            return Optional.ofNullable(password);
        }
        Path file = folder.resolve(passwordFile);
        try (Stream<String> lines = Files.lines(file)) {
            Optional<String> secret = lines.findFirst();
            secret.ifPresent(Secrets::keep);
            return secret;
        } catch (IOException | UncheckedIOException unreadable) {
            throw new WarehouseException("Cannot read the password-file " + file + " of " + name, unreadable);
        }
    }

    /** The URL without its parameters, which may hold a password, and without a user before the host. */
    public String shownUrl() {
        String shown = url.replaceAll("[?;].*", "").replaceAll("//.*@", "//").replaceAll(":[^:/@\\s]+/[^@\\s]+@", ":");
        return Secrets.cleaned(shown);
    }

    @Override
    public String toString() {
        return name + " (" + shownUrl() + ")";
    }
}
