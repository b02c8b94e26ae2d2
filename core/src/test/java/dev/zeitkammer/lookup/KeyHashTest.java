package dev.zeitkammer.lookup;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.load.TestWarehouses;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/**
 * Hash keys never change: not from version to version of the program, and not from engine to engine. A key that is another one here
 * is another one in every warehouse whose facts hold it.
 */
class KeyHashTest {

    @TempDir
    Path folder;

    /** The key is the first 63 bits of the MD5 sum of each part behind its length, or null, and of the version's number. */
    @Test
    void keysAreTheSameForEver() {
        try (Warehouse warehouse = TestWarehouses.open(folder)) {
            Dialect dialect = warehouse.dialect();
            assertThat(keys(
                            warehouse,
                            KeyHash.of(dialect, List.of("'ADL'"), "1"),
                            KeyHash.of(dialect, List.of("'ADL'"), "2"),
                            KeyHash.of(dialect, List.of("''"), "1"),
                            KeyHash.of(dialect, List.of("'null'"), "1"),
                            KeyHash.of(dialect, List.of("'Älplihütte'"), "1"),
                            KeyHash.of(dialect, List.of("12"), "3")))
                    .containsExactly(
                            9207251969919629721L,
                            5458150371277468044L,
                            641945506447263725L,
                            3051752694502939753L,
                            4107991895112173179L,
                            8724165923752892610L);
        }
    }

    /** Parts do not run into one another, wherever one ends. */
    @Test
    void keysOfSeveralPartsAreTheSameForEver() {
        try (Warehouse warehouse = TestWarehouses.open(folder)) {
            Dialect dialect = warehouse.dialect();
            String none = dialect.cast("null", SqlType.VARCHAR);
            assertThat(keys(
                            warehouse,
                            KeyHash.of(dialect, List.of("'a'", "'bc'"), "1"),
                            KeyHash.of(dialect, List.of("'ab'", "'c'"), "1"),
                            KeyHash.of(dialect, List.of("'a/2:bc'", "''"), "1"),
                            KeyHash.of(dialect, List.of(none, "'x'"), "1"),
                            KeyHash.of(dialect, List.of("'x'", none), "1"),
                            KeyHash.of(dialect, List.of("date '2026-03-01'", "7"), "1")))
                    .containsExactly(
                            9163231754679430202L,
                            7501882228947030911L,
                            8663248757532530244L,
                            6926234555856157225L,
                            8280132010758427834L,
                            7234535590296363919L);
        }
    }

    private static List<Long> keys(Warehouse warehouse, String... expressions) {
        List<Long> keys = new ArrayList<>();
        for (String expression : expressions) {
            keys.addAll(warehouse.query("select " + expression, row -> row.number(1)));
        }
        return keys;
    }
}
