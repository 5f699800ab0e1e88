package {= package =};

import java.time.Instant;
import java.time.temporal.ChronoUnit;

/**
 * The log: one line an event, on standard error.
 *
 * @param json whether a line is an object, for programs that gather logs, or a sentence
 */
public record Log(boolean json) {
    /** Tells what happens every day. */
    public void info(String message) {
        System.err.println(line("info", message));
    }

    /** Tells what went wrong. */
    public void error(String message) {
        System.err.println(line("error", message));
    }

    /** A line, and never more than one, whatever a request brings. */
    String line(String level, String message) {
        Instant now = Instant.now().truncatedTo(ChronoUnit.MILLIS);
        return json
                ? "{\"time\": \"%s\", \"level\": \"%s\", \"message\": %s}".formatted(now, level, quoted(message))
                : "%s %-5s %s".formatted(now, level, message.replaceAll("\\p{Cc}", "?"));
    }

    /** A text as JSON has it (RFC 8259), with its quotes. */
    static String quoted(String text) {
        StringBuilder out = new StringBuilder("\"");
        text.chars().forEach(c -> {
            if (c == '"' || c == '\\') {
                out.append('\\').append((char) c);
            } else if (c < ' ') {
                out.append("\\u%04x".formatted(c));
            } else {
                out.append((char) c);
            }
        });
        return out.append('"').toString();
    }
}
