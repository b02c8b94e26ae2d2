package dev.zeitkammer.bench;

import org.junit.jupiter.api.Test;

/** The works of many rows in the embedded warehouse. */
class WorksIT extends MeasuredWorks {

    @Test
    void everyWorkIsDoneAndAgreedUpon() throws Exception {
        areDoneAndAgreedUpon(name -> !name.needsServer() && !name.needsCluster() && !SmallWorksIT.SMALL.contains(name));
    }
}
