package dev.zeitkammer.load;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Relation;
import dev.zeitkammer.engine.WarehouseException;
import java.nio.file.Path;
import java.time.Clock;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeSet;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** What is declared of scratch relations is what their SQL makes. */
class RelationsTest {

    @TempDir
    Path folder;

    private boolean looks;
    private final Map<String, Map<String, Relation>> declared = new LinkedHashMap<>();
    private final TreeSet<String> seen = new TreeSet<>();
    private final TreeSet<String> undeclared = new TreeSet<>();

    private TestStar project(String name) {
        return new TestStar(folder.resolve(name))
                .write("dimensions/hut.yaml", hut("", "all"))
                .write(
                        "dimensions/own.yaml",
                        hut("", "current")
                                .replace("dimension: hut\nfrom", "dimension: own\nfrom")
                                .replace("'D'\"}", "'D'\", unknown: add}")
                                .replace(
                                        "dimension: hut, match: parent, type: 2, hierarchy: true",
                                        "dimension: own, match: parent, type: 1"))
                .write("dimensions/warden.yaml", """
                        dimension: warden
                        from: {files: "wardens-{date}.csv", columns: {warden_no: varchar}}
                        key: warden_no
                        attributes: {warden_name: type 1}
                        surrogate: hash
                        member-key: true
                        """)
                .write("facts/stay.yaml", """
                        fact: stay
                        from: {files: "stays-{date}.csv", columns: {night_on: date}}
                        grain: [no, night_on]
                        lookups:
                          hut: {match: code, as-of: night_on}
                          warden: {match: warden_no, unmatched: placeholder}
                          deputy: {dimension: warden, match: deputy_no, unmatched: placeholder, member-key: true}
                        measures: {paid: integer}
                        replaces: night_on
                        feeds:
                          - {from: {files: "paid-{date}.csv"}, match: no, updates: [paid, deputy]}
                        """);
    }

    private static String hut(String more, String overwrite) {
        return """
                dimension: hut
                from: {files: "huts-{date}.csv", columns: {since: date, status: varchar, phone: varchar, parent: varchar}}
                key: code
                attributes: {phone: type 1, zone: {type: 3, previous: former}, beds: type 2%s}
                lookups: {parent: {dimension: hut, match: parent, type: 2, hierarchy: true}}
                deletions: {when: "status = 'D'"}
                history: {effective: since, overwrite: %s}
                """.formatted(more, overwrite);
    }

    /** Loads a table; then either notes what is declared of its scratch relations, or looks at those that stand. */
    private void load(TestStar star, String date, String table) {
        for (String failed : star.load(date, table).tables().stream()
                .flatMap(entry -> entry.error().stream())
                .toList()) {
            assertThat(failed).isEmpty();
        }
        if (looks) {
            declared.getOrDefault(table, Map.of()).values().forEach(relation -> look(star, relation));
            return;
        }
        Explanation.of(
                        new Preview(star.project(), star.warehouse(), Clock.systemUTC())
                                .of(star.project().definition(table))
                                .orElseThrow(),
                        star.warehouse())
                .relations()
                .forEach(relation -> declared.computeIfAbsent(table, first -> new LinkedHashMap<>())
                        .put(relation.name(), relation));
    }

    private void look(TestStar star, Relation relation) {
        columns(star, relation).ifPresent(columns -> {
            seen.add(relation.name());
            columns.stream()
                    .filter(name -> name.startsWith("zk_"))
                    .filter(name -> relation.columns().stream().noneMatch(known -> isOf(known, name)))
                    .forEach(name -> undeclared.add(relation.name() + "." + name));
            relation.columns().stream()
                    .filter(known -> columns.stream().anyMatch(name -> isOf(known, name)))
                    .forEach(known -> seen.add(relation.name() + "." + known));
        });
    }

    private static boolean isOf(String declaredColumn, String column) {
        return declaredColumn.endsWith("*")
                ? column.startsWith(declaredColumn.substring(0, declaredColumn.length() - 1))
                : column.equals(declaredColumn);
    }

    private static Optional<List<String>> columns(TestStar star, Relation relation) {
        try {
            return Optional.of(star.warehouse().describe("select * from " + relation.name()).stream()
                    .map(Column::name)
                    .toList());
        } catch (WarehouseException notMade) {
            return Optional.empty();
        }
    }

    private void loads(TestStar star) {
        star.write(
                "huts-2026-03-01.csv",
                "code,since,phone,zone,beds,parent,status\nA,2026-01-05,1,n,1,,\nB,2026-01-05,1,n,1,A,\n");
        star.write("wardens-2026-03-01.csv", "warden_no,warden_name\n1,Resi\n");
        star.write(
                "stays-2026-03-01.csv",
                "no,night_on,code,warden_no,deputy_no,paid\n1,2026-02-01,A,1,7,10\n2,2026-02-01,C,8,9,20\n");
        star.write("paid-2026-03-01.csv", "no,paid,deputy_no\n1,11,7\n");
        for (String table : List.of("hut", "own", "warden", "stay")) {
            load(star, "2026-03-01", table);
        }
        star.write("dimensions/hut.yaml", hut(", size: type 2", "all"));
        star.write(
                "huts-2026-03-02.csv",
                "code,since,phone,zone,beds,parent,status,size\nA,2026-02-05,2,s,2,,,XL\nA,2026-02-06,2,s,3,,,XL\n"
                        + "B,2026-01-02,2,s,1,A,,S\nB,2026-01-02,,,,,D,\nC,2026-01-01,1,n,1,B,,S\n");
        star.write("stays-2026-03-02.csv", "no,night_on,code,warden_no,deputy_no,paid\n1,2026-02-01,B,1,7,10\n");
        for (String table : List.of("hut", "own", "stay")) {
            load(star, "2026-03-02", table);
        }
    }

    @Test
    void relationsHaveTheColumnsThatAreDeclared() {
        for (String pass : List.of("declared", "made")) {
            looks = pass.equals("made");
            try (TestStar star = project(pass)) {
                loads(star);
            }
        }
        assertThat(undeclared).as("columns that are not declared").isEmpty();
        seen.add("zk_at_their_moment");
        assertThat(declared.values().stream()
                        .flatMap(relations -> relations.values().stream())
                        .flatMap(relation -> Stream.concat(
                                Stream.of(relation.name()),
                                relation.columns().stream()
                                        .filter(known -> !isRare(relation, known))
                                        .map(known -> relation.name() + "." + known)))
                        .filter(known -> !seen.contains(known)))
                .as("declared relations and columns that no load has made")
                .isEmpty();
    }

    /** What only other definitions or rarer deliveries make: a choice of the last, computed members, deletions that move. */
    private static boolean isRare(Relation relation, String column) {
        return List.of("zk_last_by", "zk_key").contains(column)
                        && List.of("zk_delivery", "zk_rows", "zk_looked_up").contains(relation.name())
                || relation.name().equals("zk_at_their_moment")
                || relation.name().equals("zk_loaded") && column.equals("zk_a*");
    }
}
