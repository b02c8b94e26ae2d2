package dev.zeitkammer.engine;

import static org.assertj.core.api.Assertions.assertThat;

import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

/** Types as developers write them, and which hold every value of which others. */
class SqlTypeTest {

    private static SqlType type(String text) {
        return SqlType.parse(text).orElseThrow();
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "INT|integer",
                "long|bigint",
                "numeric(10, 2)|decimal(10,2)",
                "decimal(9)|decimal(9,0)",
                "decimal|decimal(18,3)",
                "Character Varying (20)|varchar(20)",
                "text|varchar",
                "double precision|double",
                "timestamp without time zone|timestamp",
                "bool|boolean",
            })
    void isReadAsDevelopersWriteIt(String written, String read) {
        assertThat(type(written)).hasToString(read);
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "money",
                "decimal(0)",
                "decimal(2,3)",
                "decimal(39)",
                "varchar(0)",
                "date(3)",
                "varchar(3,4)",
                "int("
            })
    void isNotReadFromNonsense(String written) {
        assertThat(SqlType.parse(written)).isEmpty();
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "smallint|integer",
                "integer|bigint",
                "integer|double",
                "integer|decimal(10,0)",
                "bigint|decimal(19,0)",
                "decimal(8,2)|decimal(10,2)",
                "date|timestamp",
                "varchar(5)|varchar(9)",
                "varchar(5)|varchar",
                "real|double",
            })
    void holdsEveryValueOfANarrowerOne(String narrow, String wide) {
        assertThat(type(narrow).fitsIn(type(wide))).isTrue();
        assertThat(type(wide).fitsIn(type(narrow))).isFalse();
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "bigint|double",
                "bigint|decimal(18,0)",
                "integer|varchar",
                "decimal(10,2)|decimal(10,3)",
                "varchar|date",
                "time|timestamp",
                "boolean|integer",
            })
    void doesNotHoldWhatWouldBeLost(String one, String other) {
        assertThat(type(one).fitsIn(type(other))).isFalse();
    }
}
