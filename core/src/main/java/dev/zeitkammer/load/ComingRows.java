package dev.zeitkammer.load;

import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Dimension.Kind;
import dev.zeitkammer.definition.Fact;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.TableChange;
import dev.zeitkammer.engine.TableChange.Insert;
import dev.zeitkammer.engine.TableChange.Matching;
import dev.zeitkammer.engine.TableChange.Remove;
import dev.zeitkammer.engine.TableChange.Rewrite;
import dev.zeitkammer.engine.Warehouse;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.Collectors;

/** Reads off the changes of a table which rows come and which end, before they are made. */
final class ComingRows {

    /** So many rows of a change are listed. */
    static final int MOST = 100_000;

    private final Warehouse warehouse;
    private final Definition definition;
    private final Dialect dialect;
    private final List<String> keys;
    private final String from;
    private final String ended;

    ComingRows(Warehouse warehouse, Definition definition) {
        this.warehouse = warehouse;
        this.definition = definition;
        this.dialect = warehouse.dialect();
        this.keys = definition instanceof Dimension dimension
                ? dimension.key().stream().map(Word::text).toList()
                : ((Fact) definition).rowKey();
        this.from = definition instanceof Dimension dimension && dimension.hasHistory()
                ? definition.conventions().column(AuditColumn.VALID_FROM)
                : "";
        this.ended = definition.conventions().column(AuditColumn.IS_DELETED);
    }

    /** Those of some changes, in their order and that of the keys. */
    List<ComingRow> of(List<TableChange> changes) {
        List<ComingRow> rows = new ArrayList<>();
        changes.stream()
                .filter(change -> change.table().equals(warehouse.table(definition.table())))
                .forEach(change -> {
                    if (change instanceof Insert insert) {
                        read(true, inserted(insert), rows);
                    } else if (change instanceof Remove remove) {
                        read(false, standing(remove.matching(), "true"), rows);
                    } else if (change instanceof Rewrite rewrite
                            && rewrite.set().containsKey(ended)) {
                        String isEnd = definition
                                .conventions()
                                .flag(AuditColumn.IS_DELETED)
                                .holds(dialect, rewrite.set().get(ended));
                        String ends = "(" + isEnd + ") and not "
                                + definition.conventions().holds(dialect, "t", AuditColumn.IS_DELETED);
                        read(false, standing(rewrite.matching(), ends), rows);
                    }
                });
        return rows;
    }

    private String inserted(Insert insert) {
        return Sql.of("select ${key}, ${from} from (\n${query}\n) as t (${columns})")
                .with("key", key())
                .with("from", from())
                .with("query", insert.query())
                .with("columns", dialect.columns(insert.columns()))
                .text();
    }

    private String standing(Matching matching, String condition) {
        return Sql.of("select ${key}, ${from} from ${target} as t join ${relation} as c on ${on} where ${condition}")
                .with("key", key())
                .with("from", from())
                .with("target", warehouse.table(definition.table()))
                .with("relation", matching.relation())
                .with("on", matching.on())
                .with("condition", condition)
                .text();
    }

    private String key() {
        return keys.isEmpty()
                ? "''"
                : keys.stream()
                        .map(name -> "coalesce(" + dialect.asText(dialect.column("t", name)) + ", '')")
                        .collect(Collectors.joining(" || ', ' || "));
    }

    private String from() {
        return from.isEmpty() ? "''" : "coalesce(" + dialect.asText(dialect.column("t", from)) + ", '')";
    }

    /** Reserved members have no business key; of a combination, no value is one. */
    private boolean isReserved(String key) {
        return key.isEmpty() && definition instanceof Dimension dimension && dimension.kind() != Kind.COMBINATION;
    }

    private void read(boolean comes, String query, List<ComingRow> rows) {
        warehouse.query(query + "\norder by 1, 2 limit " + MOST, row -> {
            String key = String.valueOf(row.text(1));
            if (!isReserved(key)) {
                rows.add(new ComingRow(definition.table(), comes, key, String.valueOf(row.text(2))));
            }
            return true;
        });
    }
}
