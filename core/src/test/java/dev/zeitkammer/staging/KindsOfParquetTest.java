package dev.zeitkammer.staging;

import static org.assertj.core.api.Assertions.assertThat;

import org.junit.jupiter.api.Test;

/** Huts in Parquet files, and in one that is none. */
class KindsOfParquetTest extends FilesOfHuts {

    @Test
    void readsParquetFilesWithTheirTypes() {
        input("huts*.parquet", "");
        star.warehouse()
                .execute(
                        "copy (select 'H1' as code, 'Grosse Hütte, oben' as name, 40::smallint as beds, 12.5::double as rate,"
                                + " timestamp '2026-03-01 00:00' as since, timestamptz '2026-03-01 11:30:00+01' as seen, true as open) to "
                                + path("huts-1.parquet") + " (format parquet)");
        star.warehouse()
                .execute(
                        "copy (select * from (values (false, 'H2', 7.0, null, null, timestamp '1999-12-31 00:00', null),"
                                + " (true, 'H3', 12.7, null, null, null, null), (true, 'H4', 1, 'x', null, timestamp '2026-01-01 10:00', null))"
                                + " as t(open, code, beds, name, rate, since, seen)) to "
                                + path("huts-2.parquet") + " (format parquet)");
        loadsWhatIsExpected();
        assertThat(star.setAside())
                .satisfiesExactly(
                        row -> assertThat(row)
                                .startsWith("bad value|beds|12.7|2|{\"code\":\"H3\"")
                                .contains("\"open\":true"),
                        row -> assertThat(row).startsWith("bad value|since|2026-01-01 10:00:00|3|{"));
    }

    @Test
    void refusesAFileThatIsNoParquet() {
        input("huts.parquet", "");
        star.write("huts.parquet", CSV);
        assertThat(star.failure(DAY)).contains("huts.parquet", "Cannot read");
    }
}
