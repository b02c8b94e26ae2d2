package dev.zeitkammer.view;

import dev.zeitkammer.definition.Assertion.Otherwise;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.UsageException;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.Warehouse.Result;
import dev.zeitkammer.staging.Delivery;
import dev.zeitkammer.staging.Earlier;
import dev.zeitkammer.staging.LoadDate;
import dev.zeitkammer.staging.StagedRows;
import dev.zeitkammer.staging.Staging;
import dev.zeitkammer.staging.Unusable;
import dev.zeitkammer.staging.Wanted;
import dev.zeitkammer.step.AssertedRows;
import dev.zeitkammer.step.Expressions;
import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;

/** What an input has waiting for a load, as typed rows. */
public final class InputView {

    private final Project project;
    private final Warehouse warehouse;

    public InputView(Project project, Warehouse warehouse) {
        this.project = project;
        this.warehouse = warehouse;
    }

    /**
     * Staged rows.
     *
     * @param from what they were read from, as messages call it
     * @param rows the rows, with a last column that says why a row would be set aside whatever table it is loaded into
     * @param staged how many rows there are in all
     * @param unusable what of the delivery is no row
     */
    public record Shown(String from, Result rows, long staged, List<Unusable> unusable) {}

    /**
     * Reads the delivery of a load date, or the newest one.
     *
     * @param limit the greatest number of rows
     * @throws UsageException where there is none
     */
    public Shown rows(Input input, Optional<LoadDate> date, Optional<Long> limit) {
        Staging staging = new Staging(warehouse, project.folder());
        Delivery delivery = date.map(day -> staging.delivery(input, day, Earlier.NOTHING))
                .orElseGet(() -> staging.newest(input, Earlier.NOTHING))
                .orElseThrow(() -> new UsageException(
                        "The input \"" + input.name() + "\" has no delivery: " + staging.missing(input, date)));
        Wanted wanted = new Wanted(delivery);
        delivery.header().forEach(column -> wanted.column(column, Optional.empty()));
        StagedRows staged = staging.stage(delivery, wanted, Earlier.NOTHING);
        Dialect dialect = warehouse.dialect();
        String where = input.where()
                .map(condition -> "\nwhere coalesce(" + Expressions.sql(condition) + ", false)")
                .orElse("");
        String columns = dialect.list(staged.columns(), column -> dialect.quote(column.name()));
        String sql = "select " + columns + ", " + aside(input) + " as "
                + dialect.quote("would be set aside") + "\nfrom " + StagedRows.TABLE + " as s" + where
                + "\norder by zk_row" + limit.map(rows -> "\nlimit " + rows).orElse("");
        long rows = warehouse.number("select count(*) from " + StagedRows.TABLE + " as s" + where);
        return new Shown(delivery.shown(), warehouse.result(sql), rows, staged.unusable());
    }

    /** Why a row would be set aside, as far as the input itself says: a value that cannot be read, or what is expected of it. */
    private String aside(Input input) {
        Dialect dialect = warehouse.dialect();
        String unexpected = input.assertions().stream()
                .filter(assertion -> assertion.isOfRows())
                .filter(assertion -> assertion.otherwise() == Otherwise.SET_ASIDE)
                .map(assertion -> " when not coalesce(" + AssertedRows.condition(assertion, dialect) + ", true) then "
                        + dialect.text(assertion.name() + ": fails an assertion"))
                .collect(Collectors.joining());
        return "case when zk_bad_column is not null then zk_bad_column || ': ' || coalesce(zk_bad_text, '')"
                + unexpected + " else " + dialect.cast("null", SqlType.VARCHAR) + " end";
    }
}
