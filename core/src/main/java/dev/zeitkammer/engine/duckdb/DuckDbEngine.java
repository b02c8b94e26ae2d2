package dev.zeitkammer.engine.duckdb;

import dev.zeitkammer.engine.DatabaseAddress;
import dev.zeitkammer.engine.Engine;
import dev.zeitkammer.engine.OwnFolder;
import dev.zeitkammer.engine.Stager;
import dev.zeitkammer.engine.Warehouse;
import java.nio.file.Path;
import java.util.Optional;

/** The embedded engine, which also reads staged files for the others. */
public final class DuckDbEngine implements Engine, Engine.Staging {

    @Override
    public String url() {
        return DuckDbWarehouse.URL;
    }

    @Override
    public Warehouse open(DatabaseAddress address, Opening opening) {
        return DuckDbWarehouse.open(address, opening.folder(), opening.access(), opening.memory());
    }

    @Override
    public boolean isWithin(DatabaseAddress address, Path folder) {
        return DuckDbWarehouse.isInMemory(address) || OwnFolder.holds(folder, Path.of(DuckDbWarehouse.fileOf(address)));
    }

    @Override
    public Optional<Engine.Staging> staging() {
        return Optional.of(this);
    }

    @Override
    public void makeReady() {
        DuckDbWarehouse.makeReady();
    }

    @Override
    public Stager stager(Optional<String> memory) {
        return DuckDbWarehouse.inMemory(memory);
    }
}
