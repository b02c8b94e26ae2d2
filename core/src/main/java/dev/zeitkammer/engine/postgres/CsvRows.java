package dev.zeitkammer.engine.postgres;

import java.io.InputStream;
import java.math.BigDecimal;
import java.nio.charset.StandardCharsets;
import java.util.Iterator;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** Rows as the stream of CSV that COPY reads: null is an empty field, every text is quoted. */
final class CsvRows extends InputStream {

    private static final int CHUNK = 1 << 16;

    private final Iterator<List<@Nullable Object>> rows;
    private final StringBuilder text = new StringBuilder();
    private byte[] chunk = new byte[0];
    private int next;

    CsvRows(Iterator<List<@Nullable Object>> rows) {
        this.rows = rows;
    }

    private boolean fill() {
        if (next < chunk.length) {
            return true;
        }
        text.setLength(0);
        while (text.length() < CHUNK && rows.hasNext()) {
            append(rows.next());
        }
        chunk = text.toString().getBytes(StandardCharsets.UTF_8);
        next = 0;
        return chunk.length > 0;
    }

    private void append(List<@Nullable Object> row) {
        String separator = "";
        for (Object value : row) {
            text.append(separator);
            separator = ",";
            if (value instanceof BigDecimal number) {
                text.append(number.toPlainString());
            } else if (value instanceof Number || value instanceof Boolean) {
                text.append(value);
            } else if (value != null) {
                text.append('"').append(value.toString().replace("\"", "\"\"")).append('"');
            }
        }
        text.append('\n');
    }

    @Override
    public int read() {
        return fill() ? chunk[next++] & 0xFF : -1;
    }

    @Override
    public int read(byte[] bytes, int offset, int length) {
        if (!fill()) {
            return -1;
        }
        int count = Math.min(length, chunk.length - next);
        System.arraycopy(chunk, next, bytes, offset, count);
        next += count;
        return count;
    }
}
