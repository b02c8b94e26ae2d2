package dev.zeitkammer.staging.text;

import java.io.IOException;
import java.io.InputStream;
import java.io.RandomAccessFile;
import java.nio.file.Path;
import java.util.Arrays;
import java.util.Locale;
import java.util.Optional;

/**
 * What the bytes of a file of texts tell before the engine reads it. Engines take packed files with a wrong checksum, texts that
 * were cut off, and lose lines that are longer than they expect.
 *
 * @param damage what is wrong with the file, in words; empty where it came whole, as far as can be told
 * @param longest about how many bytes its longest line has; 0 where all are short
 */
public record FileBytes(Optional<String> damage, long longest) {

    /** Every line of at least twice as many bytes has a block of so many without an end of line. */
    private static final int BLOCK = 1 << 20;

    private static final int LONGEST_CHARACTER = 4;

    /** Looks at every byte of a file. */
    public static FileBytes of(Path file, String encoding) {
        String name = file.toString().toLowerCase(Locale.ROOT);
        try {
            Look look = name.endsWith(".gz") || name.endsWith(".zst") ? packed(file) : plain(file);
            boolean cut = encoding.equals("utf-8") && isCut(look.end);
            return new FileBytes(
                    cut
                            ? Optional.of(
                                    "it ends in the middle of a character, so that it was cut off; deliver it again")
                            : Optional.empty(),
                    look.longest());
        } catch (IOException | RuntimeException broken) {
            return new FileBytes(
                    Optional.of("it is damaged, or not packed as its name says ("
                            + String.valueOf(broken.getMessage())
                                    .lines()
                                    .findFirst()
                                    .orElse("")
                            + "); deliver it again"),
                    0);
        }
    }

    /** The last bytes of a file, and how many of its blocks in a row had no end of line. */
    private static final class Look {
        private byte[] end = new byte[0];
        private int blocks;
        private int most;

        void block(boolean hasEnd) {
            blocks = hasEnd ? 0 : blocks + 1;
            most = Math.max(most, blocks);
        }

        long longest() {
            return most == 0 ? 0 : (most + 2L) * BLOCK;
        }
    }

    /** A packed file is read whole: its checksum stands at its end. */
    private static Look packed(Path file) throws IOException {
        Look look = new Look();
        try (InputStream bytes = TextFiles.unpacked(file)) {
            byte[] block = new byte[BLOCK];
            for (int length = bytes.readNBytes(block, 0, BLOCK);
                    length > 0;
                    length = bytes.readNBytes(block, 0, BLOCK)) {
                if (length == BLOCK) {
                    look.block(hasEnd(block, length));
                }
                byte[] both = Arrays.copyOf(look.end, look.end.length + length);
                System.arraycopy(block, 0, both, look.end.length, length);
                look.end = Arrays.copyOfRange(both, Math.max(0, both.length - LONGEST_CHARACTER), both.length);
            }
        }
        return look;
    }

    /** Of another file a little of each block is read, up to the first end of a line. */
    private static Look plain(Path file) throws IOException {
        Look look = new Look();
        try (RandomAccessFile bytes = new RandomAccessFile(file.toFile(), "r")) {
            byte[] some = new byte[1 << 12];
            for (long begin = 0; begin + BLOCK <= bytes.length(); begin += BLOCK) {
                bytes.seek(begin);
                boolean hasEnd = false;
                for (int seen = 0; seen < BLOCK && !hasEnd; seen += some.length) {
                    bytes.readFully(some);
                    hasEnd = hasEnd(some, some.length);
                }
                look.block(hasEnd);
            }
            look.end = new byte[(int) Math.min(LONGEST_CHARACTER, bytes.length())];
            bytes.seek(bytes.length() - look.end.length);
            bytes.readFully(look.end);
        }
        return look;
    }

    private static boolean hasEnd(byte[] bytes, int length) {
        for (int index = 0; index < length; index++) {
            if (bytes[index] == '\n' || bytes[index] == '\r') {
                return true;
            }
        }
        return false;
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
