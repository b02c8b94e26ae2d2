package dev.zeitkammer.engine.postgres;

import dev.zeitkammer.engine.DatabaseAddress;
import dev.zeitkammer.engine.Engine;
import dev.zeitkammer.engine.Warehouse;

/** PostgreSQL, on a server. */
public final class PostgresEngine implements Engine {

    @Override
    public String url() {
        return PostgresWarehouse.URL;
    }

    @Override
    public Warehouse open(DatabaseAddress address, Opening opening) {
        return PostgresWarehouse.open(address, opening.folder(), opening.access(), opening.stagers());
    }
}
