package dev.zeitkammer.cli.command;

import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.util.Properties;
import picocli.CommandLine.IVersionProvider;

/** The program's version, as the build wrote it. */
public final class Version implements IVersionProvider {

    @Override
    public String[] getVersion() {
        return new String[] {text()};
    }

    /** The program's name and version. */
    public static String text() {
        Properties properties = new Properties();
        try (InputStream file = Version.class.getResourceAsStream("/zeitkammer.properties")) {
            properties.load(file);
        } catch (IOException unreadable) {
            throw new UncheckedIOException(unreadable);
        }
        return "zeitkammer " + properties.getProperty("version");
    }
}
