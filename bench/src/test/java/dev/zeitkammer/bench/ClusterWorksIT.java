package dev.zeitkammer.bench;

import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;

/** The works of a cluster. */
@Tag("bench")
class ClusterWorksIT extends MeasuredWorks {

    @Test
    void everyWorkIsDoneAndAgreedUpon() throws Exception {
        areDoneAndAgreedUpon(Works.Name::needsCluster);
    }
}
