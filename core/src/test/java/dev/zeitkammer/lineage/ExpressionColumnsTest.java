package dev.zeitkammer.lineage;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatCode;

import dev.zeitkammer.lineage.ExpressionColumns.Mention;
import java.util.Optional;
import java.util.stream.Stream;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** What columns an expression names, and that none takes the parser for ever, or to its end. */
@Tag("slow")
class ExpressionColumnsTest {

    @Test
    void columnsAreFoundWithTheirTables() {
        assertThat(ExpressionColumns.of("coalesce(stored.paid, 0) + guests * \"The Rate\" + (select max(b.day) from b)")
                        .orElseThrow())
                .contains(new Mention(Optional.of("stored"), "paid"), new Mention(Optional.empty(), "guests"))
                .anyMatch(mention -> mention.column().contains("The Rate"));
    }

    static Stream<String> hostile() {
        return Stream.of(
                "not ".repeat(4000) + "true",
                "case when true then ".repeat(1500) + "1" + " end".repeat(1500),
                "(".repeat(2000) + "name" + ")".repeat(2000),
                "1" + " + 1".repeat(20_000),
                "- ".repeat(5000) + "1",
                "[".repeat(2000) + "1" + "]".repeat(2000));
    }

    @ParameterizedTest
    @MethodSource("hostile")
    void whatTheParserCannotBearIsNotUnderstood(String expression) {
        assertThatCode(() -> ExpressionColumns.of(expression)).doesNotThrowAnyException();
    }
}
