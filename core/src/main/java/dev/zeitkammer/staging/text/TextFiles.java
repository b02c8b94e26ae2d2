package dev.zeitkammer.staging.text;

import dev.zeitkammer.engine.PrivateFolder;
import io.airlift.compress.zstd.ZstdInputStream;
import java.io.BufferedInputStream;
import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStream;
import java.io.InputStreamReader;
import java.io.Reader;
import java.io.Writer;
import java.nio.charset.Charset;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Set;
import java.util.zip.GZIPInputStream;

/** Opens text files of a delivery, whatever their encoding. */
public final class TextFiles {

    private static final int BYTE_ORDER_MARK = 0xFEFF;
    private static final String UTF_16 = "utf-16";
    private static final int SNIFFED = 4096;

    private TextFiles() {}

    /** The bytes of a file as they were before it was packed. */
    public static InputStream unpacked(Path file) throws IOException {
        InputStream bytes = Files.newInputStream(file);
        if (file.toString().toLowerCase(Locale.ROOT).endsWith(".gz")) {
            return new GZIPInputStream(bytes, 1 << 16);
        }
        return isZstd(file) ? new ZstdInputStream(bytes) : bytes;
    }

    /** A reader positioned behind a byte order mark; bytes that are not in the encoding become a replacement character. */
    public static Reader open(Path file, String encoding) throws IOException {
        BufferedInputStream marked = new BufferedInputStream(unpacked(file), 1 << 16);
        BufferedReader reader = new BufferedReader(new InputStreamReader(marked, charset(marked, encoding)), 1 << 16);
        reader.mark(1);
        if (reader.read() != BYTE_ORDER_MARK) {
            reader.reset();
        }
        return reader;
    }

    /** The byte order mark of UTF-16 tells the order of bytes; without one, the low byte comes first. */
    private static Charset charset(BufferedInputStream bytes, String encoding) throws IOException {
        if (!encoding.equals(UTF_16)) {
            return charset(encoding);
        }
        bytes.mark(2);
        boolean highFirst = bytes.read() == 0xFE && bytes.read() == 0xFF;
        bytes.reset();
        return highFirst ? StandardCharsets.UTF_16BE : StandardCharsets.UTF_16LE;
    }

    /** Whether the embedded engine cannot read a file in its encoding itself: it takes UTF-16 with the low byte first, unpacked. */
    public static boolean isForeign(Path file, String encoding) throws IOException {
        if (!encoding.equals(UTF_16)) {
            return false;
        }
        String name = file.toString().toLowerCase(Locale.ROOT);
        try (InputStream bytes = Files.newInputStream(file)) {
            return name.endsWith(".gz") || name.endsWith(".zst") || bytes.read() == 0xFE;
        }
    }

    /** Writes a file anew in UTF-8, for the embedded engine. */
    public static Path inUtf8(Path file, String encoding) throws IOException {
        Path copy = PrivateFolder.file(".csv");
        try (Reader from = open(file, encoding);
                Writer to = Files.newBufferedWriter(copy, StandardCharsets.UTF_8)) {
            from.transferTo(to);
        }
        return copy;
    }

    /** Writes the records of a file anew in UTF-8, each on lines that end with a line feed. */
    public static Path records(Path file, String encoding, char delimiter) throws IOException {
        Path copy = PrivateFolder.file(".csv");
        try (Reader from = open(file, encoding);
                Writer to = Files.newBufferedWriter(copy, StandardCharsets.UTF_8)) {
            RecordScanner records = new RecordScanner(from, delimiter);
            while (records.next()) {
                to.write(records.text());
                to.write('\n');
            }
        }
        return copy;
    }

    /** Whether the lines of a file end in more than one way: by a line feed, by a carriage return, or by both. */
    public static boolean mixesLineEnds(Path file) throws IOException {
        Set<String> ends = new HashSet<>();
        try (InputStream bytes = unpacked(file)) {
            byte[] block = new byte[1 << 20];
            boolean returned = false;
            for (int length = bytes.read(block); length >= 0 && ends.size() < 2; length = bytes.read(block)) {
                for (int index = 0; index < length; index++) {
                    byte value = block[index];
                    if (returned) {
                        ends.add(value == '\n' ? "both" : "carriage return");
                    } else if (value == '\n') {
                        ends.add("line feed");
                    }
                    returned = value == '\r';
                }
            }
            if (returned) {
                ends.add("carriage return");
            }
        }
        return ends.size() > 1;
    }

    /** Whether a file is packed, as its name says. */
    public static boolean isPacked(Path file) {
        return file.toString().toLowerCase(Locale.ROOT).endsWith(".gz") || isZstd(file);
    }

    /** Whether it is packed in a way that only the engine can open. */
    public static boolean isZstd(Path file) {
        return file.toString().toLowerCase(Locale.ROOT).endsWith(".zst");
    }

    /** The character set of an encoding of {@code csv:}. */
    public static Charset charset(String encoding) {
        return switch (encoding) {
            case "latin-1" -> StandardCharsets.ISO_8859_1;
            case "utf-16" -> StandardCharsets.UTF_16;
            default -> StandardCharsets.UTF_8;
        };
    }

    /** Whether the beginning of a file cannot be text: it holds a zero byte, or is not in the encoding. */
    public static boolean isBinary(Path file, String encoding) throws IOException {
        try (Reader reader = open(file, encoding)) {
            char[] beginning = new char[SNIFFED];
            int length = Math.max(0, reader.read(beginning));
            String text = new String(beginning, 0, length);
            long strange = text.chars()
                    .filter(character -> character == 0xFFFD || (character < ' ' && "\r\n\t\f".indexOf(character) < 0))
                    .count();
            return text.indexOf('\0') >= 0 || strange * 20 > length;
        }
    }

    /** The names of the columns in a header record. */
    public static List<String> fields(String header, char delimiter) {
        List<String> fields = new ArrayList<>();
        StringBuilder field = new StringBuilder();
        boolean quoted = false;
        for (int index = 0; index < header.length(); index++) {
            char character = header.charAt(index);
            if (character == '"' && (quoted || field.length() == 0)) {
                boolean doubled = quoted && index + 1 < header.length() && header.charAt(index + 1) == '"';
                if (doubled) {
                    field.append('"');
                    index++;
                } else {
                    quoted = !quoted;
                }
            } else if (character == delimiter && !quoted) {
                fields.add(field.toString().strip());
                field.setLength(0);
            } else {
                field.append(character);
            }
        }
        fields.add(field.toString().strip());
        return fields;
    }
}
