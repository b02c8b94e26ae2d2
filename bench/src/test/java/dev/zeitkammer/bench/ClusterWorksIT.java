package dev.zeitkammer.bench;

import org.junit.jupiter.api.Test;

/** The works of a cluster. */
class ClusterWorksIT extends MeasuredWorks {

    @Test
    void everyWorkIsDoneAndAgreedUpon() throws Exception {
        areDoneAndAgreedUpon(Works.Name::needsCluster);
    }
}
