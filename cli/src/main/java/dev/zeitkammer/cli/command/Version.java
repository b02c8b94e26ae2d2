package dev.zeitkammer.cli.command;

import java.io.IOException;
import java.io.InputStream;
import java.util.Properties;
import picocli.CommandLine.IVersionProvider;

/** The program's version, as the build wrote it. */
final class Version implements IVersionProvider {

    @Override
    public String[] getVersion() throws IOException {
        Properties properties = new Properties();
        try (InputStream file = Version.class.getResourceAsStream("/zeitkammer.properties")) {
            properties.load(file);
        }
        return new String[] {"zeitkammer " + properties.getProperty("version")};
    }
}
