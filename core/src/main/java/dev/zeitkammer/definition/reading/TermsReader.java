package dev.zeitkammer.definition.reading;

import dev.zeitkammer.definition.Conventions;
import dev.zeitkammer.definition.Described;
import dev.zeitkammer.definition.Problems;
import dev.zeitkammer.definition.Terms;
import java.math.BigDecimal;
import java.util.Map;
import java.util.Optional;

/** Reads what the definition of any table may say. */
final class TermsReader {

    private final Problems problems;
    private final InputNames inputs;
    private final Conventions project;
    private final Optional<BigDecimal> setAsideLimit;

    /**
     * @param project the conventions of the project, which a table may have otherwise
     * @param setAsideLimit that of the project
     */
    TermsReader(Problems problems, InputNames inputs, Conventions project, Optional<BigDecimal> setAsideLimit) {
        this.problems = problems;
        this.inputs = inputs;
        this.project = project;
        this.setAsideLimit = setAsideLimit;
    }

    enum Constraints {
        NONE,
        ENFORCED
    }

    /** @param table the table's name */
    Terms read(Section section, String table) {
        return new Terms(
                new Described(section.word("about"), Map.of(), Map.of()),
                section.choice("constraints", Constraints.class) == Constraints.ENFORCED,
                new LayoutReader(problems).read(section),
                new ConventionsReader(problems).ofTable(project, section),
                DemandsReader.read(section, setAsideLimit, new AssertionReader(problems, inputs::named)),
                PublishReader.read(section, table),
                section.words("after"),
                ImagesReader.read(section),
                section.word("known-view"));
    }
}
