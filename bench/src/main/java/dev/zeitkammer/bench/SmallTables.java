package dev.zeitkammer.bench;

import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.stream.Collectors;
import java.util.stream.IntStream;

/** Ten dimensions of ten members: what a load costs that has next to nothing to do. */
final class SmallTables {

    private static final int TABLES = 10;
    private static final int MEMBERS = 10;
    private static final int CHANGED = 200;
    private static final String BY_HAND = """
            create temp table staged_%1$s as
            select * from read_csv('%2$s/%1$s.csv', auto_detect = false, header = true, store_rejects = true,
              columns = {%1$s_no: 'bigint', %1$s_name: 'varchar', region: 'varchar'});
            select case when count(*) > 0 then error('a member stands twice') end
            from (select %1$s_no from staged_%1$s group by %1$s_no having count(*) > 1) as twice;
            create temp table changes_%1$s as
            select s.*, d.%1$s_key as old_key, d.version as old_version, s.%1$s_name is distinct from d.%1$s_name as overwrites,
              s.region is distinct from d.region as opens
            from staged_%1$s as s
            left join dim_%1$s as d on d.%1$s_no = s.%1$s_no and d.is_current
            where d.%1$s_key is null or s.%1$s_name is distinct from d.%1$s_name or s.region is distinct from d.region;
            update dim_%1$s as d
            set %1$s_name = c.%1$s_name, updated_at = now()::timestamp, updated_by = 2
            from changes_%1$s as c
            where d.%1$s_no = c.%1$s_no and c.overwrites;
            update dim_%1$s as d
            set valid_to = date '%3$s', is_current = false, updated_at = now()::timestamp, updated_by = 2
            from changes_%1$s as c
            where d.%1$s_key = c.old_key and c.opens;
            insert into dim_%1$s (%1$s_key, %1$s_no, %1$s_name, region, valid_from, valid_to, is_current, version, is_deleted,
              row_origin, inserted_at, updated_at, inserted_by, updated_by)
            select (select max(%1$s_key) from dim_%1$s) + row_number() over (), %1$s_no, %1$s_name, region, date '%3$s', date '9999-12-31',
              true, coalesce(old_version, 0) + 1, false, 'source', now()::timestamp, now()::timestamp, 2, 2
            from changes_%1$s
            where old_key is null or opens;
            """;

    private SmallTables() {}

    static int tables() {
        return TABLES;
    }

    private static List<String> names() {
        return IntStream.range(0, TABLES).mapToObj(table -> "place_" + table).toList();
    }

    static void deliver(Data data, Path day, int number) throws Exception {
        Files.createDirectories(day);
        for (String name : names()) {
            data.members(day.resolve(name + ".csv"), name, MEMBERS, number, number == 1 ? 0 : CHANGED);
        }
    }

    /** The statements that load a delivery of all of them by hand. */
    static String byHand(Path day, String date) {
        return names().stream().map(name -> BY_HAND.formatted(name, day, date)).collect(Collectors.joining());
    }

    /** A query of what they hold. */
    static String agreement() {
        return "select "
                + names().stream()
                        .map(name -> "(select count(*) * 1000 + sum(version) from dim_" + name + ")")
                        .collect(Collectors.joining(", "));
    }
}
