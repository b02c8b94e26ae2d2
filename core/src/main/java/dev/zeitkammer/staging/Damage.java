package dev.zeitkammer.staging;

import java.io.IOException;
import java.io.InputStream;
import java.io.RandomAccessFile;
import java.nio.file.Path;
import java.util.Arrays;
import java.util.Locale;
import java.util.Optional;

/** Looks whether files of texts came whole: engines take packed files with a wrong checksum, and texts that were cut off. */
final class Damage {

    private static final int CHUNK = 1 << 16;
    private static final int LONGEST_CHARACTER = 4;

    private Damage() {}

    /** What is wrong with a file, in words; empty where it came whole, as far as can be told. */
    static Optional<String> of(Path file, String encoding) {
        String name = file.toString().toLowerCase(Locale.ROOT);
        try {
            byte[] end = name.endsWith(".gz") || name.endsWith(".zst") ? endOfPacked(file) : end(file);
            return encoding.equals("utf-8") && isCut(end)
                    ? Optional.of("it ends in the middle of a character, so that it was cut off; deliver it again")
                    : Optional.empty();
        } catch (IOException | RuntimeException broken) {
            return Optional.of("it is damaged, or not packed as its name says ("
                    + String.valueOf(broken.getMessage()).lines().findFirst().orElse("") + "); deliver it again");
        }
    }

    /** The last bytes of a packed file, which is read whole: its checksum stands at its end. */
    private static byte[] endOfPacked(Path file) throws IOException {
        byte[] end = new byte[0];
        try (InputStream bytes = TextFiles.unpacked(file)) {
            byte[] chunk = new byte[CHUNK];
            for (int length = bytes.read(chunk); length >= 0; length = bytes.read(chunk)) {
                byte[] both = Arrays.copyOf(end, end.length + length);
                System.arraycopy(chunk, 0, both, end.length, length);
                end = Arrays.copyOfRange(both, Math.max(0, both.length - LONGEST_CHARACTER), both.length);
            }
        }
        return end;
    }

    private static byte[] end(Path file) throws IOException {
        try (RandomAccessFile bytes = new RandomAccessFile(file.toFile(), "r")) {
            byte[] end = new byte[(int) Math.min(LONGEST_CHARACTER, bytes.length())];
            bytes.seek(bytes.length() - end.length);
            bytes.readFully(end);
            return end;
        }
    }

    /** Whether the last character of UTF-8 has fewer bytes than its first one says. */
    private static boolean isCut(byte[] end) {
        for (int back = 1; back <= end.length; back++) {
            int value = end[end.length - back] & 0xFF;
            if (value < 0x80) {
                return false;
            }
            if (value >= 0xC0) {
                int bytes = value >= 0xF0 ? 4 : value >= 0xE0 ? 3 : 2;
                return back < bytes;
            }
        }
        return false;
    }
}
