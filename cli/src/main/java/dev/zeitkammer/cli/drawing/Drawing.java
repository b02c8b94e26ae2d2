package dev.zeitkammer.cli.drawing;

import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.UsageException;
import dev.zeitkammer.lineage.Lineage;
import dev.zeitkammer.view.MemberHistory;
import dev.zeitkammer.view.WarehouseState;
import java.time.Duration;
import java.time.LocalDateTime;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.Locale;
import java.util.stream.Collectors;

/** Pictures of a project in a form that a file's name asks for. */
public final class Drawing {

    /** By this a drawing is known for one that may be replaced. */
    public static final List<String> MARKS =
            List.of(Page.MADE, "<!-- zeitkammer -->", "%% zeitkammer", OperationsData.MADE);

    /** Forms of files, by their endings. */
    public enum Form {
        HTML,
        SVG,
        MMD;

        /**
         * The form of a file.
         *
         * @throws UsageException where its ending says none
         */
        public static Form of(String file) {
            for (Form form : values()) {
                if (file.toLowerCase(Locale.ROOT).endsWith("." + form.name().toLowerCase(Locale.ROOT))) {
                    return form;
                }
            }
            throw new UsageException("What is drawn into \"" + file
                    + "\" is not known by its name; expected one that ends in .html, .svg or .mmd");
        }
    }

    private final Project project;
    private final Lineage lineage;

    public Drawing(Project project, Lineage lineage) {
        this.project = project;
        this.lineage = lineage;
    }

    /**
     * A page that a browser loads anew by itself, and that says when it was drawn.
     *
     * @param drawn in UTC, as loads tell their times
     */
    public static String following(String page, Duration pause, LocalDateTime drawn) {
        return page.replaceFirst(
                        "<meta charset=\"utf-8\">",
                        "<meta charset=\"utf-8\">\n<meta http-equiv=\"refresh\" content=\"" + pause.toSeconds() + "\">")
                .replaceFirst(
                        "</nav>",
                        "</nav>\n<p class=\"drawn\">drawn "
                                + drawn.truncatedTo(ChronoUnit.SECONDS)
                                        .toString()
                                        .replace('T', ' ') + " UTC</p>");
    }

    /** A page with the stars, the lineage and the loads. */
    public String everything(List<LoadEntry> loads) {
        return loads(lineage(stars(new Page(project.name()))), loads).html();
    }

    public String stars(Form form) {
        Diagram diagram = new Diagrams(project, lineage).stars();
        return switch (form) {
            case HTML -> stars(new Page(project.name())).html();
            case SVG -> svg(diagram);
            case MMD -> "%% zeitkammer\n" + Mermaid.stars(diagram);
        };
    }

    public String lineage(Form form) {
        Diagram diagram = new Diagrams(project, lineage).lineage();
        return switch (form) {
            case HTML -> lineage(new Page(project.name())).html();
            case SVG -> svg(diagram);
            case MMD -> "%% zeitkammer\n" + Mermaid.lineage(diagram);
        };
    }

    /**
     * What an operator watches.
     *
     * @throws UsageException for a form other than a page
     */
    public String loads(Form form, List<LoadEntry> loads) {
        if (form != Form.HTML) {
            throw new UsageException("Loads are drawn as a page only; name a file that ends in .html");
        }
        return loads(new Page(project.name()), loads).html();
    }

    /** What an operator of several warehouses watches. */
    public static String operations(List<WarehouseState> warehouses) {
        return new Page("Operations")
                .with(
                        "operations",
                        "Operations",
                        "What runs, what came late, what waits; the newest load of each table. Times are UTC. The same stands in a JSON file"
                                + " beside this page.",
                        new OperationsPage(warehouses).html())
                .html();
    }

    /**
     * The versions of a member.
     *
     * @param title the member, as it was asked for
     * @throws UsageException for a form that has no such picture
     */
    public static String history(Form form, MemberHistory history, String title) {
        Timeline timeline = new Timeline(history, title);
        return switch (form) {
            case HTML ->
                new Page(title)
                        .with(
                                "history",
                                "Versions",
                                "A strip for each column, cut where its value changes; a framed piece is a new value. Widths say nothing about time.",
                                "<div class=\"canvas\" tabindex=\"0\">" + timeline.svg("") + "</div>\n")
                        .html();
            case SVG ->
                "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<!-- zeitkammer -->\n"
                        + timeline.svg(Page.resource("diagram.css") + Page.resource("page.css"));
            case MMD ->
                throw new UsageException(
                        "Versions are drawn as a page or as SVG; name a file that ends in .html or .svg");
        };
    }

    /**
     * What deliveries look like.
     *
     * @throws UsageException for a form other than a page, or where nothing is delivered
     */
    public static String profile(Form form, String title, List<ProfileSection> inputs) {
        if (form != Form.HTML) {
            throw new UsageException("Profiles are drawn as a page only; name a file that ends in .html");
        }
        if (inputs.isEmpty()) {
            throw new UsageException("Nothing is delivered that could be drawn");
        }
        Page page = new Page(title);
        inputs.forEach(input -> page.with(
                input.input(),
                input.input(),
                "The newest delivery, " + input.profile().source()
                        + ". Bars are the most frequent values, or classes from the least to the greatest.",
                input.html()));
        return page.html();
    }

    private static String svg(Diagram diagram) {
        String svg = SvgDrawing.file(Arrangement.of(diagram), Page.resource("diagram.css"));
        int end = svg.indexOf('\n') + 1;
        return svg.substring(0, end) + "<!-- zeitkammer -->\n" + svg.substring(end);
    }

    private Page stars(Page page) {
        Diagrams diagrams = new Diagrams(project, lineage);
        String hint =
                "Facts have a double frame. A line goes from a role's key to its dimension; it is dashed where the version is that of a date (@)."
                        + " Choose a column to see where it comes from; choose a head to fold it.";
        if (!diagrams.areMany()) {
            return page.with("stars", "Stars", hint, Page.diagram(diagrams.stars()));
        }
        StringBuilder content = new StringBuilder(Page.diagram(diagrams.overview()));
        project.facts()
                .forEach(fact -> content.append("<details class=\"star\" data-of=\"")
                        .append(SvgDrawing.text(fact.table()))
                        .append("\"><summary>")
                        .append(SvgDrawing.text(fact.table() + ": "
                                + fact.lookups().stream()
                                        .map(lookup -> lookup.role().text())
                                        .collect(Collectors.joining(", "))))
                        .append("</summary>\n")
                        .append(Page.diagram(diagrams.star(fact)))
                        .append("</details>\n"));
        return page.with(
                "stars", "Stars", "Choose a fact: its star is below, with its columns. " + hint, content.toString());
    }

    private Page lineage(Page page) {
        return page.with(
                "lineage",
                "Lineage",
                "From files on the left to what is made of them. Lines are values, dashed ones find a member or its version."
                        + " Choose a column, and its ways are lit; Escape puts them out.",
                Page.diagram(new Diagrams(project, lineage).lineage()));
    }

    private static Page loads(Page page, List<LoadEntry> loads) {
        return page.with("loads", "Loads", "What the loads of each table were like.", new LoadCharts(loads).html());
    }
}
