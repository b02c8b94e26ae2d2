package dev.zeitkammer.load;

import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.step.ChangedAttribute;
import dev.zeitkammer.step.ChangedValue;
import dev.zeitkammer.step.Differences;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.stream.Collectors;
import java.util.stream.IntStream;

/** Reads the changed values off a change table that has not been applied. */
final class ChangeReading {

    private final Warehouse warehouse;
    private final String table;

    ChangeReading(Warehouse warehouse, String table) {
        this.warehouse = warehouse;
        this.table = table;
    }

    /** The attributes that change, the most frequent first, each with some of its changes. */
    List<ChangedAttribute> of(Differences differences) {
        List<String> attributes = differences.attributes();
        if (attributes.isEmpty()) {
            return List.of();
        }
        warehouse.keep(Differences.TABLE.name(), differences.pairs());
        String counts = IntStream.range(0, attributes.size())
                .mapToObj(index -> "count(case when " + differs(index) + " then 1 end)")
                .collect(Collectors.joining(", "));
        List<ChangedAttribute> changed = new ArrayList<>();
        warehouse.query("select " + counts + " from " + Differences.TABLE, row -> {
            for (int index = 0; index < attributes.size(); index++) {
                if (row.number(index + 1) > 0) {
                    changed.add(new ChangedAttribute(table, attributes.get(index), row.number(index + 1), some(index)));
                }
            }
            return true;
        });
        changed.sort(Comparator.comparing(ChangedAttribute::count).reversed());
        return changed;
    }

    private String differs(int index) {
        Dialect dialect = warehouse.dialect();
        return dialect.differs("zk_old_" + index, "zk_new_" + index);
    }

    private List<ChangedValue> some(int index) {
        return warehouse.query(
                Sql.of(
                                "select zk_member, zk_causes, zk_old_${index}, zk_new_${index} from ${pairs} where ${differs} order by zk_member, zk_causes limit ${some}")
                        .with(Differences.TABLE)
                        .with("index", index)
                        .with("differs", differs(index))
                        .with("some", ChangedAttribute.SOME)
                        .text(),
                row -> new ChangedValue(
                        String.valueOf(row.text(1)), String.valueOf(row.text(2)), row.text(3), row.text(4)));
    }
}
