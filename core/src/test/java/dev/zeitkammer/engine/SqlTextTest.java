package dev.zeitkammer.engine;

import static org.assertj.core.api.Assertions.assertThat;

import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** What moves to the right is what means nothing; {@code ~} stands for the end of a line. */
class SqlTextTest {

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            quoteCharacter = '`',
            value = {
                "select 1~from t | ..select 1~..from t",
                "select 'a~b', 1~from t | ..select 'a~b', 1~..from t",
                "select 'it''s~b'~from t | ..select 'it''s~b'~..from t",
                "select \"a~b\"~from t | ..select \"a~b\"~..from t",
                "select 1 -- it's~from t | ..select 1 -- it's~..from t",
                "select 1 /* it's~more */~from t | ..select 1 /* it's~more */~..from t",
                "select $$a~b$$~from t | ..select $$a~b$$~..from t",
                "select $x$a~'b$x$~from t | ..select $x$a~'b$x$~..from t",
                "select $1~from t | ..select $1~..from t",
                "select 1~from t~~ | ..select 1~..from t",
            })
    void linesInsideOfSomethingStay(String sql, String indented) {
        assertThat(SqlText.indented(sql.replace('~', '\n'), 2))
                .isEqualTo(indented.replace('~', '\n').replace("..", "  "));
    }
}
