package dev.zeitkammer.definition.reading;

import dev.zeitkammer.definition.Conventions;
import dev.zeitkammer.definition.Problems;
import dev.zeitkammer.definition.ReservedMember;
import dev.zeitkammer.definition.Word;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;

/** Reads the reserved members of a dimension: the two that every one has, and those with names of its own. */
final class ReservedReader {

    private static final String KEY = "key";

    private final Problems problems;
    private final Conventions conventions;

    ReservedReader(Problems problems, Conventions conventions) {
        this.problems = problems;
        this.conventions = conventions;
    }

    List<ReservedMember> read(Section definition) {
        Optional<Node.Mapping> mapping = definition.mapping("reserved");
        Section section = mapping.map(found -> Section.ofNames(found, problems))
                .orElseGet(
                        () -> Section.ofNames(new Node.Mapping(new LinkedHashMap<>(), definition.place()), problems));
        List<ReservedMember> members = new ArrayList<>();
        members.add(standard(section, ReservedMember.UNKNOWN, conventions.unknown(), "Unknown"));
        ReservedMember notApplicable =
                standard(section, ReservedMember.NOT_APPLICABLE, conventions.notApplicable(), "Not applicable");
        add(members, notApplicable, new Word(notApplicable.name(), section.place()));
        for (Node.Entry entry : section.entries()) {
            if (members.stream()
                    .noneMatch(member -> member.name().equals(entry.keyword().text()))) {
                named(section, entry.keyword()).ifPresent(member -> add(members, member, entry.keyword()));
            }
        }
        return members;
    }

    /** One of the two that every dimension has; its key is that of the conventions, where it says none of its own. */
    private ReservedMember standard(Section section, String name, long key, String label) {
        Map<String, Word> values = values(section, name);
        long own = Optional.ofNullable(values.remove(KEY))
                .map(new ConventionsReader(problems)::reservedKey)
                .orElse(key);
        return new ReservedMember(name, own, label, values);
    }

    private Optional<ReservedMember> named(Section section, Word name) {
        if (!name.text().matches("[\\p{L}][\\p{L}\\p{N}_-]*") || LookupReader.isOutcome(name.text())) {
            problems.add(
                    name.place(),
                    "\"" + name + "\" cannot be the name of a reserved member: choose a word of letters, digits and"
                            + " dashes that is no outcome of a lookup");
            return Optional.empty();
        }
        Optional<Node.Mapping> mapping = section.mapping(name.text());
        if (mapping.isEmpty()) {
            return Optional.empty();
        }
        Section details = Section.ofNames(mapping.get(), problems);
        Map<String, Word> values = values(section, name.text());
        values.remove(KEY);
        return details.required(KEY, "its surrogate key, a negative number such as -3")
                .map(new ConventionsReader(problems)::reservedKey)
                .map(key -> new ReservedMember(name.text(), key, label(name.text()), values));
    }

    private static String label(String name) {
        String words = name.replace('-', ' ').replace('_', ' ');
        return words.substring(0, 1).toUpperCase(Locale.ROOT) + words.substring(1);
    }

    private void add(List<ReservedMember> members, ReservedMember member, Word name) {
        members.stream()
                .filter(other -> other.key() == member.key())
                .findFirst()
                .ifPresentOrElse(
                        other -> problems.add(
                                name.place(),
                                "the reserved member \"" + name + "\" has the key " + member.key()
                                        + ", which is that of \"" + other.name()
                                        + "\"; choose another negative number"),
                        () -> members.add(member));
    }

    private static Map<String, Word> values(Section reserved, String keyword) {
        Map<String, Word> values = new LinkedHashMap<>();
        reserved.mapping(keyword).ifPresent(mapping -> {
            for (Node.Entry entry : mapping.entries().values()) {
                reserved.wordOf(entry.value(), "\"" + entry.keyword() + "\"")
                        .ifPresent(value -> values.put(
                                entry.keyword().text(),
                                new Word(value.text(), entry.keyword().place())));
            }
        });
        return values;
    }
}
