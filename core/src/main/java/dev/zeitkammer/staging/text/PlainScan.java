package dev.zeitkammer.staging.text;

import java.io.IOException;
import java.io.InputStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.OptionalLong;

/**
 * Looks over the bytes of a delimited file in UTF-8 or Latin-1: whether every record has its fields, in one line, and the values
 * of some of them are plain ({@link PlainForm}). The engine's own reader is lenient: it takes 12.7 for 13, 1_000 for 1000, and a
 * timestamp for a date. Of plain values it can make nothing else than they say, so that no text has to be looked at beside its value.
 *
 * <p>What is not plain need not be wrong; it only has to be looked at more closely, elsewhere. In doubt nothing is plain.
 */
public final class PlainScan {

    private static final int BLOCK = 1 << 20;
    private static final int STOPPED = -1;
    private static final byte[] NONE = {};

    /** The forms of fields as numbers, which a loop over bytes compares fastest: that of a number has its scale added. */
    private static final int ANYTHING = 0;

    private static final int DAY = 1;
    private static final int MOMENT = 2;
    private static final int NUMBER = 3;
    private static final byte[] DAY_SHAPE = "0000-00-00".getBytes(StandardCharsets.US_ASCII);
    private static final byte[] MOMENT_SHAPE = "0000-00-00 00:00:00".getBytes(StandardCharsets.US_ASCII);
    private static final int MOST_OF_A_SECOND = 6;

    private final int[] forms;
    private final byte delimiter;
    private final boolean hasHeader;
    private byte[] bytes = NONE;
    private long records;

    /**
     * @param fields the forms of a record's fields, in their order
     * @param hasHeader whether the first record names the columns
     */
    public PlainScan(List<PlainForm> fields, char delimiter, boolean hasHeader) {
        this.forms = fields.stream().mapToInt(PlainScan::number).toArray();
        this.delimiter = (byte) delimiter;
        this.hasHeader = hasHeader;
    }

    private static int number(PlainForm form) {
        return switch (form.kind()) {
            case ANY -> ANYTHING;
            case DAY -> DAY;
            case MOMENT -> MOMENT;
            case NUMBER -> NUMBER + form.scale();
        };
    }

    /** The number of records, without the one that names the columns, if all are plain; empty if not. */
    public OptionalLong records(Path file) throws IOException {
        return records(file, Long.MAX_VALUE);
    }

    /** The same for the beginning of a file, of about so many bytes; records that are not whole do not count. */
    public OptionalLong records(Path file, long most) throws IOException {
        records = 0;
        bytes = new byte[BLOCK];
        try (InputStream in = Files.newInputStream(file)) {
            int held = 0;
            long seen = 0;
            while (seen < most) {
                int length = in.readNBytes(bytes, held, BLOCK - held);
                seen += length;
                int end = held + length;
                boolean isLast = length == 0;
                if (isLast && held == 0) {
                    break;
                }
                int whole = isLast ? end : afterLastLine(end);
                if (whole == 0 || (isLast && end == BLOCK)) {
                    return OptionalLong.empty();
                }
                if (isLast && bytes[end - 1] != '\n') {
                    bytes[end] = '\n';
                    whole = end + 1;
                }
                if (!arePlain(whole)) {
                    return OptionalLong.empty();
                }
                held = Math.max(0, end - whole);
                System.arraycopy(bytes, whole > end ? 0 : whole, bytes, 0, held);
            }
        } finally {
            bytes = NONE; // a delivery may have thousands of files
        }
        return OptionalLong.of(records - (hasHeader ? 1 : 0));
    }

    private int afterLastLine(int end) {
        int at = end;
        while (at > 0 && bytes[at - 1] != '\n') {
            at--;
        }
        return at;
    }

    /** Whether the records up to a place are; each ends in a line feed. */
    private boolean arePlain(int end) {
        int at = 0;
        while (at < end) {
            at = record(at, hasHeader && records == 0 ? new int[forms.length] : forms);
            if (at == STOPPED) {
                return false;
            }
            records++;
        }
        return true;
    }

    /** The place behind a record. */
    private int record(int begin, int[] expected) {
        byte[] here = bytes;
        if (here[begin] == '\n' || here[begin] == '\r') {
            return STOPPED;
        }
        int at = begin;
        int last = expected.length - 1;
        for (int field = 0; field <= last; field++) {
            int form = expected[field];
            int digits = at; // whole numbers, the most frequent plain values, are walked through here, without a call
            while (here[at] >= '0' && here[at] <= '9') {
                at++;
            }
            if (form < NUMBER || at == digits || here[at] == '.') {
                at = field(here, digits, form);
                if (at == STOPPED) {
                    return STOPPED;
                }
            }
            byte next = here[at];
            if (field < last) {
                if (next != delimiter) {
                    return STOPPED;
                }
            } else if (next != '\n' && (next != '\r' || here[++at] != '\n')) {
                return STOPPED;
            }
            at++;
        }
        return at;
    }

    /** The place behind the text of a field. */
    private int field(byte[] here, int at, int form) {
        if (form >= NUMBER) {
            return number(here, at, form - NUMBER);
        }
        if (form == ANYTHING) {
            return here[at] == '"' ? quoted(here, at + 1) : unquoted(here, at);
        }
        if (isEnd(here[at])) {
            return at;
        }
        return form == DAY ? shaped(here, at, DAY_SHAPE) : moment(here, at);
    }

    private boolean isEnd(byte next) {
        return next == delimiter || next == '\n' || next == '\r';
    }

    private int unquoted(byte[] here, int begin) {
        byte end = delimiter;
        int at = begin;
        while (true) {
            byte next = here[at];
            if (next == end || next == '\n' || next == '\r') {
                return at;
            }
            if (next == '"' || next == 0) {
                return STOPPED;
            }
            at++;
        }
    }

    /** The place behind a field in quotes, which ends on its line; inside, two quotes are one. */
    private static int quoted(byte[] here, int begin) {
        int at = begin;
        while (true) {
            byte next = here[at++];
            if (next == '\n' || next == '\r' || next == 0) {
                return STOPPED;
            }
            if (next == '"') {
                if (here[at] != '"') {
                    return at;
                }
                at++;
            }
        }
    }

    private int number(byte[] here, int begin, int scale) {
        int first = here[begin] == '-' ? begin + 1 : begin;
        int at = behindDigits(here, first);
        if (at == first) {
            return at == begin && isEnd(here[at]) ? at : STOPPED;
        }
        return here[at] == '.' ? fraction(here, at + 1, scale) : at;
    }

    private static int fraction(byte[] here, int begin, int scale) {
        int at = behindDigits(here, begin);
        return at == begin || at - begin > scale ? STOPPED : at;
    }

    private static int behindDigits(byte[] here, int begin) {
        int at = begin;
        while (here[at] >= '0' && here[at] <= '9') {
            at++;
        }
        return at;
    }

    private static int moment(byte[] here, int begin) {
        int at = shaped(here, begin, MOMENT_SHAPE);
        return at == STOPPED || here[at] != '.' ? at : fraction(here, at + 1, MOST_OF_A_SECOND);
    }

    /** The place behind a text in which a digit stands for each 0, a blank or a T for the blank, and the rest for itself. */
    private static int shaped(byte[] here, int begin, byte[] shape) {
        int at = begin;
        for (byte wanted : shape) {
            byte value = here[at++];
            boolean fits =
                    wanted == '0' ? value >= '0' && value <= '9' : value == wanted || (wanted == ' ' && value == 'T');
            if (!fits) {
                return STOPPED;
            }
        }
        return at;
    }
}
