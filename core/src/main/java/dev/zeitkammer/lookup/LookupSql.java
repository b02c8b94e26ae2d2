package dev.zeitkammer.lookup;

import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Conventions;
import dev.zeitkammer.definition.Dimension.Kind;
import dev.zeitkammer.definition.Lookup;
import dev.zeitkammer.definition.Lookup.BeforeFirst;
import dev.zeitkammer.definition.Lookup.Blank;
import dev.zeitkammer.definition.Lookup.Ended;
import dev.zeitkammer.definition.Lookup.StandIns;
import dev.zeitkammer.definition.Lookup.Unmatched;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.step.RowValidation;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import java.util.stream.Stream;

/**
 * SQL of one lookup. The staged rows stand under the alias {@code d}, with the natural key in columns {@link #match} and the
 * date in {@link #asOf}; the dimension stands under an alias of the lookup's own.
 *
 * @param number the lookup's number among those of the table, from 0
 * @param hasVersions whether the dimension's table keeps versions
 * @param momentType the type of the dimension's valid_from
 * @param asOfType the type of the staged date; that of the dimension's where there is none
 * @param returns whether members may have been deleted and have come back
 * @param within whether it finds members of the very dimension that is being loaded, so that a member may come in the same
 *     delivery; what it finds then is a token of the row, which {@link #resolving} replaces by the key
 */
public record LookupSql(
        int number,
        Lookup lookup,
        Warehouse warehouse,
        boolean hasVersions,
        SqlType momentType,
        SqlType asOfType,
        boolean within,
        boolean returns) {

    /** Keys at and below this number stand for the row of a delivery whose parent is not known before all rows are written. */
    private static final String TOKEN = "-4000000000000000000";

    /** What a lookup can find. */
    public enum Found {
        MATCHED,
        UNMATCHED,
        BLANK,
        EARLY,
        ENDED,
        PLACEHOLDERS;

        public String word() {
            return name().toLowerCase(Locale.ROOT);
        }

        /** The word as SQL keeps it: a number, since every row of a delivery has one for each lookup. */
        public String sql() {
            return ordinal() + " /* " + word() + " */";
        }

        /** SQL that gives the word of a column of these numbers. */
        static String word(String column) {
            return Arrays.stream(values())
                    .map(found -> "when " + found.ordinal() + " then '" + found.word() + "'")
                    .collect(Collectors.joining(" ", "case " + column + " ", " end"));
        }
    }

    /** The names of the dimension's audit columns, and how its versions end. */
    Conventions conventions() {
        return lookup.dimension().conventions();
    }

    Dialect dialect() {
        return warehouse.dialect();
    }

    String alias() {
        return "zk_l" + number;
    }

    public String match(int position) {
        return "zk_m" + number + "_" + position;
    }

    public String asOf() {
        return "zk_a" + number;
    }

    /** The column that says what was found. */
    public String found() {
        return "zk_f" + number;
    }

    /** The column with the surrogate key that was found. */
    public String key() {
        return "zk_k" + number;
    }

    /** The column with the key of the member that was found. */
    public String memberKey() {
        return "zk_g" + number;
    }

    /** Whether the key that all versions of a member share is looked up too. */
    boolean findsMemberKey() {
        return lookup.memberColumn().isPresent();
    }

    /** The columns of the natural key. */
    public List<String> matches() {
        return IntStream.range(0, lookup.match().size()).mapToObj(this::match).toList();
    }

    /** The columns of staged values that decide what is found. */
    public List<String> inputs() {
        List<String> inputs = new ArrayList<>();
        for (int position = 0; position < lookup.match().size(); position++) {
            inputs.add(match(position));
        }
        if (lookup.asOf().isPresent()) {
            inputs.add(asOf());
        }
        return inputs;
    }

    String own(AuditColumn housekeeping) {
        return dialect().column(alias(), conventions().column(housekeeping));
    }

    /** The condition that what was found is, say, current. */
    String holds(AuditColumn audit) {
        return conventions().holds(dialect(), alias(), audit);
    }

    private String surrogate() {
        return dialect().column(alias(), lookup.dimension().keyColumn());
    }

    /** What the key that is stored tells. */
    StoredKey storedKey() {
        return new StoredKey(this);
    }

    /** Which member was found, or is stored. */
    public MemberIdentity identity() {
        return new MemberIdentity(this);
    }

    private VersionAtDate version() {
        return new VersionAtDate(this);
    }

    /** The join that finds the member, and its version; at most one row where the dimension is sound. */
    public String join() {
        return within ? version().ofDelivery() : version().join();
    }

    /** The moment to judge at, in the type of the dimension's versions. */
    public String judged() {
        return version().judged();
    }

    /** A query of a member that is not sound, among those that rows look for; empty where members stand once by how they are found. */
    Optional<String> unsound(String rows) {
        return within ? Optional.empty() : Optional.of(version().unsound(rows));
    }

    /** The same query for any member of the dimension. */
    String unsound() {
        return version().unsound();
    }

    /** Whether members are combinations of values, null being one of them. */
    boolean combines() {
        return lookup.dimension().kind() == Kind.COMBINATION;
    }

    /** Whether a value that no member has makes one. */
    public boolean makesMembers() {
        return lookup.makesMembers();
    }

    /** What was found, as one of the words of {@link Found}. */
    public String foundExpression() {
        StringBuilder branches =
                new StringBuilder("case when " + (combines() ? "false" : isBlank("d")) + " then " + Found.BLANK.sql());
        String nobody = within
                ? dialect().column(alias(), lookup.dimension().key().get(0).text())
                : surrogate();
        branches.append(" when ").append(nobody).append(" is null then ").append(Found.UNMATCHED.sql());
        if (lookup.asOf().isPresent() && !within) {
            Found early = lookup.beforeFirst() == BeforeFirst.FIRST ? Found.EARLY : Found.UNMATCHED;
            branches.append(" when not (")
                    .append(version().since())
                    .append(") then ")
                    .append(early.sql());
            branches.append(" when ").append(holds(AuditColumn.IS_DELETED)).append(" and not (");
            branches.append(version().before(own(AuditColumn.VALID_TO)))
                    .append(") then ")
                    .append(Found.ENDED.sql());
        }
        if (lookup.asOf().isEmpty() && lookup.ended() != Ended.MATCH && !within) {
            branches.append(" when ")
                    .append(holds(AuditColumn.IS_DELETED))
                    .append(" then ")
                    .append(Found.ENDED.sql());
        }
        branches.append(" else ").append(Found.MATCHED.sql()).append(" end");
        return dialect().cast(branches.toString(), SqlType.SMALLINT);
    }

    /** A natural key of which a part is missing names nobody. */
    private String isBlank(String alias) {
        return inputsOfKey().map(column -> alias + "." + column + " is null").collect(Collectors.joining(" or "));
    }

    private Stream<String> inputsOfKey() {
        return inputs().stream().limit(lookup.match().size());
    }

    public String keyExpression() {
        return within ? TOKEN + " - d.zk_row" : surrogate();
    }

    /** The key of the member that was found, where it is looked up. */
    public Optional<String> memberKeyExpression() {
        return findsMemberKey()
                ? Optional.of(dialect().column(alias(), lookup.dimension().memberKeyColumn()))
                : Optional.empty();
    }

    /**
     * A query of the tokens of a relation's rows, {@code zk_token}, with the keys that they stand for, {@code zk_key}; a member
     * that did not come after all is the unknown one.
     */
    public String resolving(String rows) {
        return Sql.of("""
                select ${token} - d.zk_row as zk_token, coalesce(${surrogate}, ${unknown}) as zk_key
                from ${looking} as d
                ${version_join}
                where ${states}""")
                .with("token", TOKEN)
                .with("surrogate", surrogate())
                .with("unknown", lookup.standIns().unmatched())
                .with("looking", rows)
                .with(
                        "states",
                        RowValidation.states(lookup.dimension().deletions().addsUnknown(), "d"))
                .with("version_join", version().join())
                .text();
    }

    /**
     * What a stored key stands for, as a text for readers: the business key of the member, or the reserved key itself.
     *
     * @param rows the staged rows, for keys that are tokens of them
     */
    public String shown(String key, String rows) {
        String business = lookup.dimension().key().stream()
                .map(word -> dialect().asText(dialect().column("w", word.text())))
                .collect(Collectors.joining(" || ', ' || "));
        String ofMember = "(select min(" + business + ") from "
                + warehouse.table(lookup.dimension().table()) + " as w where w."
                + dialect().quote(lookup.dimension().keyColumn()) + " = " + key + ")";
        String ofRow = within
                ? ", (select min(" + naturalKey("d") + ") from " + rows + " as d where " + TOKEN + " - d.zk_row = "
                        + key + ")"
                : "";
        return "coalesce(" + ofMember + ofRow + ", " + dialect().asText(key) + ")";
    }

    /** The key that the fact stores, over the columns {@link #key} and {@link #found} of an alias. */
    public String stored(String alias) {
        return stored(alias, alias + "." + key());
    }

    /** The key of the member that the fact stores; of one that is made, and of a reserved one, that is its key. */
    public String storedMember(String alias) {
        return stored(alias, "coalesce(" + alias + "." + memberKey() + ", " + alias + "." + key() + ")");
    }

    private String stored(String alias, String ofMember) {
        StandIns standIns = lookup.standIns();
        String ended =
                lookup.ended() == Ended.STAND_IN ? " when " + Found.ENDED.sql() + " then " + standIns.ended() : "";
        return Sql.of(
                        "case ${alias}.${found} when ${blank} then ${blank_key} when ${unmatched} then ${unknown}${ended} else ${of_member} end")
                .with("alias", alias)
                .with("found", found())
                .with("blank", Found.BLANK.sql())
                .with("blank_key", standIns.blank())
                .with("unmatched", Found.UNMATCHED.sql())
                .with("unknown", standIns.unmatched())
                .with("ended", ended)
                .with("of_member", ofMember)
                .text();
    }

    /** Whether a member that was deleted is no member to point at. */
    boolean endsMembers() {
        return lookup.ended() != Ended.MATCH;
    }

    /** The words of {@link Found} for which no key of a member is stored, as a list in SQL. */
    public String nobody() {
        String nobody = Found.UNMATCHED.sql() + ", " + Found.BLANK.sql();
        return endsMembers() ? nobody + ", " + Found.ENDED.sql() : nobody;
    }

    /** The words of {@link Found} that set a row aside. */
    List<Found> settingAside() {
        return having(Blank.SET_ASIDE, waits() ? Unmatched.WAIT : Unmatched.SET_ASIDE, Ended.SET_ASIDE);
    }

    private boolean waits() {
        return lookup.unmatched() == Unmatched.WAIT;
    }

    /** What becomes of a row that is out, over an alias of what was found and one of the delivery: it waits for a value only. */
    String outcome(String found, String delivery) {
        if (!waits()) {
            return "'setAside'";
        }
        String dated = lookup.asOf().isEmpty() || within ? "" : " and " + delivery + "." + asOf() + " is not null";
        return "case when " + isAny(found, List.of(Found.UNMATCHED)) + dated + " then '" + RowValidation.WAITING
                + "' else 'setAside' end";
    }

    /** The words of {@link Found} that stop the load. */
    List<Found> stopping() {
        return having(Blank.STOP, Unmatched.STOP, Ended.STOP);
    }

    private List<Found> having(Blank blank, Unmatched unmatched, Ended ended) {
        List<Found> found = new ArrayList<>();
        if (lookup.blank() == blank) {
            found.add(Found.BLANK);
        }
        if (lookup.unmatched() == unmatched) {
            found.add(Found.UNMATCHED);
        }
        if (lookup.ended() == ended) {
            found.add(Found.ENDED);
        }
        return found;
    }

    /** Whether the lookup found one of these, over the column {@link #found} of an alias. */
    String isAny(String alias, List<Found> words) {
        return words.isEmpty()
                ? "false"
                : alias + "." + found() + " in ("
                        + words.stream().map(Found::sql).collect(Collectors.joining(", ")) + ")";
    }

    /** The natural key as text, over the staged rows. */
    public String naturalKey(String alias) {
        return inputsOfKey()
                .map(column -> "coalesce(" + dialect().asText(alias + "." + column) + ", '')")
                .collect(Collectors.joining(" || ', ' || "));
    }

    /** The same for readers of what found nobody: a key without the date at which it is looked for may be of somebody. */
    String shownKey(String alias) {
        if (lookup.asOf().isEmpty() || within) {
            return naturalKey(alias);
        }
        return naturalKey(alias) + " || case when " + alias + "." + asOf() + " is null and not (" + isBlank(alias)
                + ") then ' (without a date)' else '' end";
    }

    /** The staged columns of the natural key, for messages. */
    String columns() {
        return lookup.match().stream().map(word -> word.text()).collect(Collectors.joining(", "));
    }
}
