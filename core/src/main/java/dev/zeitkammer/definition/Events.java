package dev.zeitkammer.definition;

import dev.zeitkammer.engine.Secrets;
import java.util.Optional;

/**
 * Where open lineage events of loads go.
 *
 * @param to a file, relative to the project, or an HTTP address
 * @param key what the receiver knows the sender by; empty: nothing is asked for
 */
public record Events(Word to, Optional<String> key) {

    public Events {
        key.ifPresent(Secrets::keep);
        Secrets.keepThoseOf(to.text());
    }

    /** Whether they are sent rather than written down. */
    public boolean isSent() {
        return to.text().matches("(?i)https?://.*");
    }
}
