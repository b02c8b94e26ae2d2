package dev.zeitkammer.reference;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Nights of bookings, joined of lines and of headers that are kept, loaded into a fact, row by row. */
final class ReferenceNights {

    /**
     * A way in which the inputs are defined.
     *
     * @param ordered whether the latest header is known by a number, else by its delivery
     * @param leaving whether headers, and lines that are kept, can be taken away
     * @param linesKept whether lines are kept, too
     * @param partner the word for lines without a header, or optional
     * @param comparing whether only the channel of headers, and the guests of lines that are kept, are compared
     * @param housed whether nights name a hut, and wait for it
     */
    record Settings(
            boolean ordered, boolean leaving, boolean linesKept, String partner, boolean housed, boolean comparing) {

        String headers() {
            return """
                    input: headers
                    files: "headers-{date}.csv"
                    columns: {booking: varchar, channel: varchar, changed: integer}
                    keep: {by: booking%s%s%s}
                    """.formatted(
                            comparing ? ", compare: channel" : "",
                            ordered ? ", order: changed" : "",
                            leaving ? ", when: \"channel = 'gone'\"" : "");
        }

        String lines() {
            return """
                    input: lines
                    files: "lines-{date}.csv"
                    columns: {booking: varchar, night: integer, guests: integer, hut: varchar, status: varchar}
                    """
                    + (linesKept
                            ? "keep: {by: [booking, night]" + (comparing ? ", compare: [guests]" : "")
                                    + (leaving ? ", when: \"status = 'X'\"" : "") + "}\n"
                            : "");
        }

        String fact() {
            return """
                    fact: stay
                    from: nights
                    grain: [booking, night]
                    %sdegenerate: channel
                    measures: {guests: integer}
                    deletions: {when: "status = 'X'", rows: remove}
                    """.formatted(housed ? "lookups: {hut: {match: hut, unmatched: wait}}\n" : "");
        }

        /** A query of the facts. */
        String facts() {
            String hut = housed ? "case when f.hut_key > 0 then h.code else '" + NO_HUT + "' end" : "'" + NO_HUT + "'";
            return "select booking, night, channel, guests, " + hut
                    + ", f.inserted_by, f.updated_by from fact_stay as f"
                    + (housed ? " join dim_hut as h on h.hut_key = f.hut_key" : "") + " order by 1, 2";
        }

        String nights() {
            return "input: nights\njoin: {from: lines, with: [{input: headers, by: booking, "
                    + (partner.equals("optional") ? "optional: true" : "without-partner: " + partner) + "}]}\n";
        }
    }

    /** What is stored of a night that names no hut. */
    private static final String NO_HUT = "-2";

    /** @param changed a number; other texts are bad values, null is none */
    record Header(
            @Nullable String booking,
            @Nullable String channel,
            @Nullable String changed) {

        static final String NAMES = "booking,channel,changed";

        boolean isUsable() {
            return booking != null && !"soon".equals(changed);
        }

        String csv() {
            return joined(booking, channel, changed);
        }
    }

    record Line(
            @Nullable String booking,
            @Nullable String night,
            @Nullable String guests,
            @Nullable String hut,
            String status) {

        static final String NAMES = "booking,night,guests,hut,status";

        boolean isReadable() {
            return !"many".equals(guests);
        }

        boolean cancels() {
            return status.equals("X");
        }

        String csv() {
            return joined(booking, night, guests, hut, status);
        }
    }

    /** @param isOfBooks whether it waited for its hut: where it waited for its header, it waits for the hut since then */
    private record Night(Line line, @Nullable String channel, boolean isOfBooks) {

        Night ofBooks() {
            return new Night(line, channel, true);
        }

        String grain() {
            return line.booking() + "|" + line.night();
        }

        List<@Nullable String> values() {
            return line.cancels() ? List.of("cancelled") : Arrays.asList(line.guests(), line.hut(), channel);
        }
    }

    private record Fact(List<@Nullable String> values, long inserted, long updated) {}

    private final Settings settings;
    private final KeptRows<Header> headers;
    private final KeptRows<Line> lines;
    private final Map<String, Fact> facts = new TreeMap<>();
    private final Map<String, Long> counts = new TreeMap<>();
    private List<Waiting<Line>> waiting = new ArrayList<>();
    private List<Waiting<Night>> waitingNights = new ArrayList<>();
    private boolean headersCame;
    private boolean linesCame;
    private Set<String> known = Set.of();
    private long notKept;
    private long load;

    ReferenceNights(Settings settings) {
        this.settings = settings;
        this.headers = new KeptRows<>(
                row -> List.of(String.valueOf(row.booking())),
                row -> settings.ordered() ? number(row.changed()) : Integer.valueOf(0),
                row -> settings.leaving() && "gone".equals(row.channel()),
                row -> settings.comparing() ? String.valueOf(row.channel()) : row,
                (kept, row) -> new Header(
                        kept.booking(), kept.channel(), settings.ordered() ? row.changed() : kept.changed()));
        this.lines = new KeptRows<>(
                row -> List.of(String.valueOf(row.booking()), String.valueOf(row.night())),
                row -> 0,
                row -> settings.leaving() && row.cancels(),
                row -> settings.comparing() ? String.valueOf(row.guests()) : row,
                (kept, row) -> kept);
    }

    private static @Nullable Integer number(@Nullable String text) {
        return text == null ? null : Integer.valueOf(text);
    }

    private static String joined(@Nullable String... values) {
        return String.join(
                ",",
                Arrays.stream(values).map(value -> value == null ? "" : value).toList());
    }

    Map<String, Long> counts() {
        return counts;
    }

    /** The rows that were set aside because they could not be kept. */
    long notKept() {
        return notKept;
    }

    /** What waits for a header, with the load since which it does: a line that is delivered once more since then, a kept one since it came. */
    List<String> waiting() {
        return Stream.concat(
                        waiting.stream().map(each -> each.row().csv() + "|" + each.since()),
                        waitingNights.stream().map(each -> each.row().line().csv() + "|" + each.since()))
                .sorted()
                .toList();
    }

    List<String> keptHeaders() {
        return headers.stamped(row -> row.booking() + "|" + row.channel() + "|" + row.changed());
    }

    List<String> keptLines() {
        return lines.stamped(
                row -> row.booking() + "|" + row.night() + "|" + row.guests() + "|" + row.hut() + "|" + row.status());
    }

    List<String> facts() {
        List<String> rows = new ArrayList<>();
        facts.forEach((grain, fact) -> {
            List<String> values = fact.values().stream().map(String::valueOf).toList();
            rows.add(grain + "|" + String.join("|", values) + "|" + fact.inserted() + "|" + fact.updated());
        });
        return rows;
    }

    /**
     * Keeps and loads what is delivered; null is nothing.
     *
     * @param huts those that are known
     * @return whether the fact has a delivery, or rows that wait and can be tried
     */
    boolean load(@Nullable List<Header> ofHeaders, @Nullable List<Line> ofLines, Set<String> huts, long number) {
        load = number;
        known = huts;
        notKept = 0;
        counts.clear();
        for (String name : List.of(
                "staged", "new", "updated", "unchanged", "ignored", "repeated", "setAside", "waiting", "removed")) {
            counts.put(name, 0L);
        }
        if (ofHeaders != null) {
            headersCame = true;
            headers.deliver(ofHeaders.stream().filter(this::isUsable).toList(), load);
        }
        if (ofLines != null && settings.linesKept()) {
            linesCame = true;
            lines.deliver(ofLines.stream().filter(this::isUsable).toList(), load);
        }
        boolean isDelivered = settings.linesKept()
                ? linesCame && headersCame && (ofLines != null || ofHeaders != null)
                : headersCame && ofLines != null;
        if (isDelivered) {
            take(settings.linesKept() ? List.copyOf(lines.rows()) : ofLines == null ? List.of() : ofLines);
            return true;
        }
        if (!settings.linesKept() && ofHeaders != null && !waiting.isEmpty()) {
            take(List.of()); // lines that wait may find one of these headers
            return true;
        }
        if (waitingNights.isEmpty()) {
            return false;
        }
        takeWaiting();
        return true;
    }

    /** Nights that wait for their hut, where no line and no header is delivered. */
    private void takeWaiting() {
        Map<String, List<Waiting<Night>>> byGrain = new LinkedHashMap<>();
        for (Waiting<Night> each : waitingNights) {
            count("staged");
            byGrain.computeIfAbsent(each.row().grain(), grain -> new ArrayList<>())
                    .add(each);
        }
        waitingNights = new ArrayList<>();
        byGrain.forEach((grain, all) ->
                Waiting.chosen(all, Night::values, this::count, "unchanged").ifPresent(night -> one(grain, night)));
    }

    private boolean isUsable(Header row) {
        notKept += row.isUsable() ? 0 : 1;
        return row.isUsable();
    }

    private boolean isUsable(Line row) {
        boolean isUsable = row.isReadable() && row.booking() != null && row.night() != null;
        notKept += isUsable ? 0 : 1;
        return isUsable;
    }

    private void count(String name) {
        counts.merge(name, 1L, Long::sum);
    }

    private void take(List<Line> delivery) {
        Map<String, Header> partners = new LinkedHashMap<>();
        headers.rows().forEach(row -> partners.put(String.valueOf(row.booking()), row));
        List<Waiting<Line>> staged = new ArrayList<>();
        Map<Line, Waiting<Line>> before = new LinkedHashMap<>();
        waiting.forEach(each -> before.put(each.row(), each));
        if (!settings.linesKept()) {
            waiting.stream().filter(each -> !delivery.contains(each.row())).forEach(staged::add);
        }
        waiting = new ArrayList<>();
        delivery.forEach(row -> staged.add(Waiting.delivered(row)));
        Map<String, List<Waiting<Night>>> byGrain = new LinkedHashMap<>();
        for (Waiting<Night> each : waitingNights) {
            count("staged");
            byGrain.computeIfAbsent(each.row().grain(), grain -> new ArrayList<>())
                    .add(each);
        }
        waitingNights = new ArrayList<>();
        for (Waiting<Line> each : staged) {
            Line row = each.row();
            boolean lacks = row.isReadable() && !partners.containsKey(String.valueOf(row.booking()));
            if (lacks && settings.partner().equals("leave-out")) {
                continue;
            }
            count("staged");
            if (lacks && settings.partner().equals("wait") && row.booking() != null) {
                count("waiting");
                waiting.add(
                        settings.linesKept() ? before.getOrDefault(row, each).from(load) : each.from(load));
            } else if (!row.isReadable()
                    || row.night() == null
                    || row.booking() == null
                    || (lacks && !settings.partner().equals("optional"))) {
                count("setAside");
            } else {
                Optional<Header> header = Optional.ofNullable(partners.get(row.booking()));
                Night night = new Night(row, header.map(Header::channel).orElse(null), false);
                byGrain.computeIfAbsent(night.grain(), grain -> new ArrayList<>())
                        .add(new Waiting<>(night, each.since()));
            }
        }
        byGrain.forEach((grain, all) ->
                Waiting.chosen(all, Night::values, this::count, "unchanged").ifPresent(night -> one(grain, night)));
    }

    private void one(String grain, Waiting<Night> each) {
        Night night = each.row();
        Fact stands = facts.get(grain);
        if (night.line().cancels()) {
            count(stands == null ? "unchanged" : "updated");
            if (facts.remove(grain) != null) {
                count("removed");
            }
            return;
        }
        String hut = settings.housed() ? night.line().hut() : null;
        if (hut != null && !known.contains(hut)) {
            count("waiting");
            waitingNights.add(night.isOfBooks() ? each : new Waiting<>(night.ofBooks(), load));
            return;
        }
        List<@Nullable String> values =
                Arrays.asList(night.channel(), night.line().guests(), hut == null ? NO_HUT : hut);
        if (stands == null) {
            count("new");
            facts.put(grain, new Fact(values, load, load));
        } else if (stands.values().equals(values)) {
            count("unchanged");
        } else {
            count("updated");
            facts.put(grain, new Fact(values, stands.inserted(), load));
        }
    }
}
