package dev.zeitkammer.engine.spark;

import dev.zeitkammer.engine.DatabaseAddress;
import dev.zeitkammer.engine.Engine;
import dev.zeitkammer.engine.Warehouse;

/** Spark SQL on Iceberg tables, on a cluster. */
public final class SparkEngine implements Engine {

    @Override
    public String url() {
        return SparkWarehouse.URL;
    }

    @Override
    public Warehouse open(DatabaseAddress address, Opening opening) {
        return SparkWarehouse.open(address, opening);
    }
}
