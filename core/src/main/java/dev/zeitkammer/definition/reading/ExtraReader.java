package dev.zeitkammer.definition.reading;

import dev.zeitkammer.definition.ExtraStep;
import dev.zeitkammer.definition.ExtraStep.On;
import dev.zeitkammer.definition.Nearest;
import dev.zeitkammer.definition.Problems;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.SqlText;
import java.time.Duration;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** Reads the extra steps of a project. */
final class ExtraReader {

    static final Pattern TIME = Pattern.compile("([1-9]\\d{0,5}) (second|minute|hour)s?");
    private static final Duration USUAL_LIMIT = Duration.ofHours(1);

    private final Problems problems;
    private final Map<String, String> tables;

    /** @param tables the names by which tables can be named, each with that of its definition */
    ExtraReader(Problems problems, Map<String, String> tables) {
        this.problems = problems;
        this.tables = tables;
    }

    enum In {
        AFTERWARDS,
        TRANSACTION
    }

    enum Otherwise {
        STOP,
        NOTE
    }

    List<ExtraStep> read(Node node) {
        if (!(node instanceof Node.Sequence list)) {
            problems.malformed(node.place(), "\"extra\" is " + node.form() + "; expected a list of steps");
            return List.of();
        }
        List<ExtraStep> steps = new ArrayList<>();
        Set<String> names = new HashSet<>();
        for (Node item : list.items()) {
            if (!(item instanceof Node.Mapping mapping)) {
                problems.malformed(item.place(), "an extra step is " + item.form() + "; expected keywords below it");
                continue;
            }
            step(mapping).ifPresent(step -> {
                if (!names.add(step.name().text())) {
                    problems.add(step.name().place(), "there is another extra step \"" + step.name() + "\"");
                }
                steps.add(step);
            });
        }
        return steps;
    }

    private Optional<ExtraStep> step(Node.Mapping mapping) {
        Section section = Section.of(mapping, ProjectForms.EXTRA_STEP, problems);
        Optional<Word> name = section.required("name", "how outputs are to call it");
        if (section.has("before") == section.has("after")) {
            problems.malformed(
                    section.place(),
                    "an extra step runs \"before\" or \"after\" something: load, dimensions, facts, or a table");
            return Optional.empty();
        }
        if (section.has("sql") == section.has("command")) {
            problems.malformed(section.place(), "an extra step has \"sql\" or \"command\", and one of them only");
            return Optional.empty();
        }
        boolean isBefore = section.has("before");
        Optional<String> anchor = section.word(isBefore ? "before" : "after").flatMap(this::anchor);
        Optional<Word> sql =
                section.word("sql").map(word -> new Word(word.text().strip().replaceFirst(";$", ""), word.place()));
        sql.ifPresent(word -> SqlText.faultOfStatement(word.text())
                .ifPresent(why -> problems.add(word.place(), "\"sql\" is not one statement: " + why)));
        List<String> command = section.words("command").stream().map(Word::text).toList();
        if (section.has("command") && command.isEmpty()) {
            problems.add(
                    section.placeOf("command"),
                    "\"command\" is empty; expected a program and its arguments, in a list");
        }
        boolean inTransaction = section.choice("in", In.class) == In.TRANSACTION;
        if (inTransaction
                && (sql.isEmpty() || anchor.filter(tables::containsValue).isEmpty())) {
            problems.add(
                    section.placeOf("in"),
                    "\"in: transaction\" is for a statement before or after one table, whose transaction it joins");
        }
        if (inTransaction
                && section.word("otherwise")
                        .filter(word -> word.text().equals("note"))
                        .isPresent()) {
            problems.add(
                    section.placeOf("otherwise"),
                    "a statement that fails ends the transaction it is in; say in: afterwards, or otherwise: stop");
        }
        On on = section.choice("on", On.class);
        if (on != On.DONE && (isBefore || inTransaction)) {
            problems.add(
                    section.placeOf("on"),
                    "\"on\" says how that ended after which the step runs; expected it beside after, and not in a transaction");
        }
        boolean phase = anchor.filter(List.of(ExtraStep.DIMENSIONS, ExtraStep.FACTS)::contains)
                .isPresent();
        if (on != On.DONE && phase) {
            problems.add(
                    section.placeOf("on"),
                    "\"on\" is for steps after load or after one table; each table that ends so has its own");
        }
        boolean stops = section.choice("otherwise", Otherwise.class) == Otherwise.STOP;
        Duration limit = section.word("time-limit").map(this::limit).orElse(USUAL_LIMIT);
        return name.flatMap(known -> anchor.map(
                where -> new ExtraStep(known, isBefore, on, where, sql, command, inTransaction, stops, limit)));
    }

    private Optional<String> anchor(Word word) {
        if (List.of(ExtraStep.LOAD, ExtraStep.DIMENSIONS, ExtraStep.FACTS).contains(word.text())) {
            return Optional.of(word.text());
        }
        Optional<String> table = Optional.ofNullable(tables.get(word.text()));
        if (table.isEmpty()) {
            List<String> valid = new ArrayList<>(List.of(ExtraStep.LOAD, ExtraStep.DIMENSIONS, ExtraStep.FACTS));
            valid.addAll(tables.values().stream().distinct().toList());
            problems.add(word.place(), "there is no table \"" + word + "\"; " + Nearest.hint(word.text(), valid));
        }
        return table;
    }

    private Duration limit(Word word) {
        Matcher time = TIME.matcher(word.text());
        if (!time.matches()) {
            problems.malformed(word.place(), "\"time-limit\" is \"" + word + "\"; expected a time such as 10 minutes");
            return USUAL_LIMIT;
        }
        long number = Long.parseLong(time.group(1));
        return switch (time.group(2)) {
            case "second" -> Duration.ofSeconds(number);
            case "minute" -> Duration.ofMinutes(number);
            default -> Duration.ofHours(number);
        };
    }
}
