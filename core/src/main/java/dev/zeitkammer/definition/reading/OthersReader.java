package dev.zeitkammer.definition.reading;

import dev.zeitkammer.definition.Deletions;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Dimension.Kind;
import dev.zeitkammer.definition.History;
import dev.zeitkammer.definition.History.Facts;
import dev.zeitkammer.definition.History.Late;
import dev.zeitkammer.definition.History.Overwrite;
import dev.zeitkammer.definition.OthersLoad;
import dev.zeitkammer.definition.Problems;
import dev.zeitkammer.definition.SurrogateKey;
import dev.zeitkammer.definition.Terms;
import dev.zeitkammer.definition.Views;
import dev.zeitkammer.definition.Word;
import java.util.List;
import java.util.Optional;

/** Reads a dimension that others load. */
final class OthersReader {

    private final Problems problems;
    private final TermsReader terms;

    OthersReader(Problems problems, TermsReader terms) {
        this.problems = problems;
        this.terms = terms;
    }

    /** One that others load: its table, its key, and how its rows are known. */
    Optional<Dimension> read(Node.Mapping mapping) {
        Section section = Section.of(mapping, DimensionForms.OTHERS, problems);
        Optional<Word> name = section.required("dimension", "the dimension's name");
        TakenReader.Columns key = DimensionReader.key(section, problems);
        Terms said = terms.read(
                section,
                name.map(known -> DimensionReader.tableName(section, known)).orElse(""));
        Optional<Section> rows =
                section.mapping("others-load").map(each -> Section.of(each, DimensionForms.OTHERS_LOAD, problems));
        if (rows.isEmpty()) {
            return Optional.empty();
        }
        Section given = rows.get();
        Optional<Word> column = given.required("key", "the column of its surrogate key");
        OthersLoad others = new OthersLoad(given.sql("current"), given.word("from"), given.word("until"));
        if (others.until().isPresent() && others.from().isEmpty()) {
            problems.add(
                    given.placeOf("until"),
                    "\"until\" needs \"from\", the column with the date from which a row holds");
        }
        Optional<Facts> facts = section.mapping("history")
                .flatMap(each -> Section.ofNames(each, problems)
                        .word("facts")
                        .flatMap(word -> section.choiceOf(word, Facts.class, "facts")));
        return name.flatMap(known -> column.map(surrogate -> new Dimension(
                known,
                DimensionReader.tableName(section, known),
                Kind.MEMBERS,
                Optional.empty(),
                key.columns(),
                key.taken(),
                List.of(),
                Optional.empty(),
                new History(Optional.empty(), Late.SPLICE, Overwrite.ALL, facts.or(() -> Optional.of(Facts.STAY))),
                Deletions.NONE,
                Optional.empty(),
                new SurrogateKey(surrogate.text(), SurrogateKey.By.SEQUENCE, Optional.empty()),
                false,
                List.of(),
                others.hasVersions(),
                Optional.empty(),
                new ReservedReader(problems, said.conventions()).read(section),
                Views.NONE,
                Optional.of(others),
                said)));
    }
}
