package dev.zeitkammer.staging;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.definition.Place;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.SqlType;
import java.util.Optional;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class MarkValueTest {

    @ParameterizedTest
    @CsvSource({
        "17, bigint, , 17",
        "17, bigint, 5, 12",
        "17.50, 'decimal(10,2)', 1, 16.50",
        "2026-03-10, date, , 2026-03-10",
        "2026-03-10, date, 3, 2026-03-07",
        "2026-03-10, date, 2 days, 2026-03-08",
        "2026-03-10 10:00:00, timestamp, 90 minutes, 2026-03-10T08:30",
        "2026-03-10 10:00:00.000001, timestamp, 1 hour, 2026-03-10T09:00:00.000001",
        "abc, varchar, , "
    })
    void beginsBeforeTheMarkByTheOverlap(String mark, String type, String overlap, String expected) {
        Optional<Word> again = Optional.ofNullable(overlap).map(text -> new Word(text, new Place("input.yaml", 1, 1)));
        Optional<Object> value = MarkValue.of(mark, SqlType.parse(type).orElseThrow(), again);
        assertThat(value.map(Object::toString)).isEqualTo(Optional.ofNullable(expected));
    }
}
