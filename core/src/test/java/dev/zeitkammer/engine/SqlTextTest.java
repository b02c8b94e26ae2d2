package dev.zeitkammer.engine;

import static org.assertj.core.api.Assertions.assertThat;

import org.junit.jupiter.api.Test;
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

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            quoteCharacter = '`',
            value = {
                "beds + 1",
                "coalesce(name, 'a;b)')",
                "E'it\\'s;' || \"a;b\"",
                "'it''s;'",
                "1 -- ; ) comment",
                "/* ; ) */ 1",
                "$$;)$$ || $x$;)$x$",
                "'a\\' || 'b'"
            })
    void oneExpressionHasNoFault(String sql) {
        assertThat(SqlText.fault(sql)).isEmpty();
    }

    @Test
    void nobodyNestsSoDeep() {
        assertThat(SqlText.fault("(".repeat(200) + "1" + ")".repeat(200))).isEmpty();
        assertThat(SqlText.fault("(".repeat(201) + "1" + ")".repeat(201)))
                .hasValueSatisfying(why -> assertThat(why).contains("nested more than 200 deep"));
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            quoteCharacter = '`',
            value = {
                "1; drop table dim_hut | semicolon",
                "1); copy (select 1) to 'x' ; select (1 | not opened",
                "1) as x, (select 2 | not opened",
                "(1 | never closed",
                "'abc | begins with '",
                "/* 1 | begins with /",
                "'a\\'; drop table x; --' | semicolon",
                "xE'a\\'; drop table x; --' | semicolon"
            })
    void whatWouldEndTheStatementAroundItIsFound(String sql, String fault) {
        assertThat(SqlText.fault(sql)).hasValueSatisfying(why -> assertThat(why).contains(fault));
    }
}
