package dev.zeitkammer.lineage;

import dev.zeitkammer.definition.Word;
import dev.zeitkammer.lineage.Flow.Part;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;

/** Lineage while it is collected. */
final class Collected {

    private final Map<String, Dataset> names = new LinkedHashMap<>();
    private final Map<Field, String> fields = new LinkedHashMap<>();
    private final Set<Flow> flows = new LinkedHashSet<>();
    private final Map<Dataset, List<Rule>> rules = new LinkedHashMap<>();
    private final Set<String> unread = new LinkedHashSet<>();

    void named(String name, Dataset table) {
        names.putIfAbsent(name, table);
    }

    /** Notes a column; what it is stays as it was said first. */
    Field field(Dataset dataset, String name, String meaning) {
        Field field = new Field(dataset, name);
        fields.merge(field, meaning, (said, now) -> said.isEmpty() ? now : said);
        return field;
    }

    /** The columns of something that are known so far. */
    List<Field> columns(Dataset dataset) {
        return fields.keySet().stream()
                .filter(field -> field.dataset().equals(dataset))
                .toList();
    }

    boolean holds(Field field) {
        return fields.containsKey(field);
    }

    void flow(Field from, Field to, Part part) {
        if (!from.equals(to)) {
            flows.add(new Flow(from, to, part));
        }
    }

    void flow(List<Field> from, Field to, Part part) {
        from.forEach(each -> flow(each, to, part));
    }

    void rule(Dataset dataset, String words, List<Field> read) {
        List<Rule> known = rules.computeIfAbsent(dataset, first -> new ArrayList<>());
        Rule rule = new Rule(words, read);
        if (!known.contains(rule)) {
            known.add(rule);
        }
    }

    /** An expression or a query that the parser does not understand. */
    void unread(Word sql, String what) {
        unread.add(sql.place() + ": " + what + " could not be read; every column that it may use counts as used");
    }

    Lineage done() {
        return new Lineage(names, fields, flows, rules, List.copyOf(unread));
    }
}
