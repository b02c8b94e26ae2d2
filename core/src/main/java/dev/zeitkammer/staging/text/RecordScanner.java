package dev.zeitkammer.staging.text;

import java.io.IOException;
import java.io.Reader;

/**
 * Walks through a delimited text record by record and knows where each stands and how it reads, which the engine's reader
 * does not tell. A quote opens a quoted field at a field's beginning only; inside, two quotes are one, and line ends belong
 * to the field (RFC 4180). Used for the header and, only when rows are set aside, for their lines and texts.
 */
public final class RecordScanner {

    private static final int END = -1;

    private final Reader reader;
    private final char delimiter;
    private final StringBuilder text = new StringBuilder();
    private int line = 1;
    private int firstLine;
    private boolean unclosed;
    private String lineEnd = "";
    private int pushedBack = END;

    /** @param reader a buffered reader, positioned behind a byte order mark */
    public RecordScanner(Reader reader, char delimiter) {
        this.reader = reader;
        this.delimiter = delimiter;
    }

    /** Moves to the next record; false at the end of the text. */
    public boolean next() throws IOException {
        text.setLength(0);
        firstLine = line;
        boolean quoted = false;
        boolean fieldStart = true;
        int character = read();
        if (character == END) {
            return false;
        }
        for (; character != END; character = read()) {
            if (quoted) {
                quoted = staysQuoted(character);
            } else if (character == '"' && fieldStart) {
                quoted = true;
                text.append('"');
            } else if (isLineEnd(character)) {
                return true;
            } else {
                text.append((char) character);
            }
            fieldStart = character == delimiter && !quoted;
        }
        unclosed = quoted;
        return true;
    }

    private boolean staysQuoted(int character) throws IOException {
        text.append((char) character);
        if (character == '\n') {
            line++;
        }
        if (character != '"') {
            return true;
        }
        int following = read();
        if (following == '"') {
            text.append('"');
            return true;
        }
        pushedBack = following;
        return false;
    }

    private boolean isLineEnd(int character) throws IOException {
        if (character == '\r') {
            int following = read();
            if (following != '\n') {
                pushedBack = following;
            }
            lineEnd = following == '\n' ? "\r\n" : "\r";
        } else if (character == '\n') {
            lineEnd = "\n";
        } else {
            return false;
        }
        line++;
        return true;
    }

    private int read() throws IOException {
        if (pushedBack != END) {
            int character = pushedBack;
            pushedBack = END;
            return character;
        }
        return reader.read();
    }

    /** The record as it stands in the file, without its line end. */
    public String text() {
        return text.toString();
    }

    /** What ended the record, or the one before where the text ended with this one; empty before any has ended. */
    public String lineEnd() {
        return lineEnd;
    }

    /** Whether the record stands on several lines, since a quoted field of it holds ends of lines. */
    public boolean isOfSeveralLines() {
        return text.indexOf("\n") >= 0 || text.indexOf("\r") >= 0;
    }

    /** The line on which the record begins, from 1. */
    public int line() {
        return firstLine;
    }

    /** Whether the text ended inside the quotes of this record. */
    public boolean isUnclosed() {
        return unclosed;
    }

    /** Whether the record is an empty line. */
    public boolean isBlank() {
        return text.length() == 0;
    }
}
