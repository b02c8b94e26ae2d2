package dev.zeitkammer.definition.reading;

import static dev.zeitkammer.definition.form.Keyword.of;
import static dev.zeitkammer.definition.form.Keyword.required;
import static dev.zeitkammer.definition.form.Shape.TEXT;
import static dev.zeitkammer.definition.form.Shape.TEXTS;
import static dev.zeitkammer.definition.form.Shape.group;
import static dev.zeitkammer.definition.form.Shape.matching;
import static dev.zeitkammer.definition.form.Shape.names;
import static dev.zeitkammer.definition.form.Shape.several;

import dev.zeitkammer.definition.ExtraStep;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.Settings;
import dev.zeitkammer.definition.form.Form;
import dev.zeitkammer.definition.form.Keyword;
import java.util.List;
import java.util.regex.Pattern;

/** The forms of zeitkammer.yaml. */
final class ProjectForms {

    private static final List<Keyword> ADDRESS = List.of(
            required(
                    "url",
                    matching(Pattern.compile("jdbc:.*|.*\\$\\{.*"), "jdbc:duckdb:warehouse.duckdb"),
                    "The JDBC URL."),
            of("user", TEXT, "The user."),
            of("password", TEXT, "The password; put it into a variable: \"${NAME}\"."),
            of("password-file", TEXT, "A file that holds the password."),
            of("schema", TEXT, "The schema of the tables."));

    static final Form DATABASE = Form.of("database", "a database").and(ADDRESS);

    static final Form WAREHOUSE = Form.of("warehouse", "a warehouse")
            .and(ADDRESS)
            .and(List.of(
                    of("catalog", TEXT, "Of a cluster: the catalog that holds the tables."),
                    of(
                            "exchange",
                            TEXT,
                            "Of a cluster: a folder that this machine and the cluster both see, for staged rows.")));

    static final Form METRICS = Form.of("metrics", "metrics", required("to", TEXT, "The file, such as metrics.txt."));

    static final Form EVENTS = Form.of(
            "events",
            "events",
            required("to", TEXT, "A file such as events.jsonl, or an address that begins with http:// or https://."),
            of("key", TEXT, "What an address gets as a bearer token; put it into a variable: \"${NAME}\"."));

    static final Form EXTRA_STEP = Form.of(
                    "extra-step",
                    "an extra step",
                    required("name", TEXT, "How outputs call it."),
                    of("before", TEXT, "What it runs before: load, dimensions, facts, or a table."),
                    of("after", TEXT, "What it runs after: load, dimensions, facts, or a table."),
                    of(
                            "on",
                            Section.choice(ExtraStep.On.class),
                            "How that must have ended: done (default), failure or stopped (by a guard)."),
                    of("sql", TEXT, "One statement."),
                    of("command", TEXTS, "A program and its arguments, run in the folder of the project."),
                    of(
                            "in",
                            Section.choice(ExtraReader.In.class),
                            "transaction: the statement is part of the table's own."),
                    of(
                            "otherwise",
                            Section.choice(ExtraReader.Otherwise.class),
                            "What follows where it fails: stop (default) or note."),
                    of(
                            "time-limit",
                            matching(ExtraReader.TIME, "10 minutes"),
                            "How long it may take; default: 1 hour."))
            .exactlyOne(List.of("before", "after"))
            .exactlyOne(List.of("sql", "command"));

    static final Form CONVENTIONS = Form.of(
            "conventions",
            "conventions",
            SharedForms.OPEN_END_KEYWORD,
            SharedForms.VALID_TO_KEYWORD,
            of("unknown", SharedForms.RESERVED_KEY, "The key for a value that matches nobody; default: -1."),
            of("not-applicable", SharedForms.RESERVED_KEY, "The key for no value; default: -2."),
            SharedForms.COLUMNS);

    static final Form PROJECT = Form.of(
            "project",
            Project.FILE,
            required("project", TEXT, "The project's name."),
            of("warehouses", names(group(WAREHOUSE)), "Where tables are loaded, by name."),
            of("use", TEXT, "The warehouse that is meant where none is named; default: the first."),
            of("databases", names(group(DATABASE)), "Operational databases that inputs read from, by name."),
            of("memory", matching(ProjectReader.MEMORY, "4GB"), "The most that the embedded engine may use."),
            SharedForms.IMAGES,
            of(
                    "sealed",
                    Section.choice(Settings.Sealed.class),
                    "What a load does about a table that was changed by hand: ignore (default), note or stop."),
            of(
                    "tidy",
                    matching(ProjectReader.EVERY, "every 10 loads"),
                    "Puts the files behind all tables in order after so many loads."),
            of("events", group(EVENTS), "Tells of each table's load as OpenLineage events."),
            of("metrics", group(METRICS), "Writes what each load came to into a file, in the OpenMetrics text format."),
            SharedForms.SET_ASIDE_LIMIT,
            of("extra", several(group(EXTRA_STEP)), "Steps of one's own at places in the load."),
            of("conventions", group(CONVENTIONS), "How tables look where their definitions say nothing else."));

    private ProjectForms() {}
}
