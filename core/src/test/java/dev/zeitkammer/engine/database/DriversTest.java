package dev.zeitkammer.engine.database;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.Driver;
import java.sql.DriverPropertyInfo;
import java.util.Properties;
import java.util.jar.JarOutputStream;
import java.util.logging.Logger;
import java.util.zip.ZipEntry;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** A driver that a project brings along is a program of whoever wrote the project. */
class DriversTest {

    private static boolean ran;

    /** A driver that notes that it was made. */
    public static final class OfAStranger implements Driver {

        public OfAStranger() {
            ran = true;
        }

        @Override
        public Connection connect(String url, Properties info) {
            throw new UnsupportedOperationException();
        }

        @Override
        public boolean acceptsURL(String url) {
            return url.startsWith("jdbc:stranger:");
        }

        @Override
        public DriverPropertyInfo[] getPropertyInfo(String url, Properties info) {
            return new DriverPropertyInfo[0];
        }

        @Override
        public int getMajorVersion() {
            return 1;
        }

        @Override
        public int getMinorVersion() {
            return 0;
        }

        @Override
        public boolean jdbcCompliant() {
            return false;
        }

        @Override
        public Logger getParentLogger() {
            return Logger.getGlobal();
        }
    }

    @Test
    void aDriverOfTheProjectRunsOnlyWhereItsFolderIsTrusted(@TempDir Path project) throws IOException {
        Path folder = Files.createDirectory(project.resolve(Drivers.FOLDER));
        try (JarOutputStream jar = new JarOutputStream(Files.newOutputStream(folder.resolve("stranger.jar")))) {
            jar.putNextEntry(new ZipEntry("META-INF/services/java.sql.Driver"));
            jar.write(OfAStranger.class.getName().getBytes(StandardCharsets.UTF_8));
        }
        assertThatThrownBy(() -> Drivers.of("jdbc:stranger:office", "jdbc:stranger:office", project))
                .hasMessageContaining("There is no driver for jdbc:stranger:office")
                .hasMessageContaining("--with-drivers")
                .hasMessageContaining(Drivers.VARIABLE);
        assertThat(ran).isFalse();
        Drivers.trust(folder);
        assertThat(Drivers.of("jdbc:stranger:office", "jdbc:stranger:office", project))
                .isInstanceOf(OfAStranger.class);
    }
}
