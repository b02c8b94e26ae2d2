package dev.zeitkammer.staging;

import dev.zeitkammer.definition.Input;
import dev.zeitkammer.engine.Stager;
import java.nio.file.Path;
import java.util.List;

/** A delivery of files. */
abstract class FileSource extends Source {

    final Input input;
    final DeliveredFiles files;
    final Stager stager;

    /** How the files were when their rows were read; an empty text before. */
    private String seen = "";

    FileSource(Input input, DeliveredFiles files, Stager stager) {
        this.input = input;
        this.files = files;
        this.stager = stager;
    }

    @Override
    public final Input input() {
        return input;
    }

    @Override
    public final long bytes() {
        return files.bytes();
    }

    @Override
    public final List<Path> files() {
        return files.paths();
    }

    @Override
    public final String shown() {
        return files.shown();
    }

    @Override
    final boolean holds(String file) {
        return files.hold(file);
    }

    /** The files are read from now on, and must stay as they are. */
    final void see() {
        seen = files.stamps();
    }

    final boolean isSeen() {
        return !seen.isEmpty();
    }

    /**
     * Makes sure that the files are still what they were when they were read.
     *
     * @throws StagingException when one changed meanwhile
     */
    final void unchangedSinceSeen() {
        if (isSeen()) {
            files.unchangedSince(seen);
        }
    }
}
