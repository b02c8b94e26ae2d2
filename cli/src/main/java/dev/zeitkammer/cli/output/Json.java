package dev.zeitkammer.cli.output;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.core.util.DefaultIndenter;
import com.fasterxml.jackson.core.util.DefaultPrettyPrinter;
import com.fasterxml.jackson.core.util.Separators;
import com.fasterxml.jackson.core.util.Separators.Spacing;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.ObjectWriter;

/** JSON of maps, lists, texts and numbers; maps keep their order. */
public final class Json {

    private static final ObjectWriter WRITER = new ObjectMapper()
            .writer(new DefaultPrettyPrinter(
                            Separators.createDefaultInstance().withObjectFieldValueSpacing(Spacing.AFTER))
                    .withArrayIndenter(DefaultIndenter.SYSTEM_LINEFEED_INSTANCE));

    private Json() {}

    public static String of(Object value) {
        try {
            return WRITER.writeValueAsString(value);
        } catch (JsonProcessingException impossible) {
            throw new IllegalStateException(impossible);
        }
    }
}
