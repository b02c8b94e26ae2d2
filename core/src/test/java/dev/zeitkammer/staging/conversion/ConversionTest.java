package dev.zeitkammer.staging.conversion;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.definition.CsvForm;
import dev.zeitkammer.definition.CsvForm.Zone;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.DatabaseAddress;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Stager;
import dev.zeitkammer.engine.Warehouse.Access;
import dev.zeitkammer.engine.Warehouses;
import java.math.BigDecimal;
import java.math.RoundingMode;
import java.nio.file.Path;
import java.time.DateTimeException;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.time.format.DateTimeFormatter;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Random;
import java.util.Set;
import java.util.function.Function;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Conversions of random texts against plain Java, with seeds that name themselves; the engine's own casts take far more. */
class ConversionTest {

    private static final int TEXTS = 4000;
    private static final String ALPHABET = "0123456789+-. _eExX:/T,'";
    private static final Pattern WHOLE = Pattern.compile(" *([+-]?[0-9]+)(?:\\.0*)? *");
    private static final Pattern EXACT = Pattern.compile(" *([+-]?(?:[0-9]+(?:\\.[0-9]{0,2}0*)?|\\.[0-9]{1,2}0*)) *");
    private static final Pattern DAY = Pattern.compile(" *([0-9]{4}-[0-9]{2}-[0-9]{2}) *");
    private static final BigDecimal MOST = new BigDecimal("999999.99");

    @TempDir
    Path folder;

    private Stager stager;

    @BeforeEach
    void open() {
        stager = Warehouses.open(
                new DatabaseAddress("memory", "jdbc:duckdb:", null, null, null, null), folder, Access.WRITE);
    }

    @AfterEach
    void close() {
        stager.close();
    }

    /** Samples with a few characters changed, put in or taken away. */
    private static List<String> texts(long seed, String... samples) {
        Random random = new Random(seed);
        Set<String> texts = new LinkedHashSet<>(List.of(samples));
        while (texts.size() < TEXTS) {
            StringBuilder text = new StringBuilder(samples[random.nextInt(samples.length)]);
            for (int change = random.nextInt(3); change >= 0; change--) {
                int place = random.nextInt(text.length() + 1);
                char letter = ALPHABET.charAt(random.nextInt(ALPHABET.length()));
                if (place == text.length() || random.nextBoolean()) {
                    text.insert(place, letter);
                } else if (random.nextInt(4) == 0 && text.length() > 1) {
                    text.deleteCharAt(place);
                } else {
                    text.setCharAt(place, letter);
                }
            }
            // the year 0 is another year in the engine than in Java
            if (text.indexOf("0000-") < 0) {
                texts.add(text.toString());
            }
        }
        return List.copyOf(texts);
    }

    private void converts(SqlType type, Function<String, @Nullable String> reference, String... samples) {
        long seed = Long.getLong("seed", 20_260_301);
        List<String> texts = texts(seed, samples);
        List<List<@Nullable Object>> rows = new ArrayList<>();
        texts.forEach(text -> rows.add(List.of(text)));
        stager.carry("texts", List.of(new Column("t", SqlType.VARCHAR)), rows);
        Conversion conversion = new Conversion(stager.dialect(), CsvForm.STANDARD);
        PlainCast.Plain plain =
                new PlainCast(stager.dialect()).of("t", SqlType.VARCHAR, type).orElseThrow();
        String sql = "select t, cast(case when " + plain.isPlain() + " then " + plain.cast() + " end as varchar), cast("
                + conversion.of("t", "l", type) + " as varchar), cast(" + conversion.of("t", type)
                + " as varchar) from (select t, "
                + conversion.lenient("t", type).orElseThrow()
                + " as l from texts) as lenient";
        List<String> wrong = new ArrayList<>();
        int[] cast = new int[1];
        stager.query(sql, row -> {
            String text = String.valueOf(row.text(1));
            String expected = String.valueOf(reference.apply(text));
            if (!expected.equals(String.valueOf(row.text(3))) || !expected.equals(String.valueOf(row.text(4)))) {
                wrong.add("\"" + text + "\" is " + row.text(3) + " and " + row.text(4) + ", not " + expected);
            }
            if (row.text(2) != null) {
                cast[0]++;
                if (!expected.equals(row.text(2))) {
                    wrong.add("\"" + text + "\" is cast to " + row.text(2) + ", not " + expected);
                }
            }
            return true;
        });
        assertThat(wrong).as("seed " + seed).isEmpty();
        assertThat(cast[0]).as("texts that are plain").isPositive();
    }

    private static @Nullable String whole(String text) {
        Matcher form = WHOLE.matcher(text);
        if (!form.matches()) {
            return null;
        }
        BigDecimal value = new BigDecimal(form.group(1));
        boolean fits = value.abs().compareTo(BigDecimal.valueOf(Integer.MAX_VALUE)) <= 0
                || value.equals(BigDecimal.valueOf(Integer.MIN_VALUE));
        return fits ? value.toPlainString() : null;
    }

    private static @Nullable String exact(String text) {
        Matcher form = EXACT.matcher(text);
        if (!form.matches()) {
            return null;
        }
        BigDecimal value = new BigDecimal(form.group(1)).setScale(2, RoundingMode.UNNECESSARY);
        return value.abs().compareTo(MOST) <= 0 ? value.toPlainString() : null;
    }

    private static @Nullable String day(String text) {
        Matcher form = DAY.matcher(text);
        try {
            return form.matches() ? LocalDate.parse(form.group(1)).toString() : null;
        } catch (DateTimeException noSuchDay) {
            return null;
        }
    }

    @Test
    void wholeNumbers() {
        converts(
                SqlType.INTEGER,
                ConversionTest::whole,
                "0",
                "7",
                "-12",
                "+5",
                " 24 ",
                "12.0",
                "12.7",
                "1_000",
                "0x1F",
                "1e3",
                "2147483647",
                "-2147483648",
                "007");
    }

    @Test
    void decimals() {
        converts(
                SqlType.decimal(8, 2),
                ConversionTest::exact,
                "0",
                "0.5",
                ".25",
                "-12.34",
                "12.340",
                "12.345",
                "999999.99",
                "1000000",
                " 7.1",
                "1e2",
                "1_0.5");
    }

    @Test
    void dates() {
        converts(
                SqlType.DATE,
                ConversionTest::day,
                "2026-03-01",
                " 2026-02-28 ",
                "2026-02-29",
                "2024-02-29",
                "2026/03/01",
                "2026-3-1",
                "12026-03-01",
                "2026-03-01 10:00:00",
                "9999-12-31",
                "1999-12-31");
    }

    /** Instants of many years, also at the hours in which clocks are set, against the time zones of Java. */
    @Test
    void timestampsWithAnOffsetAreThoseOfTheirMoment() {
        Random random = new Random(20_261_202);
        ZoneId zurich = ZoneId.of("Europe/Zurich");
        DateTimeFormatter stored = DateTimeFormatter.ofPattern("yyyy-MM-dd HH:mm:ss");
        List<String> texts = new ArrayList<>();
        List<String> utc = new ArrayList<>();
        List<String> local = new ArrayList<>();
        for (int each = 0; each < 3000; each++) {
            long hours = each % 3 == 0 ? hourOfChange(random) : random.nextInt(24 * 365 * 60);
            Instant moment = Instant.EPOCH.plus(hours, ChronoUnit.HOURS).plusSeconds(random.nextInt(7200));
            ZoneOffset offset = ZoneOffset.ofTotalSeconds((random.nextInt(73) - 36) * 1800);
            texts.add(moment.atOffset(offset)
                    .format(DateTimeFormatter.ofPattern(
                            random.nextBoolean() ? "yyyy-MM-dd'T'HH:mm:ssXXX" : "yyyy-MM-dd HH:mm:ssXX")));
            utc.add(stored.format(moment.atOffset(ZoneOffset.UTC)));
            local.add(stored.format(moment.atZone(zurich)));
        }
        assertThat(timestamps(
                        CsvForm.STANDARD,
                        texts.stream().filter(text -> !text.endsWith("Z")).toList()))
                .as("where nobody says in which time they are stored")
                .containsOnlyNulls();
        assertThat(timestamps(CsvForm.STANDARD.of(new Zone("UTC", false)), texts))
                .isEqualTo(utc);
        assertThat(timestamps(CsvForm.STANDARD.of(new Zone("Europe/Zurich", false)), texts))
                .isEqualTo(local);
        assertThat(timestamps(CsvForm.STANDARD.of(new Zone("Europe/Zurich", true)), texts))
                .isEqualTo(utc);
    }

    private static long hourOfChange(Random random) {
        LocalDate last = LocalDate.of(1990 + random.nextInt(40), random.nextBoolean() ? 3 : 10, 31);
        return last.minusDays(last.getDayOfWeek().getValue() % 7).toEpochDay() * 24 + random.nextInt(4);
    }

    @Test
    void timestampsWithoutAnOffsetAreOfTheZoneWhereThatIsSaid() {
        List<String> texts = List.of(
                "2026-03-29 01:59:59",
                "2026-03-29 02:30:00",
                "2026-03-29T03:00",
                "2026-07-01",
                "2026-07-01 12:00:00.250",
                "2026-07-01 10:00+2",
                "2026-07-01 10:00+19:00");
        assertThat(timestamps(CsvForm.STANDARD.of(new Zone("Europe/Zurich", true)), texts))
                .as("clocks leave out the hour after two")
                .isEqualTo(Arrays.asList(
                        "2026-03-29 00:59:59",
                        null,
                        "2026-03-29 01:00:00",
                        "2026-06-30 22:00:00",
                        "2026-07-01 10:00:00.25",
                        null,
                        null));
        assertThat(timestamps(CsvForm.STANDARD.of(new Zone("Europe/Zurich", false)), texts)
                        .subList(0, 2))
                .containsExactly("2026-03-29 01:59:59", "2026-03-29 02:30:00");
        assertThat(timestamps(
                        CsvForm.STANDARD.of(new Zone("UTC", false)),
                        List.of("2026-03-01 10:00:00Z", "2026-03-01T10:00-03:30", "2026-03-01T10:00:00.5000000000+01")))
                .containsExactly("2026-03-01 10:00:00", "2026-03-01 13:30:00", "2026-03-01 09:00:00.5");
        assertThat(timestamps(CsvForm.STANDARD.of(new Zone("Europe/Zurich", false)), List.of("2026-03-01 10:00:00Z")))
                .containsExactly("2026-03-01 11:00:00");
    }

    private List<@Nullable String> timestamps(CsvForm form, List<String> texts) {
        stager.keep(
                "zk_texts",
                "select unnest(range(" + texts.size() + ")) as n, unnest(["
                        + texts.stream().map(stager.dialect()::text).collect(Collectors.joining(", ")) + "]) as x");
        return stager.query(
                "select cast(" + new Conversion(stager.dialect(), form).of("x", SqlType.TIMESTAMP)
                        + " as varchar) from zk_texts order by n",
                row -> row.text(1));
    }
}
