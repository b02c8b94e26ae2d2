package dev.zeitkammer.profile;

import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;
import java.util.Optional;

/** Finds which columns of deliveries are keys of other deliveries: by their values, and where these say little by their names. */
final class References {

    /** So many values at least must be found for names that say nothing. */
    private static final int FEW = 3;

    /** The share of values that must be found where names say so already. */
    private static final double SOME = 0.5;

    private final Warehouse warehouse;
    private final List<Looked> all;

    /** @param all what was looked at, with its rows in scratch tables */
    References(Warehouse warehouse, List<Looked> all) {
        this.warehouse = warehouse;
        this.all = all;
    }

    /**
     * What was looked at.
     *
     * @param name of its input
     * @param rows the scratch table of its rows
     * @param lines what the input says of where it is
     */
    record Looked(String name, String rows, List<String> lines, Profile profile) {

        /** The only column of its key. */
        Optional<ColumnProfile> key() {
            return profile.keys().stream()
                    .findFirst()
                    .filter(columns -> columns.size() == 1)
                    .map(columns -> profile.column(columns.get(0)))
                    .or(() -> changing());
        }

        /** Of a key that holds the date of change, the other column. */
        private Optional<ColumnProfile> changing() {
            return profile.effective()
                    .flatMap(effective -> profile.keys().stream()
                            .filter(columns -> columns.size() == 2 && columns.contains(effective))
                            .flatMap(List::stream)
                            .filter(column -> !column.equals(effective))
                            .map(profile::column)
                            .findFirst());
        }
    }

    /**
     * A column whose values are the keys of another delivery.
     *
     * @param isNamed whether its name says so too
     */
    record Reference(Looked from, ColumnProfile column, Looked to, boolean isNamed) {

        /** Whether the column is called like what it refers to: booking_no and bookings. */
        private boolean isCalledSo() {
            return column.name().toLowerCase(Locale.ROOT).contains(singular(to.name()));
        }
    }

    /** Every one that is found; of several for one column the likeliest. */
    List<Reference> find() {
        List<Reference> found = new ArrayList<>();
        for (Looked from : all) {
            boolean keyed = from.profile().keys().stream().anyMatch(columns -> columns.size() == 1);
            for (ColumnProfile column : from.profile().columns()) {
                boolean isOwnKey = keyed && from.key().filter(column::equals).isPresent();
                if (!isOwnKey && canBeKey(column)) {
                    all.stream()
                            .filter(to -> to != from)
                            .flatMap(to -> reference(from, column, to).stream())
                            .max(Comparator.comparing(Reference::isNamed)
                                    .thenComparing(Reference::isCalledSo)
                                    .thenComparing(reference ->
                                            -reference.to().profile().rows()))
                            .ifPresent(found::add);
                }
            }
        }
        return found;
    }

    private static boolean canBeKey(ColumnProfile column) {
        return column.distinct() > 0
                && switch (column.type().kind()) {
                    case VARCHAR, SMALLINT, INTEGER, BIGINT -> true;
                    case BOOLEAN, DATE, TIMESTAMP, TIME, DECIMAL, REAL, DOUBLE -> false;
                };
    }

    private Optional<Reference> reference(Looked from, ColumnProfile column, Looked to) {
        Optional<ColumnProfile> key = to.key().filter(known -> isLike(known.type(), column.type()));
        if (key.isEmpty()) {
            return Optional.empty();
        }
        boolean named = isNamed(column.name(), key.get().name(), to.name());
        boolean telling = column.type().isText() && column.distinct() >= FEW && column.longest() > 1;
        if (!named && !telling) {
            return Optional.empty();
        }
        // a delivery of changes need not hold what others refer to: a column that is called just like the key is enough
        double least = !named ? 1 : column.name().equalsIgnoreCase(key.get().name()) ? 0 : SOME;
        double share = (double) found(from, column, to, key.get()) / column.distinct();
        return share >= least ? Optional.of(new Reference(from, column, to, named)) : Optional.empty();
    }

    private static boolean isLike(SqlType one, SqlType other) {
        return one.isText() == other.isText();
    }

    /** Whether a column is called like the key, or like what it is the key of. */
    static boolean isNamed(String column, String key, String of) {
        String name = column.toLowerCase(Locale.ROOT);
        String wanted = key.toLowerCase(Locale.ROOT);
        String one = singular(of).toLowerCase(Locale.ROOT);
        boolean tells = wanted.contains("_") || wanted.startsWith(one) || !Guess.isKeyName(wanted);
        return tells && (name.equals(wanted) || name.endsWith("_" + wanted))
                || name.equals(one)
                || name.endsWith("_" + one)
                || name.equals(one + "_" + wanted)
                || name.endsWith("_" + one + "_" + wanted);
    }

    /** The name of one of many, as English has it. */
    static String singular(String many) {
        if (many.endsWith("ies") && many.length() > 4) {
            return many.substring(0, many.length() - 3) + "y";
        }
        if (many.matches(".*(sses|xes|ches|shes)")) {
            return many.substring(0, many.length() - 2);
        }
        return many.endsWith("s") && !many.endsWith("ss") && many.length() > 2
                ? many.substring(0, many.length() - 1)
                : many;
    }

    private long found(Looked from, ColumnProfile column, Looked to, ColumnProfile key) {
        return warehouse.number(Sql.of(
                        "select count(distinct one.${column}) from ${from} as one where one.${column} in (select ${key} from ${to})")
                .with("column", warehouse.dialect().quote(column.name()))
                .with("from", from.rows())
                .with("key", warehouse.dialect().quote(key.name()))
                .with("to", to.rows())
                .text());
    }
}
