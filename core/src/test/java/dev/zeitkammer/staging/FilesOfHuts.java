package dev.zeitkammer.staging;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.load.TestStar;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.List;
import java.util.zip.GZIPOutputStream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.io.TempDir;

/** The same huts for files of every kind. */
abstract class FilesOfHuts {

    static final String DAY = "2026-03-01";

    static final String CSV = """
            code,name,beds,rate,since,seen,open
            H1,"Grosse Hütte, oben",40,12.50,2026-03-01,2026-03-01 10:30:00,true
            H2,,7,,1999-12-31,,false
            """;

    static final String LINES = """
            {"code": "H1", "name": "Grosse Hütte, oben", "beds": 40, "rate": 12.50, "since": "2026-03-01", "seen": "2026-03-01 10:30:00", "open": true}

            {"open": false, "code": "H2", "beds": 7, "since": "1999-12-31", "seen": null, "name": null}
            """;

    static final List<String> EXPECTED = List.of(
            "H1|Grosse Hütte, oben|40|12.50|2026-03-01|2026-03-01 10:30:00|true",
            "H2|null|7|null|1999-12-31|null|false");

    @TempDir
    Path folder;

    TestStar star;

    @BeforeEach
    void star() {
        star = new TestStar(folder);
    }

    @AfterEach
    void close() {
        star.close();
    }

    void input(String file, String details) {
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: "%s"%s}
                key: code
                attributes:
                  name: type 1
                  beds: {type: 1, as: integer}
                  rate: {type: 1, as: "decimal(10,2)"}
                  since: {type: 1, as: date}
                  seen: {type: 1, as: timestamp}
                  open: {type: 1, as: boolean}
                """.formatted(file, details));
    }

    void loadsWhatIsExpected() {
        star.loaded(DAY, "dim_hut");
        assertThat(
                        star.rows(
                                "select code, name, beds, rate, since, cast(seen as varchar), open from dim_hut where hut_key > 0 order by 1"))
                .isEqualTo(EXPECTED);
    }

    static byte[] gzip(String text) {
        ByteArrayOutputStream bytes = new ByteArrayOutputStream();
        try (GZIPOutputStream out = new GZIPOutputStream(bytes)) {
            out.write(text.getBytes(StandardCharsets.UTF_8));
        } catch (IOException impossible) {
            throw new IllegalStateException(impossible);
        }
        return bytes.toByteArray();
    }

    String path(String file) {
        return "'" + folder.resolve(file) + "'";
    }
}
