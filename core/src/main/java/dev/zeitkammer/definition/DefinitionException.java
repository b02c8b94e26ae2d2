package dev.zeitkammer.definition;

import dev.zeitkammer.engine.ZeitkammerException;
import java.util.List;
import java.util.stream.Collectors;

/** The definitions cannot be used as they stand; carries every problem that was found, in order of place. */
public final class DefinitionException extends ZeitkammerException {

    private static final long serialVersionUID = 1L;

    private final transient List<Problem> problems;

    public DefinitionException(List<Problem> problems) {
        super(problems.stream().map(Problem::toString).collect(Collectors.joining("\n")));
        this.problems = List.copyOf(problems);
    }

    public DefinitionException(Place place, String message) {
        this(List.of(new Problem(place, message)));
    }

    public List<Problem> problems() {
        return problems;
    }
}
