package dev.zeitkammer.load;

import dev.zeitkammer.books.Known;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.past.BeforeImages;
import dev.zeitkammer.seal.Seals;
import java.util.Optional;

/** Enters what one table's part of a load did to the seals of the tables that it wrote, within their transaction. */
final class SealKeeping {

    private final LoadContext context;
    private final Known known;
    private final Seals seals;

    SealKeeping(LoadContext context, Known known) {
        this.context = context;
        this.known = known;
        this.seals = new Seals(context.warehouse(), context.stamp().load());
    }

    /**
     * Enters it for the table that was loaded and for those in which it made members. What others, or steps of the user's own within
     * the transaction, did to the table cannot follow from what the load wrote: it is sealed anew.
     *
     * @param isAligned whether the table was made to fit its definition
     */
    void enter(Definition definition, BeforeImages written, boolean isAligned) {
        boolean isUnknown = isAligned
                || written.lostAny()
                || context.extra().isInside(definition.name().text());
        for (Definition each : context.project().definitions()) {
            boolean isOwn = each == definition;
            if ((isOwn && isUnknown) || wrote(written, each)) {
                enter(each, isOwn && isUnknown, isOwn ? Optional.of(written) : Optional.empty());
            }
        }
    }

    /** Enters the dimensions that were just made, which stand whatever becomes of the table that looks them up. */
    void seeded(BeforeImages written) {
        context.project().dimensions().stream()
                .filter(dimension -> wrote(written, dimension))
                .forEach(dimension -> enter(dimension, false, Optional.empty()));
    }

    private boolean wrote(BeforeImages written, Definition definition) {
        return written.wrote(context.warehouse().table(definition.table()));
    }

    /** @param anew whether the rows before tell nothing of what stands */
    private void enter(Definition written, boolean anew, Optional<BeforeImages> before) {
        boolean again = !context.sealed().add(written.table());
        if (!anew && (again || seals.isFollowed(known.sealedBy(written.table())))) {
            seals.follow(written, again, before);
        } else {
            seals.anew(written);
        }
    }
}
