package {= package =};

import java.util.Map;

/**
 * Every setting, read from the environment.
 *
 * @param host the address to listen on
 * @param port the port; 0 takes a free one
 * @param json whether a line of the log is an object, not a sentence
 */
public record Config(String host, int port, boolean json) {
    /** Reads the settings; one that cannot stand is an {@code IllegalArgumentException} that says so. */
    public static Config from(Map<String, String> environment) {
        String format = value(environment, "LOG_FORMAT", "json");
        if (!format.equals("json") && !format.equals("text")) {
            throw new IllegalArgumentException("LOG_FORMAT is json or text");
        }
        return new Config(value(environment, "HOST", "127.0.0.1"), port(environment), format.equals("json"));
    }

    private static int port(Map<String, String> environment) {
        String port = value(environment, "PORT", "{= port =}");
        if (!port.matches("[0-9]{1,5}") || Integer.parseInt(port) > 65535) {
            throw new IllegalArgumentException("PORT is a number from 0 to 65535");
        }
        return Integer.parseInt(port);
    }

    private static String value(Map<String, String> environment, String name, String usual) {
        String value = environment.getOrDefault(name, "");
        return value.isEmpty() ? usual : value;
    }
}
