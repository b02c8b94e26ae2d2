package dev.zeitkammer.bench;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.stream.Collectors;
import java.util.stream.IntStream;

/** Makes files of staged rows; the same seed makes the same rows. */
final class Data implements AutoCloseable {

    private static final int PER_MILLE = 1000;

    private final Connection connection;
    private final long seed;

    Data(long seed) throws SQLException {
        this.connection = DriverManager.getConnection("jdbc:duckdb:");
        this.seed = seed;
    }

    /**
     * A delivery of guests, 12 attributes each.
     *
     * @param day the number of the delivery; what changed since the first depends on it
     * @param changed how many of 1000 guests have another town than in the first delivery
     * @param every one guest of so many is delivered
     */
    void guests(Path file, long members, int day, int changed, long every) throws SQLException, IOException {
        String town = "case when %s %% %d < %d then %d else 0 end".formatted(random(20 + day), PER_MILLE, changed, day);
        write(file, """
                select i as guest_no, 'Guest ' || (%s %% 900000) as guest_name, 'g' || i || '@huts.example' as email,
                  '+43 ' || (%s %% 100000000) as phone, 'Lane ' || (%s %% 5000) as street,
                  date '1950-01-01' + cast(%s %% 20000 as integer) as born_on,
                  'Town ' || (hash(i, %s, %d) %% 2000) as town,
                  ['AT', 'CH', 'DE', 'IT', 'FR', 'SI'][1 + cast(%s %% 6 as bigint)] as country,
                  ['none', 'youth', 'adult', 'senior'][1 + cast(%s %% 4 as bigint)] as membership,
                  %s %% 300 as nights, date '2010-01-01' + cast(%s %% 5000 as integer) as joined_on,
                  cast(%s %% 50 / 10.0 as decimal(4,1)) as rating, %s %% 40 as tours
                from range(1, %d) as r(i)
                where %s %% %d = 0""".formatted(
                        random(1),
                        random(2),
                        random(3),
                        random(4),
                        town,
                        seed,
                        random(5),
                        random(6),
                        random(7),
                        random(8),
                        random(9),
                        random(10),
                        members + 1,
                        random(11),
                        every));
    }

    /** The rows of a delivery that meet a condition. */
    void part(Path whole, Path file, String condition) throws SQLException, IOException {
        write(file, "select * from read_csv('" + whole + "') where " + condition);
    }

    /** Every guest of so many, as stated on a day: a town that no other day has. */
    void towns(Path file, long members, String day, long every) throws SQLException, IOException {
        write(file, """
                select i as guest_no, 'Town ' || (%s %% 2000) || ' of %s' as town, 'C' || (%s %% 40) as country, date '%s' as changed_on
                from range(1, %d) as r(i)
                where i %% %d = 0""".formatted(random(40), day, random(41), day, members + 1, every));
    }

    /** Members of a small dimension: a number, a name, and a region of which some change with the day. */
    void members(Path file, String name, long members, int day, int changed) throws SQLException, IOException {
        write(file, """
                select i as %s_no, '%s ' || i as %s_name,
                  'Region ' || (hash(i, case when %s %% %d < %d then %d else 0 end) %% 50) as region
                from range(1, %d) as r(i)""".formatted(name, name, name, random(30 + day), PER_MILLE, changed, day, members + 1));
    }

    /** Nights: facts that look up a hut at a date, a guest, a tour and a day. */
    void nights(Path file, long facts, long guests, long huts, long tours) throws SQLException, IOException {
        write(file, """
                select i as stay_no, cast(1 + %s %% %d as bigint) as hut_no, cast(1 + %s %% %d as bigint) as guest_no,
                  cast(1 + %s %% %d as bigint) as tour_no, date '2026-01-01' + cast(%s %% 60 as integer) as night_on,
                  cast(1 + %s %% 6 as integer) as guests, cast(%s %% 30000 / 100.0 as decimal(10,2)) as paid
                from range(1, %d) as r(i)""".formatted(
                random(1), huts, random(2), guests, random(3), tours, random(4), random(5), random(6), facts + 1));
    }

    /** A dimension of many attributes beside its key; the odd ones hold numbers, the others texts. */
    void wide(Path file, long members, int attributes) throws SQLException, IOException {
        String columns = IntStream.rangeClosed(1, attributes)
                .mapToObj(number -> number % 2 == 1
                        ? "%s %% 100000 as a%d".formatted(random(number), number)
                        : "'Value ' || (%s %% 1000) as a%d".formatted(random(number), number))
                .collect(Collectors.joining(", "));
        write(file, "select i as hut_no, " + columns + " from range(1, " + (members + 1) + ") as r(i)");
    }

    private String random(int salt) {
        return "hash(i, " + salt + ", " + seed + ")";
    }

    private void write(Path file, String query) throws SQLException, IOException {
        Files.createDirectories(file.getParent());
        try (Statement statement = connection.createStatement()) {
            statement.execute("copy (" + query + ") to '" + file + "'");
        }
    }

    @Override
    public void close() throws SQLException {
        connection.close();
    }
}
