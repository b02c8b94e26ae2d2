package dev.zeitkammer.verify;

import dev.zeitkammer.books.Journal;
import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Fact;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.Warehouse.Result;
import dev.zeitkammer.publish.Publishing;
import dev.zeitkammer.seal.AlteredRows;
import dev.zeitkammer.seal.Seals;
import dev.zeitkammer.staging.KeptTable;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** Proves on whole tables what must always hold. Changes nothing. */
public final class Verifier {

    private static final int EXAMPLES = 10;

    private final Warehouse warehouse;
    private final Optional<Project> project;

    public Verifier(Warehouse warehouse) {
        this(warehouse, Optional.empty());
    }

    /** @param project the project whose published files are looked at too */
    public Verifier(Warehouse warehouse, Project project) {
        this(warehouse, Optional.of(project));
    }

    private Verifier(Warehouse warehouse, Optional<Project> project) {
        this.warehouse = warehouse;
        this.project = project;
    }

    /** The verdicts on some tables, in order; tables that do not stand yet have none. */
    public List<Verdict> verify(List<Definition> definitions) {
        List<Verdict> verdicts = new ArrayList<>();
        for (Definition definition : definitions) {
            if (warehouse.has(definition.table())) {
                proofs(definition).forEach(proof -> verdicts.add(verdict(definition.table(), proof)));
                sealed(definition).ifPresent(verdicts::add);
                published(definition).ifPresent(verdicts::add);
            }
        }
        Project.inputsOf(definitions).stream()
                .filter(input -> input.keep().isPresent())
                .forEach(input -> KeptProofs.of(input, warehouse)
                        .forEach(proof -> verdicts.add(verdict(KeptTable.shown(input), proof))));
        return verdicts;
    }

    /** Those of some tables that do not stand as loads left them, as far as they are sealed. */
    public List<String> changed(List<Definition> definitions) {
        return definitions.stream()
                .filter(definition -> warehouse.has(definition.table()))
                .filter(definition ->
                        sealed(definition).filter(verdict -> !verdict.holds()).isPresent())
                .map(Definition::table)
                .toList();
    }

    /** Loads whose rows do not agree with the seal, with the keys of those rows where they are few. */
    private Optional<Verdict> sealed(Definition definition) {
        if (!isStamped(definition, warehouse.columns(definition.table())) || !new Journal(warehouse).hasBooks()) {
            return Optional.empty();
        }
        return Seals.broken(definition, warehouse).map(broken -> {
            Verdict verdict = verdict(definition.table(), new Proof(Seals.CLAIM, broken, "load"));
            AlteredRows altered = new AlteredRows(definition, warehouse);
            List<List<@Nullable Object>> named = verdict.examples().rows().stream()
                    .map(row -> named(row, altered))
                    .toList();
            boolean isAnyKnown = named.stream().anyMatch(row -> row.get(row.size() - 1) != null);
            if (!isAnyKnown) {
                return verdict;
            }
            List<Column> columns = new ArrayList<>(verdict.examples().columns());
            columns.add(new Column("rows", SqlType.VARCHAR));
            return new Verdict(
                    verdict.table(), verdict.claim(), verdict.offending(), verdict.of(), new Result(columns, named));
        });
    }

    /** The loads that a verdict on a seal names. */
    public static List<Long> loads(Verdict verdict) {
        return verdict.examples().rows().stream().map(row -> number(row.get(0))).toList();
    }

    private static List<@Nullable Object> named(List<@Nullable Object> row, AlteredRows altered) {
        List<@Nullable Object> named = new ArrayList<>(row);
        named.add(altered.few(number(row.get(0)), number(row.get(2))));
        return named;
    }

    private static long number(@Nullable Object value) {
        return value instanceof Number number ? number.longValue() : 0;
    }

    private Optional<Verdict> published(Definition definition) {
        return project.flatMap(known -> Publishing.damaged(known, definition))
                .map(damaged -> new Verdict(
                        definition.table(),
                        "published files lie there as they were written",
                        damaged.size(),
                        "file",
                        new Result(
                                List.of(new Column("file", SqlType.VARCHAR)),
                                damaged.stream()
                                        .limit(EXAMPLES)
                                        .<List<@Nullable Object>>map(List::of)
                                        .toList())));
    }

    /** What fails of that which must hold for a load to go on with a dimension that others made; none where it is sound. */
    public List<Verdict> unsound(Dimension dimension) {
        return new DimensionProofs(dimension, warehouse)
                .goingOn().stream()
                        .map(proof -> verdict(dimension.table(), proof))
                        .filter(verdict -> !verdict.holds())
                        .toList();
    }

    private List<Proof> proofs(Definition definition) {
        List<Proof> proofs = new ArrayList<>(
                definition instanceof Dimension dimension
                        ? new DimensionProofs(dimension, warehouse).all()
                        : new FactProofs((Fact) definition, warehouse).all());
        proofs.addAll(AssertionProofs.of(definition, warehouse));
        boolean isStamped = isStamped(definition, warehouse.columns(definition.table()));
        if (isStamped && new Journal(warehouse).hasBooks()) {
            proofs.add(booksAgree(definition));
        }
        return proofs;
    }

    /** Whether rows know the load that wrote them; those of a table that others made do so once it is aligned. */
    static boolean isStamped(Definition definition, List<Column> columns) {
        String by = definition.conventions().column(AuditColumn.INSERTED_BY);
        return columns.stream().anyMatch(column -> column.name().equalsIgnoreCase(by));
    }

    private Proof booksAgree(Definition definition) {
        return definition instanceof Fact ? factsAgree(definition) : membersAgree(definition);
    }

    /** Rows of dimensions are never removed, so that each load's rows are still those with its number. */
    private Proof membersAgree(Definition definition) {
        Dialect dialect = warehouse.dialect();
        String by = dialect.quote(definition.conventions().column(AuditColumn.INSERTED_BY));
        String origin = dialect.quote(definition.conventions().column(AuditColumn.ROW_ORIGIN));
        String table = dialect.text(definition.table());
        return new Proof(
                "each load's rows are as many as the books say",
                Sql.of("""
                select coalesce(b.load, t.load) as load, b.inserted as in_the_books, coalesce(t.n, 0) as in_the_table
                from (
                  select load, sum(inserted) as inserted
                  from (
                    select load, inserted from ${table_loads} where table_name = ${table} and status <> 'undone'
                    union all
                    select load, inserted from ${placeholders} where table_name = ${table}${accepted}
                  ) as noted
                  group by load
                ) as b
                full join (select ${by} as load, count(*) as n from ${target} where ${origin} <> 'reserved' group by 1) as t on t.load = b.load
                where coalesce(b.inserted, -1) <> coalesce(t.n, 0)""")
                        .with("table_loads", warehouse.book("table_loads"))
                        .with("table", table)
                        .with("placeholders", warehouse.book("placeholders"))
                        .with(
                                "accepted",
                                accepted("\nunion all\nselect inserted_by as load, difference as inserted", definition))
                        .with("by", by)
                        .with("target", warehouse.table(definition.table()))
                        .with("origin", origin)
                        .text());
    }

    /** Facts may be removed; then as many are gone as the books say. */
    private Proof factsAgree(Definition definition) {
        String table = warehouse.dialect().text(definition.table());
        return new Proof(
                "there are as many rows as the books say",
                Sql.of("""
                select b.inserted - r.removed + a.difference as in_the_books, t.n as in_the_table
                from (select coalesce(sum(inserted), 0) as inserted from ${table_loads}
                    where table_name = ${table} and status <> 'undone') as b,
                  (select coalesce(sum(staged_rows), 0) as removed from ${counts}
                    where table_name = ${table} and role = '' and name = 'removed'
                      and load not in (select load from ${table_loads} where status = 'undone')) as r,
                  (select coalesce(sum(difference), 0) as difference from (select 0 as difference${accepted}) as noted) as a,
                  (select count(*) as n from ${target}) as t
                where b.inserted - r.removed + a.difference <> t.n""")
                        .with("table_loads", warehouse.book("table_loads"))
                        .with("table", table)
                        .with("counts", warehouse.book("counts"))
                        .with("accepted", accepted("\nunion all\nselect difference", definition))
                        .with("target", warehouse.table(definition.table()))
                        .text());
    }

    /** The rows that were accepted, of books that know them. */
    private String accepted(String selecting, Definition definition) {
        return warehouse.books().contains("accepted")
                ? selecting + " from " + warehouse.book("accepted") + " where table_name = "
                        + warehouse.dialect().text(definition.table())
                : "";
    }

    /**
     * Rows that stand and that the books do not know, or the other way round.
     *
     * @param load the load that inserted them; of facts, which may be removed, the newest one
     * @param rows how many more stand than the books say
     */
    public record Difference(long load, long rows) {}

    /** Where the books do not agree with a table on how many rows there are. */
    public List<Difference> differences(Definition definition) {
        if (!isStamped(definition, warehouse.columns(definition.table())) || !new Journal(warehouse).hasBooks()) {
            return List.of();
        }
        String load = definition instanceof Fact
                ? "(select max(load) from " + warehouse.book("table_loads") + ")"
                : "coalesce(load, 0)";
        return warehouse.query(
                "select " + load + ", in_the_table - coalesce(in_the_books, 0) from ("
                        + booksAgree(definition).offending() + "\n) as differing",
                row -> new Difference(row.number(1), row.number(2)));
    }

    private Verdict verdict(String table, Proof proof) {
        long offending = warehouse.number("select count(*) from (" + proof.offending() + "\n) as offending");
        String some = offending == 0 ? proof.offending() + "\nlimit 0" : proof.offending() + "\nlimit " + EXAMPLES;
        return new Verdict(table, proof.claim(), offending, proof.of(), warehouse.result(some));
    }
}
