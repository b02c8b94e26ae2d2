package dev.zeitkammer.step;

import dev.zeitkammer.engine.Row;
import java.util.List;
import java.util.Optional;
import java.util.function.Function;

/** One statement of a load, with its name and what it is for. */
public sealed interface Step {

    String name();

    /** What the statement does and why, in a sentence for the reader of {@code explain}. */
    String purpose();

    String sql();

    /** A query whose first number must not be 0, else the statement has nothing to do and is not run. */
    Optional<String> onlyIf();

    /** The condition that a scratch table has rows. */
    static Optional<String> any(String scratch) {
        return Optional.of("select count(*) from (select 1 from " + scratch + " limit 1) as any_row");
    }

    /**
     * A statement that writes.
     *
     * @param whenFailed what is executed instead when it fails
     */
    record Write(String name, String purpose, String sql, Optional<String> onlyIf, List<String> whenFailed)
            implements Step {
        public Write(String name, String purpose, String sql, Optional<String> onlyIf) {
            this(name, purpose, sql, onlyIf, List.of());
        }

        public Write(String name, String purpose, String sql) {
            this(name, purpose, sql, Optional.empty());
        }
    }

    /**
     * A query that must return nothing; its first row, put in words, stops the load.
     *
     * @param waiver the option of a load that lets it pass, where there is one
     */
    record Guard(
            String name,
            String purpose,
            String sql,
            Optional<String> onlyIf,
            Optional<String> waiver,
            Function<Row, String> words)
            implements Step {
        public Guard(String name, String purpose, String sql, Function<Row, String> words) {
            this(name, purpose, sql, Optional.empty(), Optional.empty(), words);
        }
    }
}
