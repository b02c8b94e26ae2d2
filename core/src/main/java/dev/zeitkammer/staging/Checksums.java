package dev.zeitkammer.staging;

import java.io.IOException;
import java.io.InputStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.zip.CRC32;
import java.util.zip.CRC32C;

/**
 * Tells whether files are byte for byte what they were: their sizes, and two checksums of 32 bits by different polynomials, which
 * together miss a change once in 2^64. Both are made by instructions of the machine, several gigabytes a second; they tell
 * changes that happen, not such as somebody forges.
 */
public final class Checksums {

    private static final int BLOCK = 1 << 18;

    private Checksums() {}

    /** The sizes of files, in their order. */
    public static String sizes(List<Path> files) throws IOException {
        StringBuilder sizes = new StringBuilder();
        for (Path file : files) {
            sizes.append(Files.size(file)).append(' ');
        }
        return sizes.toString();
    }

    /** The checksums of files, in their order. */
    public static String of(List<Path> files) throws IOException {
        StringBuilder checksums = new StringBuilder();
        byte[] block = new byte[BLOCK];
        for (Path file : files) {
            CRC32 first = new CRC32();
            CRC32C second = new CRC32C();
            try (InputStream bytes = Files.newInputStream(file)) {
                for (int count = bytes.read(block); count >= 0; count = bytes.read(block)) {
                    first.update(block, 0, count);
                    second.update(block, 0, count);
                }
            }
            checksums.append(String.format("%08x%08x ", first.getValue(), second.getValue()));
        }
        return checksums.toString();
    }
}
