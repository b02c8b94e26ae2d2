package dev.zeitkammer.profile;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assertions.tuple;

import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.load.TestStar;
import dev.zeitkammer.profile.StarDrafting.Piece;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Whole stars that are drafted of what is delivered: they load as they stand, and every fact finds its members. */
@Tag("slow")
class StarDraftingTest {

    /** One of 24 has no date of change. */
    private static final String HUTS = """
            hut_code;hut_name;category;beds;altitude;changed_on
            ADL;Adlerhorst;A;20;2.001,5;1.1.2026
            BRG;Bergheim;B;27;1.899,0;2.1.2026
            CIM;Cima Alta;A;34;2.410,5;3.1.2026
            DOM;Domblick;B;41;980,0;
            """
            + IntStream.range(10, 30)
                    .mapToObj("H%1$d;Hut %1$d;C;50;1.0%1$d,0;4.1.2026\n"::formatted)
                    .collect(Collectors.joining());

    private static final String NIGHTS = """
            booking_no,night_no,hut,guest_no,night_on,arrived_at,guests,paid,is_member,pays_cash
            B1,1,ADL,1,2026-02-10,14:01,2,60.50,Y,true
            B1,2,ADL,1,2026-02-11,14:01,2,60.50,Y,false
            B2,1,BRG,2,2026-02-10,17:30,1,30.00,N,true
            B3,1,CIM,3,2025-12-31,23:59,4,99.00,N,true
            B4,1,DOM,1,2026-02-12,15:15,1,31.00,Y,true
            """;
    private static final String GUESTS = """
            guest_no,name,town
            1,Anna,Chur
            2,Beat,Chur
            3,Carla,Davos
            """;

    @TempDir
    Path folder;

    private TestStar star;

    @BeforeEach
    void star() {
        star = new TestStar(folder);
    }

    @AfterEach
    void close() {
        star.close();
    }

    private List<Piece> draft(String... files) {
        return new StarDrafting(folder, star::project, star.warehouse())
                .draft(StarSources.files(List.of(files), folder));
    }

    private static List<String> told(List<Piece> pieces) {
        return pieces.stream()
                .map(piece -> piece.kind() + " " + piece.name() + " of " + piece.from())
                .toList();
    }

    @Test
    void aStarOfThreeFilesLoadsAsItStands() {
        star.write("in/huts.csv", HUTS).write("in/nights.csv", NIGHTS).write("in/guests.csv", GUESTS);
        assertThat(told(draft("in")))
                .containsExactly(
                        "dimension guest of guests",
                        "dimension hut of huts",
                        "calendar calendar of ",
                        "calendar time_of_day of ",
                        "dimension night_flags of nights",
                        "fact night of nights");
        assertThat(star.load("2026-03-01").tables()).allMatch(table -> table.status() == LoadStatus.DONE, "is done");
        assertThat(star.rows("select count(*) from fact_night where hut_key > 0 and guest_key > 0 and night_key > 0"
                        + " and arrived_key >= 0 and night_flags_key > 0"))
                .as("the hut without a date of change was set aside, so that its night finds nobody")
                .containsExactly("4");
        assertThat(star.rows("select arrived_key from fact_night where booking_no = 'B3'"))
                .containsExactly("2359");
        assertThat(star.rows("select min(altitude), max(altitude) from dim_hut where hut_key > 0"))
                .containsExactly("1010.0|2410.5");
        assertThat(star.setAside()).hasSize(1).allMatch(row -> row.contains("changed_on"));
        assertThat(star.rows("select count(*) from dim_calendar where day = date '2025-12-31'"))
                .containsExactly("1");
    }

    @Test
    void everyGuessSaysWhatItIsBuiltOn() {
        star.write("in/huts.csv", HUTS).write("in/nights.csv", NIGHTS).write("in/guests.csv", GUESTS);
        List<Piece> pieces = draft("in");
        assertThat(pieces).extracting(Piece::why).contains("its key is hut_code, found again in nights.hut");
        assertThat(star.read("dimensions/hut.yaml")).contains("1 row has none and will be set aside");
        assertThat(star.read("inputs/huts.yaml"))
                .contains("csv: {delimiter: \";\", date-format: \"d.M.yyyy\", decimal: \",\", thousands: \".\"}");
        assertThat(star.read("inputs/nights.yaml")).contains("columns: {arrived_at: time}");
        assertThat(star.read("facts/night.yaml"))
                .contains("grain: [booking_no, night_no]", "times of day from 14:01:00 to 23:59:00")
                .contains("is_member, pays_cash: one key for each combination of flags");
    }

    @Test
    void deliveriesOfManyDaysAreOneInput() {
        star.write("in/2026-03-01/huts.csv", "hut_code,beds\nADL,10\nBRG,12\nCIM,14\n")
                .write("in/2026-03-02/huts.csv", "hut_code,beds\nADL,11\n")
                .write(
                        "in/2026-03-02/nights_2026-03-02.csv",
                        "night_no,hut_code,night_on,guests\n1,ADL,2026-03-02,2\n");
        assertThat(told(draft("in"))).contains("dimension hut of huts", "fact night of nights");
        assertThat(star.read("inputs/huts.yaml")).contains("files: \"in/{date}/huts.csv\"");
        star.load("2026-03-01");
        star.load("2026-03-02");
        assertThat(star.rows("select beds from dim_hut where hut_key > 0 order by hut_code"))
                .containsExactly("11", "12", "14");
        assertThat(star.rows("select count(*) from fact_night where hut_key > 0"))
                .containsExactly("1");
    }

    /** A log refers to one thing only, and counts nothing; a member may have moments of its own, and refer to one, too. */
    @Test
    void whatHasATimeOfDayHappenedToWhatItRefersTo() {
        star.write("in/huts.csv", "hut_code,valley\nADL,north\nBRG,south\nCIM,south\n")
                .write(
                        "in/calls.csv",
                        "call_no,hut_code,rang_at,reason\n1,ADL,2026-03-01 08:15:00,weather\n2,ADL,2026-03-01 09:20:00,full\n"
                                + "3,CIM,2026-03-01 11:00:30,weather\n")
                .write(
                        "in/wardens.csv",
                        "warden_no,hut_code,name,created_at\n1,ADL,Resi,2020-03-01 08:15:00\n2,BRG,Toni,2021-03-01 09:20:00\n");
        assertThat(told(draft("in")))
                .contains("dimension hut of huts", "dimension warden of wardens", "fact call of calls");
        assertThat(star.load("2026-03-01").tables()).allMatch(table -> table.status() == LoadStatus.DONE, "is done");
    }

    @Test
    void whatHappensLaterCouldBeAFeed() {
        star.write("in/huts.csv", "hut_code,beds\nADL,10\nBRG,12\n")
                .write("in/guests.csv", GUESTS)
                .write(
                        "in/bookings.csv",
                        "booking_no,hut_code,guest_no,booked_on\n1001,ADL,1,2026-01-05\n1002,BRG,2,2026-01-06\n")
                .write("in/departures.csv", "booking_no,departed_on\n1001,2026-02-05\n1002,2026-02-06\n");
        assertThat(draft("in"))
                .filteredOn(piece -> piece.kind().equals("fact"))
                .extracting(Piece::name, Piece::why)
                .containsExactly(
                        tuple("booking", "refers to guest, hut, dated by booked_on"),
                        tuple(
                                "departure",
                                "refers to nothing, dated by departed_on; has the key of bookings, and could be a feed of it"));
    }

    @ParameterizedTest
    @CsvSource({
        "hut_code, hut_code, huts, true",
        "home_hut_code, hut_code, huts, true",
        "hut, code, huts, true",
        "hut_id, id, huts, true",
        "payer_guest_no, no, guests, true",
        "id, id, huts, false",
        "beds, hut_code, huts, false",
        "night_no, no, guests, false"
    })
    void namesTellWhatIsReferredTo(String column, String key, String of, boolean named) {
        assertThat(References.isNamed(column, key, of)).isEqualTo(named);
    }

    @ParameterizedTest
    @CsvSource({"huts, hut", "bodies, body", "passes, pass", "address, address", "gas, ga", "hut, hut"})
    void oneOfMany(String many, String one) {
        assertThat(References.singular(many)).isEqualTo(one);
    }

    @Test
    void smallNumbersAreNoReferences() {
        star.write("in/wardens.csv", "no,name\n1,Anna\n2,Beat\n3,Carla\n")
                .write("in/stays.csv", "stay,stayed_on,guests\nS1,2026-01-01,1\nS2,2026-01-02,2\nS3,2026-01-03,3\n");
        draft("in");
        assertThat(star.read("facts/stay.yaml")).doesNotContain("warden");
    }

    @Test
    void textsAreReferencesOnlyWhereAllOfThemAreKeys() {
        star.write("in/ways.csv", "way,title\nweb,By the web\ndesk,At the desk\nmail,By mail\n")
                .write(
                        "in/stays.csv",
                        "stay,stayed_on,guests,booked,paid_by\nS1,2026-01-01,1,web,web\nS2,2026-01-02,2,desk,cash\nS3,2026-01-03,3,mail,desk\n");
        draft("in");
        assertThat(star.read("facts/stay.yaml"))
                .contains("match: {way: booked}")
                .doesNotContain("way: paid_by")
                .contains("degenerate: paid_by");
    }

    @Test
    void whereItFailsNothingIsLeft() throws Exception {
        star.write("in/huts.csv", HUTS).write("in/torn.parquet", "no parquet");
        assertThatThrownBy(() -> draft("in")).hasMessageContaining("torn.parquet");
        assertThat(Files.exists(folder.resolve("inputs/huts.yaml"))).isFalse();
        assertThatThrownBy(() -> draft("nowhere.csv")).hasMessageContaining("There is no file or folder");
        star.write("empty/notes.md", "nothing");
        assertThatThrownBy(() -> draft("empty")).hasMessageContaining("There is no file of rows");
    }
}
