package dev.zeitkammer.cli.output;

import com.github.freva.asciitable.AsciiTable;
import com.github.freva.asciitable.Column;
import com.github.freva.asciitable.HorizontalAlign;
import com.github.freva.asciitable.OverflowBehaviour;
import java.util.ArrayList;
import java.util.List;
import java.util.OptionalInt;

/** A table for people: columns by their widths, numbers to the right, a rule below the header. */
final class TextTable {

    private static final int WIDEST = 60;
    private static final int WIDEST_PROSE = 96;

    private final List<String> headers = new ArrayList<>();
    private final List<Boolean> numeric = new ArrayList<>();
    private final List<List<String>> rows = new ArrayList<>();
    private int wrapped = -1;

    TextTable text(String header) {
        headers.add(header);
        numeric.add(false);
        return this;
    }

    /** A column of sentences, which go over several lines where they are long. */
    TextTable prose(String header) {
        wrapped = headers.size();
        return text(header);
    }

    TextTable number(String header) {
        headers.add(header);
        numeric.add(true);
        return this;
    }

    TextTable row(List<String> cells) {
        rows.add(List.copyOf(cells));
        return this;
    }

    TextTable row(String... cells) {
        return row(List.of(cells));
    }

    /** Leaves out the number columns that hold nothing in any row. */
    TextTable withoutEmptyNumbers() {
        for (int column = headers.size() - 1; column >= 0; column--) {
            int index = column;
            if (numeric.get(index)
                    && rows.stream().allMatch(row -> row.get(index).isEmpty())) {
                headers.remove(index);
                numeric.remove(index);
                rows.replaceAll(row -> {
                    List<String> left = new ArrayList<>(row);
                    left.remove(index);
                    return left;
                });
            }
        }
        return this;
    }

    String render(String indent) {
        return render(indent, Terminal.width());
    }

    /** @param width of the terminal; a table that is wider shows each row as lines of its own */
    String render(String indent, OptionalInt width) {
        String plain = plain();
        int needed = indent.length()
                + plain.lines()
                        .map(String::stripTrailing)
                        .mapToInt(String::length)
                        .max()
                        .orElse(0);
        return width.isPresent() && needed > width.getAsInt() && headers.size() > 1 && !rows.isEmpty()
                ? folded(indent, width.getAsInt())
                : decorated(plain, indent);
    }

    /** Each row below a rule, a line a column: names to the left, values beside them. */
    private String folded(String before, int width) {
        String indent = before + " ";
        int names = headers.stream().mapToInt(String::length).max().orElse(0);
        StringBuilder result = new StringBuilder();
        for (List<String> row : rows) {
            result.append(indent)
                    .append(Style.faint("─".repeat(Math.max(1, width - indent.length() - 1))))
                    .append('\n');
            for (int column = 0; column < headers.size(); column++) {
                if (!row.get(column).isEmpty()) {
                    result.append(indent)
                            .append(Style.strong(headers.get(column)))
                            .append(" ".repeat(names - headers.get(column).length() + 2))
                            .append(row.get(column))
                            .append('\n');
                }
            }
        }
        return result.toString();
    }

    private String plain() {
        Column[] columns = new Column[headers.size()];
        for (int index = 0; index < columns.length; index++) {
            HorizontalAlign align = numeric.get(index) ? HorizontalAlign.RIGHT : HorizontalAlign.LEFT;
            columns[index] = new Column()
                    .header(headers.get(index))
                    .headerAlign(align)
                    .dataAlign(align)
                    .maxWidth(
                            index == wrapped ? WIDEST_PROSE : WIDEST,
                            index == wrapped ? OverflowBehaviour.NEWLINE : OverflowBehaviour.ELLIPSIS_RIGHT);
        }
        String[][] cells = rows.stream().map(row -> row.toArray(String[]::new)).toArray(String[][]::new);
        return AsciiTable.getTable(AsciiTable.NO_BORDERS, columns, cells);
    }

    private static String decorated(String plain, String indent) {
        List<String> lines = plain.lines().map(String::stripTrailing).toList();
        int width = lines.stream().mapToInt(String::length).max().orElse(0);
        StringBuilder result = new StringBuilder();
        for (int index = 0; index < lines.size(); index++) {
            String line = lines.get(index);
            result.append(indent).append(index == 0 ? Style.strong(line) : line).append('\n');
            if (index == 0) {
                result.append(indent)
                        .append(Style.faint(" " + "─".repeat(Math.max(0, width - 1))))
                        .append('\n');
            }
        }
        return result.toString();
    }
}
