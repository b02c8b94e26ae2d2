package dev.zeitkammer.bench;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.stream.Collectors;
import java.util.stream.IntStream;

/** Writes the definitions of what is loaded. */
final class Project {

    /** Leaves room for the process itself within 2 GB. */
    static final String MEMORY = "1500MB";

    static final String WAREHOUSE = "warehouse.duckdb";

    private static final String GUESTS = """
            input: guests
            files: "deliveries/{date}/guests.csv"
            columns: {guest_no: bigint, born_on: date, nights: integer, joined_on: date, rating: "decimal(4,1)", tours: integer}
            """;

    private final Path folder;

    private Project(Path folder) {
        this.folder = folder;
    }

    /** A project in the embedded engine. */
    static Project in(Path folder) throws IOException {
        return in(folder, MEMORY);
    }

    static Project in(Path folder, String memory) throws IOException {
        return in(folder, "jdbc:duckdb:" + WAREHOUSE, "", memory);
    }

    static Project in(Path folder, String url, String user, String memory) throws IOException {
        return at(folder, "url: \"%s\"%s".formatted(url, user.isEmpty() ? "" : ", user: " + user), memory);
    }

    /** A project in a schema of a cluster. */
    static Project onCluster(Path folder, String url, String schema) throws IOException {
        String warehouse = "url: \"%s\", catalog: %s, schema: %s, exchange: exchange";
        return at(folder, warehouse.formatted(url, Cluster.CATALOG, schema), MEMORY);
    }

    private static Project at(Path folder, String warehouse, String memory) throws IOException {
        Project project = new Project(folder);
        project.write("zeitkammer.yaml", """
                project: bench
                warehouses:
                  here: {%s}
                use: here
                memory: %s
                """.formatted(warehouse, memory));
        return project;
    }

    /** The same, but no row is kept as it was. */
    Project withoutImages() throws IOException {
        write("zeitkammer.yaml", Files.readString(folder.resolve("zeitkammer.yaml")) + "images: none\n");
        return this;
    }

    Project guests() throws IOException {
        write("inputs/guests.yaml", GUESTS);
        write("dimensions/guest.yaml", """
                dimension: guest
                from: guests
                key: guest_no
                attributes:
                  guest_name: type 1
                  email: type 1
                  phone: type 1
                  street: type 1
                  born_on: type 0
                  town: type 2
                  country: type 2
                  membership: type 2
                  nights: type 1
                  joined_on: type 0
                  rating: type 1
                  tours: type 2
                """);
        return this;
    }

    /** The guests are staged in a table of the warehouse. */
    Project lyingGuests() throws IOException {
        guests();
        write("inputs/guests.yaml", "input: guests\ntable: office.guests\n");
        return this;
    }

    /** Every delivery of guests is all there are: who is not delivered has ended. */
    Project fullGuests() throws IOException {
        guests();
        write("inputs/guests.yaml", GUESTS + "extract: full\n");
        String guests = Files.readString(folder.resolve("dimensions/guest.yaml"));
        write("dimensions/guest.yaml", guests + "deletions: {absent: close}\n");
        return this;
    }

    /** Guests whose rows say since when they hold. */
    Project datedGuests() throws IOException {
        write("inputs/guests.yaml", """
                input: guests
                files: "deliveries/{date}/guests.csv"
                columns: {guest_no: bigint, changed_on: date}
                """);
        write("dimensions/guest.yaml", """
                dimension: guest
                from: guests
                key: guest_no
                attributes: {town: type 2, country: type 2}
                history: {effective: changed_on}
                """);
        return this;
    }

    Project nights(String format) throws IOException {
        for (String name : new String[] {"hut", "guest", "tour"}) {
            write("inputs/" + name + "s.yaml", """
                    input: %ss
                    files: "deliveries/{date}/%ss.csv"
                    columns: {%s_no: bigint}
                    """.formatted(name, name, name));
            write("dimensions/" + name + ".yaml", """
                    dimension: %s
                    from: %ss
                    key: %s_no
                    attributes: {%s_name: type 1, region: type 2}
                    """.formatted(name, name, name, name));
        }
        write("dimensions/calendar.yaml", """
                dimension: calendar
                kind: calendar
                days: 2024-01-01..2027-12-31
                """);
        write("inputs/nights.yaml", """
                input: nights
                files: "deliveries/{date}/nights.%s"
                columns: {stay_no: bigint, hut_no: bigint, guest_no: bigint, tour_no: bigint, night_on: date}
                """.formatted(format));
        write("facts/night_stay.yaml", """
                fact: night_stay
                from: nights
                grain: [stay_no]
                lookups:
                  hut: {as-of: night_on}
                  guest: {}
                  tour: {}
                  night: {dimension: calendar, match: night_on}
                measures: {guests: integer, paid: "decimal(10,2)"}
                """);
        return this;
    }

    /** Nights keep the number of their guest, by which they find members that come late. */
    Project numberedNights() throws IOException {
        nights("parquet");
        String facts = Files.readString(folder.resolve("facts/night_stay.yaml"));
        write("facts/night_stay.yaml", facts + "degenerate: [guest_no]\n");
        return this;
    }

    /** Guests whom nobody has delivered become members without attributes. */
    Project placeholderNights() throws IOException {
        nights("csv");
        String facts = Files.readString(folder.resolve("facts/night_stay.yaml"));
        write("facts/night_stay.yaml", facts.replace("guest: {}", "guest: {unmatched: placeholder}"));
        return this;
    }

    /** Some small dimensions. */
    Project small(int tables) throws IOException {
        for (int table = 0; table < tables; table++) {
            String name = "place_" + table;
            write("dimensions/" + name + ".yaml", """
                    dimension: %s
                    from: {files: "deliveries/{date}/%s.csv", columns: {%s_no: bigint}}
                    key: %s_no
                    attributes: {%s_name: type 1, region: type 2}
                    """.formatted(name, name, name, name, name));
        }
        return this;
    }

    /** Two more lookups for the nights. */
    Project wardens() throws IOException {
        write("inputs/wardens.yaml", """
                input: wardens
                files: "deliveries/{date}/wardens.csv"
                columns: {warden_no: bigint}
                """);
        write("dimensions/warden.yaml", """
                dimension: warden
                from: wardens
                key: warden_no
                attributes: {warden_name: type 1, region: type 2}
                """);
        String facts = Files.readString(folder.resolve("facts/night_stay.yaml"));
        String more = "  warden: {match: tour_no}\n  closed: {dimension: calendar, match: night_on}\n";
        write("facts/night_stay.yaml", facts.replace("measures:", more + "measures:"));
        return this;
    }

    Project wide(int attributes) throws IOException {
        write(
                "inputs/huts.yaml",
                "input: huts\nfiles: \"deliveries/{date}/huts.csv\"\ncolumns:\n  hut_no: bigint\n"
                        + numbers("  a%d: integer\n", 2, attributes));
        write(
                "dimensions/hut.yaml",
                "dimension: hut\nfrom: huts\nkey: hut_no\nattributes:\n" + numbers("  a%d: type 2\n", 1, attributes));
        return this;
    }

    private static String numbers(String form, int step, int most) {
        return IntStream.iterate(1, number -> number <= most, number -> number + step)
                .mapToObj(form::formatted)
                .collect(Collectors.joining());
    }

    private void write(String file, String text) throws IOException {
        Path path = folder.resolve(file);
        Files.createDirectories(path.getParent());
        Files.writeString(path, text);
    }
}
