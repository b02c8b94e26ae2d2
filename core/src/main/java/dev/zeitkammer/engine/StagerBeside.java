package dev.zeitkammer.engine;

import java.nio.file.Path;
import java.util.Set;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;

/** The embedded engine that reads staged files beside a server: opened when it is first needed, and confined as the server is. */
public final class StagerBeside implements AutoCloseable {

    private final Supplier<? extends Stager> stagers;
    private @Nullable Set<Path> confined;
    private @Nullable Stager stager;

    /** @param stagers opens one */
    public StagerBeside(Supplier<? extends Stager> stagers) {
        this.stagers = stagers;
    }

    public Stager get() {
        if (stager == null) {
            stager = stagers.get();
            if (confined != null) {
                stager.confine(confined);
            }
        }
        return stager;
    }

    /** See {@link Stager#confine}; one that is not open yet is confined before it reads anything. */
    public void confine(Set<Path> folders) {
        confined = Set.copyOf(folders);
        if (stager != null) {
            stager.confine(confined);
        }
    }

    /** Confines another one as this one is. */
    public void confinesAlso(StagerBeside other) {
        if (confined != null) {
            other.confine(confined);
        }
    }

    @Override
    public void close() {
        if (stager != null) {
            stager.close();
        }
    }
}
