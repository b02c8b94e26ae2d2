package dev.zeitkammer.profile;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * What staged rows look like.
 *
 * @param source what was looked at, as messages call it
 * @param keys combinations of one, two or three columns without nulls that tell all rows apart, the likeliest first
 * @param effective the column that looks like the date of a change
 * @param deletion a condition that looks like the mark of a deletion
 * @param members the dimensions whose business key columns look like, by column
 */
public record Profile(
        String source,
        long rows,
        List<ColumnProfile> columns,
        List<List<String>> keys,
        Optional<String> effective,
        Optional<String> deletion,
        Map<String, String> members) {

    public Profile {
        columns = List.copyOf(columns);
        keys = List.copyOf(keys);
        members = Map.copyOf(members);
    }

    /** The same rows, with columns whose values are the business keys of these dimensions. */
    Profile with(Map<String, String> members) {
        return new Profile(source, rows, columns, keys, effective, deletion, members);
    }

    /** What a column may be for, in words; empty when nothing stands out. */
    public String remark(ColumnProfile column) {
        List<String> remarks = new ArrayList<>();
        for (List<String> key : keys) {
            if (key.contains(column.name())) {
                remarks.add(key.size() == 1 ? "key" : "key with " + String.join(", ", others(key, column)));
            }
        }
        if (effective.filter(column.name()::equals).isPresent()) {
            remarks.add("date of change");
        }
        if (deletion.filter(mark -> mark.contains('"' + column.name() + '"')).isPresent()) {
            remarks.add("marks deletions");
        }
        Optional.ofNullable(members.get(column.name())).ifPresent(dimension -> remarks.add("key of " + dimension));
        return String.join("; ", remarks.subList(0, Math.min(3, remarks.size())));
    }

    private static List<String> others(List<String> key, ColumnProfile column) {
        return key.stream().filter(name -> !name.equals(column.name())).toList();
    }

    /** The profile of a column. */
    public ColumnProfile column(String name) {
        return columns.stream()
                .filter(column -> column.name().equals(name))
                .findFirst()
                .orElseThrow();
    }
}
