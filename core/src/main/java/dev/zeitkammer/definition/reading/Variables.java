package dev.zeitkammer.definition.reading;

import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import org.jspecify.annotations.Nullable;

/** What {@code ${NAME}} stands for in the file of a project: variables of the environment, or nothing where they are withheld. */
final class Variables {

    private final Map<String, String> environment;
    private final boolean areWithheld;
    private final Set<String> notPutIn = new TreeSet<>();

    private Variables(Map<String, String> environment, boolean areWithheld) {
        this.environment = environment;
        this.areWithheld = areWithheld;
    }

    static Variables of(Map<String, String> environment) {
        return new Variables(environment, false);
    }

    /** None is put in, and each that is asked for is remembered. */
    static Variables withheld() {
        return new Variables(Map.of(), true);
    }

    boolean areWithheld() {
        return areWithheld;
    }

    /**
     * The value of a variable; null where it is not set, or withheld.
     *
     * @param isInAddress whether it is part of an address, which only who opens it needs
     */
    @Nullable
    String value(String name, boolean isInAddress) {
        if (areWithheld && !isInAddress) {
            notPutIn.add(name);
        }
        return environment.get(name);
    }

    /** The variables outside of addresses that were asked for and not put in; empty where none is withheld. */
    Optional<Set<String>> notPutIn() {
        return areWithheld ? Optional.of(Set.copyOf(notPutIn)) : Optional.empty();
    }
}
