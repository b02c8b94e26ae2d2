package dev.zeitkammer.cli.output;

import picocli.CommandLine.Help.Ansi;
import picocli.CommandLine.Help.Ansi.IStyle;

/** Colours; only on a terminal, and not under NO_COLOR. */
final class Style {

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
