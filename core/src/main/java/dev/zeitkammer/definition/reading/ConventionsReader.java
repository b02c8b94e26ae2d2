package dev.zeitkammer.definition.reading;

import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Conventions;
import dev.zeitkammer.definition.Problems;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.StoredFlag;
import java.time.DateTimeException;
import java.time.LocalDate;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** Reads the conventions of a project, and what a table of its own does otherwise. */
final class ConventionsReader {

    static final List<AuditColumn> FLAGS = List.of(AuditColumn.IS_CURRENT, AuditColumn.IS_DELETED);

    private final Problems problems;

    ConventionsReader(Problems problems) {
        this.problems = problems;
    }

    enum ValidTo {
        EXCLUSIVE,
        INCLUSIVE
    }

    /** The conventions of a project. */
    Conventions ofProject(Node.Mapping mapping) {
        Section section = Section.of(mapping, ProjectForms.CONVENTIONS, problems);
        Conventions standard = Conventions.STANDARD;
        long unknown = section.word("unknown").map(this::reservedKey).orElse(standard.unknown());
        long notApplicable =
                section.word("not-applicable").map(this::reservedKey).orElse(standard.notApplicable());
        if (unknown == notApplicable) {
            problems.add(section.place(), "\"unknown\" and \"not-applicable\" are the same key; expected two");
        }
        Conventions keyed = new Conventions(
                standard.openEnd(), standard.inclusive(), unknown, notApplicable, Map.of(), Map.of(), false);
        return columns(validity(keyed, section), section);
    }

    /** What a dimension or a fact does otherwise than its project: the names and values of its audit columns, and how versions end. */
    Conventions ofTable(Conventions project, Section definition) {
        Conventions named = columns(project.standing(definition.flag("standing")), definition);
        return definition
                .mapping("history")
                .map(history -> validity(named, Section.ofNames(history, problems)))
                .orElse(named);
    }

    private Conventions validity(Conventions before, Section section) {
        Optional<LocalDate> openEnd =
                section.has("open-end") ? section.word("open-end").flatMap(this::openEnd) : before.openEnd();
        boolean inclusive = section.has("valid-to")
                ? section.choice("valid-to", ValidTo.class) == ValidTo.INCLUSIVE
                : before.inclusive();
        return new Conventions(
                openEnd,
                inclusive,
                before.unknown(),
                before.notApplicable(),
                before.columns(),
                before.flags(),
                before.standing());
    }

    private Optional<LocalDate> openEnd(Word word) {
        if (word.text().equals("none")) {
            return Optional.empty();
        }
        try {
            return Optional.of(LocalDate.parse(word.text()));
        } catch (DateTimeException notADate) {
            problems.malformed(
                    word.place(), "\"open-end\" is \"" + word + "\"; expected a date such as 9999-12-31, or none");
            return Optional.empty();
        }
    }

    /** A key of a reserved member. */
    long reservedKey(Word word) {
        if (!word.text().matches("0|-[1-9]\\d{0,17}")) {
            problems.malformed(
                    word.place(), "a reserved key is \"" + word + "\"; expected a negative number such as -1, or 0");
            return 0;
        }
        return Long.parseLong(word.text());
    }

    private Conventions columns(Conventions before, Section owner) {
        Optional<Node.Mapping> mapping = owner.mapping("columns");
        if (mapping.isEmpty()) {
            return before;
        }
        Section section = Section.of(mapping.get(), SharedForms.AUDIT_COLUMNS, problems);
        Map<String, String> names = new HashMap<>(before.columns());
        Map<String, StoredFlag> flags = new HashMap<>(before.flags());
        for (AuditColumn audit : AuditColumn.values()) {
            String name = audit.columnName();
            if (section.node(name).orElse(null) instanceof Node.Mapping details) {
                Section detailed = Section.of(details, SharedForms.auditColumn(audit), problems);
                detailed.word("column").ifPresent(word -> names.put(name, word.text()));
                flag(detailed, name).ifPresent(flag -> flags.put(name, flag));
            } else {
                section.word(name).ifPresent(word -> names.put(name, word.text()));
            }
        }
        return new Conventions(
                before.openEnd(),
                before.inclusive(),
                before.unknown(),
                before.notApplicable(),
                names,
                flags,
                before.standing());
    }

    private Optional<StoredFlag> flag(Section section, String column) {
        if (!section.has("true") && !section.has("false")) {
            return Optional.empty();
        }
        Optional<Word> yes = section.required("true", "the value that stands for yes in " + column);
        Optional<Word> no = section.required("false", "the value that stands for no in " + column);
        if (yes.isEmpty() || no.isEmpty()) {
            return Optional.empty();
        }
        if (yes.get().text().equals(no.get().text())) {
            problems.add(no.get().place(), "\"true\" and \"false\" of " + column + " are the same value; expected two");
        }
        return Optional.of(StoredFlag.of(yes.get().text(), no.get().text()));
    }
}
