package dev.zeitkammer.definition;

import java.math.BigDecimal;
import java.util.List;
import java.util.Optional;

/**
 * What the loads of a table must meet.
 *
 * @param setAsideLimit the most staged rows that may be set aside, in per cent; empty: any number
 * @param expectations what is expected of the table once it is loaded
 */
public record Demands(Optional<BigDecimal> setAsideLimit, List<Expectation> expectations) {

    public Demands {
        expectations = List.copyOf(expectations);
    }

    /** Reads them. */
    static Demands of(Section definition, Optional<BigDecimal> ofProject, ExpectationReader reader) {
        return new Demands(limit(definition).or(() -> ofProject), reader.ofTable(definition));
    }

    /** A share of the staged rows, where it is given. */
    static Optional<BigDecimal> limit(Section section) {
        return section.word("set-aside-limit").flatMap(word -> {
            if (!SharedForms.SHARE.matcher(word.text()).matches()) {
                section.problems()
                        .malformed(
                                word.place(), "\"set-aside-limit\" is \"" + word + "\"; expected a share such as 5%");
                return Optional.empty();
            }
            return Optional.of(percent(word));
        });
    }

    /** The number of a share such as 5%. */
    static BigDecimal percent(Word share) {
        return new BigDecimal(share.text().replace("%", "").strip());
    }
}
