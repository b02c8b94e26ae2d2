package dev.zeitkammer.cli.output;

import dev.zeitkammer.engine.Relation;
import dev.zeitkammer.load.Explanation;
import dev.zeitkammer.load.Explanation.Statement;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/** The steps of a load with their SQL. */
public final class ExplainOutput {

    private final Output output;

    public ExplainOutput(Output output) {
        this.output = output;
    }

    public void write(Explanation explanation, Format format) {
        List<Statement> statements = explanation.statements();
        switch (format) {
            case TEXT -> text(explanation);
            case JSON -> output.data(Json.of(json(explanation)));
            case CSV -> {
                output.data(Csv.line(List.of("step", "name", "purpose", "sql")));
                for (int index = 0; index < statements.size(); index++) {
                    Statement statement = statements.get(index);
                    output.data(Csv.line(List.of(index + 1, statement.name(), statement.purpose(), statement.sql())));
                }
            }
        }
    }

    private void text(Explanation explanation) {
        List<Statement> statements = explanation.statements();
        output.line("-- A load of " + explanation.table() + " in " + statements.size()
                + " steps, those from \"align\" on in one transaction.");
        if (!explanation.relations().isEmpty()) {
            output.line("");
            output.line(Style.strong("-- Scratch relations"));
            explanation.relations().forEach(this::relation);
        }
        for (int index = 0; index < statements.size(); index++) {
            Statement statement = statements.get(index);
            output.line("");
            output.line(Style.strong("-- " + (index + 1) + ". " + statement.name()));
            output.line("-- " + statement.purpose());
            statement.onlyIf().ifPresent(condition -> output.line("-- Only if " + condition.replaceAll("\\s+", " ")));
            output.line(statement.sql() + ";");
        }
    }

    private void relation(Relation relation) {
        output.line("-- " + relation.name() + ": " + relation.row());
        if (!relation.columns().isEmpty()) {
            output.line("--   " + String.join(", ", relation.columns()));
        }
    }

    private static List<Map<String, Object>> json(Explanation explanation) {
        return explanation.statements().stream().map(ExplainOutput::json).toList();
    }

    private static Map<String, Object> json(Statement statement) {
        Map<String, Object> json = new LinkedHashMap<>();
        json.put("name", statement.name());
        json.put("purpose", statement.purpose());
        statement.onlyIf().ifPresent(condition -> json.put("onlyIf", condition));
        json.put("sql", statement.sql());
        return json;
    }
}
