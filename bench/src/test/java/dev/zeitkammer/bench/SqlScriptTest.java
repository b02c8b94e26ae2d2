package dev.zeitkammer.bench;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.Map;
import org.junit.jupiter.api.Test;

class SqlScriptTest {

    @Test
    void statementsEndWithASemicolonAtTheEndOfALine() {
        String script = """
                -- a comment; of one line
                select ';' as mark,
                  2;

                \\copy staged from '${csv}' with (format csv, header true);
                """;
        assertThat(SqlScript.statements(script, Map.of("csv", "/data/a $1.csv")))
                .containsExactly(
                        "select ';' as mark,\n  2",
                        "\\copy staged from '/data/a $1.csv' with (format csv, header true)");
    }

    @Test
    void nothingIsLeftOutInSilence() {
        assertThatThrownBy(() -> SqlScript.statements("select 1", Map.of())).hasMessageContaining("no semicolon");
        assertThatThrownBy(() -> SqlScript.statements("select '${csv}';", Map.of()))
                .hasMessageContaining("${csv}");
    }
}
