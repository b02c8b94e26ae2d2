package dev.zeitkammer.past;

import dev.zeitkammer.books.Journal;
import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.definition.UsageException;
import dev.zeitkammer.engine.Warehouse;
import java.time.DateTimeException;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.util.List;

/** The load after which something was known, as a user names it: by its number, or by a moment. */
public final class KnownLoad {

    private KnownLoad() {}

    /**
     * The number of the load that is meant: the one with that number, or the last one that had ended at a moment, of a day at its
     * end.
     *
     * @param text a number, a date or a timestamp; moments are in UTC, like those of the journal
     * @throws UsageException when there is no such load, or it was taken back
     */
    public static long of(Warehouse warehouse, String text) {
        List<LoadEntry> loads = new Journal(warehouse).loads();
        if (!text.matches("\\d{1,18}")) {
            LocalDateTime moment = moment(text);
            return loads.stream()
                    .filter(load -> load.status() != LoadStatus.UNDONE)
                    .filter(load ->
                            load.ended().filter(ended -> !ended.isAfter(moment)).isPresent())
                    .mapToLong(LoadEntry::load)
                    .max()
                    .orElseThrow(() ->
                            new UsageException("Nothing had been loaded at " + text + " yet; see: zeitkammer journal"));
        }
        long number = Long.parseLong(text);
        LoadEntry found = loads.stream()
                .filter(load -> load.load() == number)
                .findFirst()
                .orElseThrow(() -> new UsageException("There is no load " + number + "; see: zeitkammer journal"));
        if (found.status() == LoadStatus.UNDONE) {
            throw new UsageException("Load " + number + " was taken back, so that what was known after it is gone");
        }
        return number;
    }

    private static LocalDateTime moment(String text) {
        try {
            return text.length() > "2026-01-01".length()
                    ? LocalDateTime.parse(text.replace(' ', 'T'))
                    : LocalDate.parse(text).plusDays(1).atStartOfDay();
        } catch (DateTimeException notAMoment) {
            throw new UsageException("\"" + text + "\" is no load and no moment; expected the number of a load, or a"
                    + " date or timestamp such as 2026-03-01 or 2026-03-01T12:00:00");
        }
    }
}
