package dev.zeitkammer.load;

import dev.zeitkammer.books.Books;
import dev.zeitkammer.books.Journal;
import dev.zeitkammer.books.Journal.Mark;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Fact;
import dev.zeitkammer.definition.Feed;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Nearest;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.UsageException;
import dev.zeitkammer.engine.Warehouse;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** Changes high-water marks on purpose. */
public final class MarkSetting {

    private static final Pattern FORM = Pattern.compile("([^.=]+)\\.([^=]+)=(.+)");
    private static final String NONE = "none";
    private static final String NUMBER = "-?\\d+(\\.\\d+)?";
    private static final String DAY = "\\d{4}-\\d\\d-\\d\\d";
    private static final String MOMENT = DAY + "[ T]\\d\\d:\\d\\d(:\\d\\d(\\.\\d{1,6})?)?";

    private final Project project;
    private final Warehouse warehouse;

    public MarkSetting(Project project, Warehouse warehouse) {
        this.project = project;
        this.warehouse = warehouse;
    }

    /** A mark that was changed; {@code after} holds the word none where it was taken away. */
    public record MarkChange(Optional<Mark> before, Mark after) {}

    /**
     * Sets a mark.
     *
     * @param wanted {@code TABLE.INPUT=VALUE}, or none as the value
     * @throws UsageException when there is no such mark to set, or the value is of another kind than the one that stands
     */
    public MarkChange set(String wanted) {
        Matcher form = FORM.matcher(wanted.strip());
        if (!form.matches()) {
            throw new UsageException(
                    "\"" + wanted
                            + "\" is no mark; expected TABLE.INPUT=VALUE, as in night_stay.bookings=2026-03-01, or none as the value");
        }
        Definition definition = project.definition(form.group(1));
        Map<String, Input> inputs = markedInputs(definition);
        Input input = inputs.get(form.group(2));
        if (input == null) {
            throw new UsageException("The table " + definition.table() + " has no input \"" + form.group(2)
                    + "\" with newer-than; " + Nearest.hint(form.group(2), inputs.keySet()));
        }
        String column = input.newer().orElseThrow().column().text();
        Mark after = new Mark(
                definition.table(), input.name().text(), column, form.group(3).strip());
        Books books = new Books(warehouse);
        books.create();
        Optional<Mark> before = new Journal(warehouse)
                .marks().stream()
                        .filter(mark -> mark.table().equals(after.table())
                                && mark.input().equals(after.input()))
                        .findFirst();
        refuseAnotherKind(before, after);
        return warehouse.inTransaction(() -> {
            if (after.mark().equals(NONE)) {
                books.forgetMark(after.table(), after.input());
            } else {
                books.noteMark(after.table(), after.input(), column, after.mark());
            }
            return new MarkChange(before, after);
        });
    }

    private static Map<String, Input> markedInputs(Definition definition) {
        Map<String, Input> inputs = new LinkedHashMap<>();
        definition.from().ifPresent(input -> inputs.put(input.name().text(), input));
        if (definition instanceof Fact fact) {
            fact.feeds().stream()
                    .map(Feed::from)
                    .forEach(input -> inputs.put(input.name().text(), input));
        }
        inputs.values().removeIf(input -> input.newer().isEmpty());
        return inputs;
    }

    private static void refuseAnotherKind(Optional<Mark> before, Mark after) {
        String value = after.mark();
        boolean known = value.equals(NONE) || value.matches(NUMBER) || value.matches(DAY) || value.matches(MOMENT);
        boolean fits = before.map(Mark::mark)
                .map(mark -> value.equals(NONE) || mark.matches(NUMBER) == value.matches(NUMBER))
                .orElse(true);
        if (!known || !fits) {
            throw new UsageException("\"" + value + "\" cannot be the mark of " + after.column() + "; expected "
                    + before.map(mark -> "a value like the one that stands, " + mark.mark())
                            .orElse("a number, a date or a timestamp such as 2026-03-01 10:00:00")
                    + ", or none");
        }
    }
}
