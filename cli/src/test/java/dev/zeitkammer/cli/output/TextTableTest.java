package dev.zeitkammer.cli.output;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.OptionalInt;
import org.junit.jupiter.api.Test;

/** Tables for people, on terminals of any width. */
class TextTableTest {

    private static TextTable table() {
        return new TextTable()
                .text("hut")
                .number("beds")
                .text("warden")
                .row("ADL", "24", "Resi Caduff")
                .row("BIR", "", "Toni");
    }

    @Test
    void aTableThatFitsHasALineARow() {
        String wide = table().render(" ", OptionalInt.of(25));
        assertThat(wide.lines()).hasSize(4).allMatch(line -> line.length() <= 25);
        assertThat(wide).isEqualTo(table().render(" ", OptionalInt.empty()));
    }

    @Test
    void aTableThatDoesNotFitShowsEachRowAsLines() {
        assertThat(table().render(" ", OptionalInt.of(20)).lines())
                .containsExactly(
                        "  " + "─".repeat(17),
                        "  hut     ADL",
                        "  beds    24",
                        "  warden  Resi Caduff",
                        "  " + "─".repeat(17),
                        "  hut     BIR",
                        "  warden  Toni");
    }
}
