package dev.zeitkammer.definition.reading;

import dev.zeitkammer.definition.Demands;
import dev.zeitkammer.definition.Word;
import java.math.BigDecimal;
import java.util.Optional;

/** Reads what the loads of a table must meet. */
final class DemandsReader {

    private DemandsReader() {}

    static Demands read(Section definition, Optional<BigDecimal> ofProject, AssertionReader reader) {
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
