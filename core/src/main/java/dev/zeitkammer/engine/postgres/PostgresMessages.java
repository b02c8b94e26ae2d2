package dev.zeitkammer.engine.postgres;

import dev.zeitkammer.engine.BusyException;
import dev.zeitkammer.engine.DatabaseAddress;
import dev.zeitkammer.engine.WarehouseException;
import java.sql.SQLException;
import java.util.Set;

/** What the server says, in words for the person who must act on it. */
final class PostgresMessages {

    /** The server does not take connections yet. */
    static final String STARTING = "57P03";

    /** States that may be over in a while: starting or stopping, no answer, no connection left. */
    private static final Set<String> PASSING = Set.of(STARTING, "08001", "53300");

    private PostgresMessages() {}

    static WarehouseException notOpened(DatabaseAddress address, SQLException refused) {
        String message = "Cannot open the warehouse " + address + ": " + why(address, refused);
        return PASSING.contains(String.valueOf(refused.getSQLState()))
                ? new BusyException(message, refused)
                : new WarehouseException(message, refused);
    }

    private static String why(DatabaseAddress address, SQLException refused) {
        String state = String.valueOf(refused.getSQLState());
        return switch (state) {
            case STARTING -> "the server is starting or stopping; try again, or wait for it with --wait";
            case "08001" ->
                "no server answers there (" + inShort(refused) + "); is it running, and are host and port right?";
            case "08004", "28000", "28P01" ->
                "the server does not let " + (address.user() == null ? "nobody" : address.user()) + " in: "
                        + inShort(refused) + "; look at user, password and password-file in zeitkammer.yaml";
            case "3D000" -> inShort(refused) + "; create it first, or name another one in the URL";
            case "53300" -> "the server has no connection left: " + inShort(refused);
            default -> inShort(refused);
        };
    }

    /** A statement failed. */
    static WarehouseException failure(SQLException failed, String title) {
        String state = String.valueOf(failed.getSQLState());
        if (isLost(failed)) {
            return new WarehouseException(
                    "The connection to " + title + " was lost (" + inShort(failed)
                            + "); what was under way is rolled back, and loading again mends it",
                    failed);
        }
        String advice = switch (state) {
            case "42501" -> "; the user lacks a right on this: grant it, or load as the owner of the schema";
            case "53100" -> "; the server's disk is full: what was under way is rolled back; make room and load again";
            case "53200" -> "; the server has no memory left: what was under way is rolled back";
            case "54000" ->
                "; a key is longer than the server's index can hold, about 2,700 bytes when packed: leave such rows out"
                        + " with where:, as in where: \"length(code) < 2000\"";
            case "55P03", "57014" -> "; another session holds it, or a time limit of the server was reached";
            default -> "";
        };
        return new WarehouseException(inShort(failed) + advice, failed);
    }

    /** Whether nothing more can be asked over this connection. */
    static boolean isLost(SQLException failed) {
        String state = String.valueOf(failed.getSQLState());
        return state.startsWith("08") || state.equals("57P01") || state.equals("57P02");
    }

    private static String inShort(SQLException failed) {
        String message = String.valueOf(failed.getMessage()).lines().findFirst().orElse("");
        return message.replaceFirst("^(ERROR|FATAL): ", "");
    }
}
