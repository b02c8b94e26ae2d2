package dev.zeitkammer.staging.conversion;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.definition.CsvForm;
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
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Random;
import java.util.Set;
import java.util.function.Function;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
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
        String sql =
                "select t, cast(" + conversion.of("t", "l", type) + " as varchar), cast(" + conversion.of("t", type)
                        + " as varchar) from (select t, "
                        + conversion.lenient("t", type).orElseThrow()
                        + " as l from texts) as lenient";
        List<String> wrong = new ArrayList<>();
        stager.query(sql, row -> {
            String text = String.valueOf(row.text(1));
            String expected = String.valueOf(reference.apply(text));
            if (!expected.equals(String.valueOf(row.text(2))) || !expected.equals(String.valueOf(row.text(3)))) {
                wrong.add("\"" + text + "\" is " + row.text(2) + " and " + row.text(3) + ", not " + expected);
            }
            return true;
        });
        assertThat(wrong).as("seed " + seed).isEmpty();
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
}
