package dev.zeitkammer.engine;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import org.junit.jupiter.api.Test;

class SqlTest {

    private static final Relation HUTS = Relation.of("zk_huts", "A hut.", "zk_row");

    @Test
    void placesAreFilledByTheirNames() {
        assertThat(Sql.of("select ${a}, ${b}, ${a} from ${huts}")
                        .with(HUTS)
                        .with("a", "x")
                        .with("b", 2)
                        .text())
                .isEqualTo("select x, 2, x from zk_huts");
    }

    @Test
    void aPlaceWithoutAValueIsRefused() {
        assertThatThrownBy(() -> Sql.of("select ${a}").text()).hasMessageContaining("'a'");
    }

    @Test
    void aValueWithoutAPlaceIsRefused() {
        assertThatThrownBy(() -> Sql.of("select ${a}").with("a", 1).with("b", 2).text())
                .hasMessageContaining("There is no place for [b] in: select ${a}");
        assertThatThrownBy(() -> Sql.of("select ${a}").with("a", 1).with("a", 1))
                .hasMessage("${a} is given twice");
    }

    @Test
    void valuesAreTakenAsTheyAre() {
        assertThat(Sql.of("select ${a}, $$x$$, ${b}")
                        .with("a", "'${b} $ \\ $${b} ${c:-d}'")
                        .with("b", "'$1'")
                        .text())
                .isEqualTo("select '${b} $ \\ $${b} ${c:-d}', $$x$$, '$1'");
    }

    @Test
    void aValueOfSeveralLinesMovesToItsPlaceButNotInsideItsLiterals() {
        assertThat(Sql.of("select *\nfrom (\n  ${query}\n) as q")
                        .with("query", "select 'a\nb'\nfrom t")
                        .text())
                .isEqualTo("select *\nfrom (\n  select 'a\nb'\n  from t\n) as q");
    }
}
