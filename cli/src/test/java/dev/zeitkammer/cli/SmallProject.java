package dev.zeitkammer.cli;

import java.nio.file.Path;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.io.TempDir;

/** A small project of its own for a test. */
abstract class SmallProject {

    static final String HUTS = "hut_code,hut_name,beds,changed_on\nADL,Adlerhorst,24,2026-03-01\n";

    @TempDir
    Path folder;

    Program here;

    @BeforeEach
    void smallProject() {
        Path project = folder.resolve("small");
        here = new Program(project);
        here.write("zeitkammer.yaml", "project: small\n");
        here.write("inputs/huts.yaml", """
                input: huts
                files: "{date}/huts.csv"
                columns: {beds: integer, changed_on: date}
                """);
        here.write("dimensions/hut.yaml", """
                dimension: hut
                from: huts
                key: hut_code
                attributes: {hut_name: type 1, beds: type 2}
                history: {effective: changed_on}
                """);
        here.write("2026-03-01/huts.csv", HUTS);
    }
}
