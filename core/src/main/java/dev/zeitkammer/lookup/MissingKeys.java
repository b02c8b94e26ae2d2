package dev.zeitkammer.lookup;

import dev.zeitkammer.lookup.LookupSql.Found;
import dev.zeitkammer.step.Step;
import java.util.List;

/** Where lookups get keys for values that no member has: members are made for them. */
public interface MissingKeys {

    /** Nobody is made. */
    MissingKeys NONE = new MissingKeys() {

        @Override
        public List<Step> steps() {
            return List.of();
        }

        @Override
        public String join(LookupSql lookup, String alias) {
            throw new IllegalStateException("nobody is made");
        }

        @Override
        public Found found(LookupSql lookup) {
            throw new IllegalStateException("nobody is made");
        }
    };

    /** The steps that find out, once for many rows, which members are missing, and number them. */
    List<Step> steps();

    /** The join of a row, alias {@code d}, with the member that is made for it, which has the key {@code zk_new_key}. */
    String join(LookupSql lookup, String alias);

    /** What such a row is said to have found. */
    Found found(LookupSql lookup);
}
