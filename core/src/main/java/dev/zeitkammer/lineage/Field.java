package dev.zeitkammer.lineage;

/** A column of something. */
public record Field(Dataset dataset, String name) {

    @Override
    public String toString() {
        return dataset.name() + "." + name;
    }
}
