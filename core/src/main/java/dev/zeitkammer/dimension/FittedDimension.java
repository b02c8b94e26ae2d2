package dev.zeitkammer.dimension;

import dev.zeitkammer.align.Aligning;
import dev.zeitkammer.align.Alignment;
import dev.zeitkammer.align.Constraining;
import dev.zeitkammer.align.Constraint;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.MemberLookup;
import dev.zeitkammer.dimension.members.HierarchyBridge;
import dev.zeitkammer.dimension.members.ReservedMembers;
import dev.zeitkammer.dimension.table.DimensionTable;
import dev.zeitkammer.dimension.table.StandingVersions;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.step.Stamp;
import dev.zeitkammer.step.TableLoad.Prepared;
import java.util.List;
import java.util.Map;

/**
 * Makes a dimension's table fit its definition: its columns and constraints, its bridge, the keys that its rows lack.
 *
 * @param stands whether the table is there
 */
record FittedDimension(Dimension definition, Warehouse warehouse, boolean stands) {

    /**
     * What must be so before the first row.
     *
     * @param isFirst whether nothing was ever loaded into it
     */
    Prepared prepared(DimensionTable table, Stamp stamp, boolean isFirst) {
        ReservedMembers reserved = new ReservedMembers(table, warehouse, stamp);
        reserved.refuseWhatDoesNotFit();
        Alignment alignment = Aligning.of(table.shape(warehouse, stamp), warehouse);
        if (stands) {
            if (definition.conventions().standing()) {
                reserved.refuseGaps();
            }
            alignment = alignment.then(reserved.completing(warehouse.columns(definition.table())));
        }
        if (definition.hierarchy().isPresent()) {
            alignment = alignment.and(Aligning.of(HierarchyBridge.shape(definition), warehouse));
        }
        StandingVersions versions = new StandingVersions(definition, warehouse);
        alignment = versions.completing(alignment);
        if (alignment.added().contains(definition.memberKeyColumn())) {
            alignment = alignment.then(memberKeys(table));
        }
        if (definition.isEnforced()) {
            for (MemberLookup lookup : definition.lookups()) {
                alignment = alignment.then(primaryKey(lookup.lookup().dimension()));
            }
            alignment = alignment.then(Constraining.of(definition.table(), table.constraints(), warehouse));
        }
        boolean isAdopted = definition.conventions().standing() && stands && isFirst;
        return new Prepared(
                alignment, isAdopted ? List.of(versions.oneCurrent()) : List.of(), reserved.changes(), List.of());
    }

    /** The key that a dimension must have for others to point at it; its own is seen to with its table. */
    private List<String> primaryKey(Dimension other) {
        return other.table().equals(definition.table())
                ? List.of()
                : Constraining.of(other.table(), List.of(Constraint.primaryKey(other.keyColumn())), warehouse);
    }

    /** Members that stand get a member key: the surrogate key of their first version, and reserved ones their own. */
    private String memberKeys(DimensionTable table) {
        Dialect dialect = warehouse.dialect();
        String target = warehouse.table(definition.table());
        String key = dialect.quote(definition.keyColumn());
        String first = Sql.of("""
                (select t.${key}, case when ${is_reserved} then t.${key} else min(t.${key}) over (partition by ${members}) end as zk_first
                from ${target} as t)""")
                .with("key", key)
                .with("is_reserved", definition.isReserved("t." + key))
                .with("members", dialect.list(table.keys(), name -> dialect.column("t", name)))
                .with("target", target)
                .text();
        return dialect.rewrite(
                target,
                first,
                dialect.allEqual(List.of(definition.keyColumn()), "t", "c"),
                Map.of(definition.memberKeyColumn(), "c.zk_first"));
    }
}
