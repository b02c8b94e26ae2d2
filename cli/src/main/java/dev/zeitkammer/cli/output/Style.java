package dev.zeitkammer.cli.output;

import java.util.regex.Matcher;
import java.util.regex.Pattern;
import picocli.CommandLine.Help.Ansi;
import picocli.CommandLine.Help.Ansi.IStyle;

/** Colours; only on a terminal, and not under NO_COLOR. */
final class Style {

    /** What the styles of this class send to a terminal. */
    private static final Pattern OWN = Pattern.compile("\u001b\\[(?:0|1|2|31|32|33)m");

    private Style() {}

    static String strong(String text) {
        return styled(text, Ansi.Style.bold);
    }

    static String faint(String text) {
        return styled(text, Ansi.Style.faint);
    }

    static String good(String text) {
        return styled(text, Ansi.Style.fg_green);
    }

    static String bad(String text) {
        return styled(text, Ansi.Style.fg_red, Ansi.Style.bold);
    }

    static String changed(String text) {
        return styled(text, Ansi.Style.fg_yellow, Ansi.Style.bold);
    }

    /** A text in which nothing but the styles of this class, and ends of lines, steers a terminal. */
    static String harmless(String text) {
        if (text.chars().noneMatch(Values::steers)) {
            return text;
        }
        StringBuilder harmless = new StringBuilder();
        Matcher own = OWN.matcher(text);
        int from = 0;
        while (own.find()) {
            harmless.append(Values.safeLines(text.substring(from, own.start())));
            harmless.append(Ansi.AUTO.enabled() ? own.group() : Values.safe(own.group()));
            from = own.end();
        }
        return harmless.append(Values.safeLines(text.substring(from))).toString();
    }

    private static String styled(String text, IStyle... styles) {
        if (!Ansi.AUTO.enabled() || text.isEmpty()) {
            return text;
        }
        StringBuilder result = new StringBuilder();
        for (IStyle style : styles) {
            result.append(style.on());
        }
        return result.append(text).append("\u001b[0m").toString();
    }
}
