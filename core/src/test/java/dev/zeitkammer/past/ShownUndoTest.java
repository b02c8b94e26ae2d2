package dev.zeitkammer.past;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.load.TestStar;
import dev.zeitkammer.load.Undo;
import java.nio.file.Path;
import java.time.Clock;
import java.util.List;
import java.util.Optional;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** What an undo only shows leaves everything as it is, the rows that were kept for it included. */
class ShownUndoTest {

    @TempDir
    Path folder;

    @Test
    void theUndoThatFollowsFindsWhatItNeeds() {
        try (TestStar star = new TestStar(folder)
                .write("dimensions/guest.yaml", """
                        dimension: guest
                        from: {files: "guests-{date}.csv", columns: {guest: varchar}}
                        key: guest
                        attributes: {name: type 1}
                        """)
                .write("guests-2026-03-01.csv", "guest,name\n1,Resi\n2,Toni\n")
                .write("guests-2026-03-02.csv", "guest,name\n1,Theresia\n3,Urs\n")) {
            String rows = "select guest, name from dim_guest where guest_key > 0 order by guest";
            star.loaded("2026-03-01", "dim_guest");
            star.loaded("2026-03-02", "dim_guest");
            List<String> loaded = List.of("1|Theresia", "2|Toni", "3|Urs");
            assertThat(star.rows(rows)).isEqualTo(loaded);
            Undo undo = new Undo(star.project(), star.warehouse(), Clock.systemUTC());
            assertThat(undo.show(Optional.empty())).hasSize(1);
            assertThat(star.rows(rows)).isEqualTo(loaded);
            undo.undo(Optional.empty());
            assertThat(star.rows(rows)).containsExactly("1|Resi", "2|Toni");
        }
    }
}
