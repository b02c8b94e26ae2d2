package dev.zeitkammer.engine.spark;

import dev.zeitkammer.engine.WarehouseException;
import java.util.ArrayDeque;
import java.util.Deque;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * Tables, columns and properties that the statements of a transaction make: they stand at once, so that they must be taken away where it is taken
 * back. Others work in the same schema: what they make meanwhile is none of it, and a table is dropped only where it still is the one
 * that was made.
 */
final class MadeDefinitions {

    private static final String NAME = "((?:`(?:[^`]|``)+`\\.?)+)";
    private static final String COLUMN = "(`(?:[^`]|``)+`)";
    private static final Pattern CREATES = Pattern.compile("create table " + NAME);
    private static final Pattern ADDS = Pattern.compile("alter table " + NAME + " add column " + COLUMN);
    private static final Pattern RENAMES =
            Pattern.compile("alter table " + NAME + " rename column " + COLUMN + " to " + COLUMN);

    private static final Pattern SETS = Pattern.compile("alter table " + NAME + " set tblproperties \\('([^']+)'");

    private final SparkWarehouse warehouse;
    private final Deque<Runnable> takingBack = new ArrayDeque<>();
    private boolean isOpen;

    MadeDefinitions(SparkWarehouse warehouse) {
        this.warehouse = warehouse;
    }

    /** From now on what is made is noted. */
    void begin() {
        takingBack.clear();
        isOpen = true;
    }

    /** What was made stays. */
    void forget() {
        takingBack.clear();
        isOpen = false;
    }

    /** A statement has made what it says. */
    void made(String sql) {
        if (!isOpen) {
            return;
        }
        Matcher creates = CREATES.matcher(sql);
        Matcher adds = ADDS.matcher(sql);
        Matcher renames = RENAMES.matcher(sql);
        Matcher sets = SETS.matcher(sql);
        if (creates.lookingAt()) {
            String table = creates.group(1);
            String made = identity(table);
            takingBack.push(() -> drop(table, made));
        } else if (adds.lookingAt()) {
            String back = "alter table " + adds.group(1) + " drop column " + adds.group(2);
            takingBack.push(() -> warehouse.execute(back));
        } else if (renames.lookingAt()) {
            String back = "alter table " + renames.group(1) + " rename column " + renames.group(3) + " to "
                    + renames.group(2);
            takingBack.push(() -> warehouse.execute(back));
        } else if (sets.lookingAt()) {
            String back = "alter table " + sets.group(1) + " unset tblproperties ('" + sets.group(2) + "')";
            takingBack.push(() -> warehouse.execute(back));
        }
    }

    private void drop(String table, String made) {
        if (identity(table).equals(made)) {
            warehouse.execute("drop table " + table);
        }
    }

    /** The first file of a table's metadata, whose name no other table has. */
    private String identity(String table) {
        return warehouse
                .query(
                        "select file from " + table + ".metadata_log_entries order by timestamp limit 1",
                        row -> String.valueOf(row.text(1)))
                .stream()
                .findFirst()
                .orElse("");
    }

    /** Takes away what was made, the last first; what others have taken away meanwhile is gone already. */
    void takeBack() {
        isOpen = false;
        while (!takingBack.isEmpty()) {
            try {
                takingBack.pop().run();
            } catch (WarehouseException gone) {
                // the rest is taken away all the same
            }
        }
    }
}
