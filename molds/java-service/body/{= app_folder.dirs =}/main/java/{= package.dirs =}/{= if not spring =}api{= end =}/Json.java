package {= package =}.api;

// {= if gson =}
import com.google.gson.Gson;
import com.google.gson.GsonBuilder;
import com.google.gson.JsonParseException;
import com.google.gson.JsonPrimitive;
import com.google.gson.JsonSerializer;
import com.google.gson.Strictness;
// {= end =}
import com.sun.net.httpserver.HttpExchange;
import java.io.IOException;
import java.io.OutputStream;
import java.nio.charset.StandardCharsets;
// {= if gson =}
import java.time.Instant;
// {= end =}
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
// {= if not gson =}
import tools.jackson.core.JacksonException;
import tools.jackson.databind.DeserializationFeature;
import tools.jackson.databind.json.JsonMapper;
// {= end =}

/** Reads what a request sends, and writes what a response holds. */
public final class Json {
    private static final int MOST_BYTES = 1 << 20;
    private static final Map<Integer, String> TITLES = Map.of(
            400, "Bad Request",
            404, "Not Found",
            405, "Method Not Allowed",
            413, "Content Too Large",
            415, "Unsupported Media Type",
            500, "Internal Server Error",
            503, "Service Unavailable");
    // {= if gson =}
    private static final Gson GSON = new GsonBuilder()
            .setStrictness(Strictness.STRICT)
            .registerTypeAdapter(Instant.class, (JsonSerializer<Instant>)
                    (instant, type, context) -> new JsonPrimitive(instant.toString()))
            .create();
    // {= else =}
    private static final JsonMapper MAPPER = JsonMapper.builder()
            .enable(DeserializationFeature.FAIL_ON_UNKNOWN_PROPERTIES)
            .build();
    // {= end =}

    private Json() {}

    /**
     * Reads the body of a request.
     *
     * @param <T> what it becomes
     * @param exchange the request
     * @param type what it becomes
     * @return the body
     * @throws IOException where the client sends no more
     */
    public static <T> T read(HttpExchange exchange, Class<T> type) throws IOException {
        String kind = exchange.getRequestHeaders().getFirst("Content-Type");
        if (kind == null || !kind.split(";", 2)[0].strip().equalsIgnoreCase("application/json")) {
            throw new Problem(415, "the body has to be application/json");
        }
        byte[] body;
        try {
            body = exchange.getRequestBody().readNBytes(MOST_BYTES + 1);
        } catch (IOException error) {
            throw new Gone(error);
        }
        if (body.length > MOST_BYTES) {
            throw new Problem(413, "the body has more than " + MOST_BYTES + " bytes");
        }
        T value;
        try {
            // {= if gson =}
            value = GSON.fromJson(new String(body, StandardCharsets.UTF_8), type);
        } catch (JsonParseException error) {
            // {= else =}
            value = MAPPER.readValue(body, type);
        } catch (JacksonException error) {
            // {= end =}
            throw new Problem(400, "the body is not the JSON that belongs here");
        }
        if (value == null) {
            throw new Problem(400, "the body is empty");
        }
        return value;
    }

    /**
     * Answers with a value.
     *
     * @param exchange the request
     * @param status the status of the response
     * @param value what it holds
     * @throws IOException where the client takes no more
     */
    public static void write(HttpExchange exchange, int status, Object value) throws IOException {
        send(exchange, status, "application/json", {= if gson =}GSON.toJson(value){= else =}MAPPER.writeValueAsString(value){= end =});
    }

    /**
     * Answers with what was wrong, as RFC 9457 has it.
     *
     * @param exchange the request
     * @param problem what was wrong
     * @throws IOException where the client takes no more
     */
    public static void refuse(HttpExchange exchange, Problem problem) throws IOException {
        Map<String, Object> value = new LinkedHashMap<>();
        value.put("title", TITLES.getOrDefault(problem.status(), "Refused"));
        value.put("status", problem.status());
        value.put("detail", problem.getMessage());
        send(exchange, problem.status(), "application/problem+json", {= if gson =}GSON.toJson(value){= else =}MAPPER.writeValueAsString(value){= end =});
    }

    /**
     * Answers with a text.
     *
     * @param exchange the request
     * @param status the status of the response
     * @param type what kind of text it is
     * @param text what the response holds
     * @throws IOException where the client takes no more
     */
    static void send(HttpExchange exchange, int status, String type, String text) throws IOException {
        byte[] body = text.getBytes(StandardCharsets.UTF_8);
        exchange.getResponseHeaders().set("Content-Type", type);
        try {
            if (exchange.getRequestMethod().equals("HEAD")) {
                exchange.getResponseHeaders().set("Content-Length", Integer.toString(body.length));
                exchange.sendResponseHeaders(status, -1);
                return;
            }
            exchange.sendResponseHeaders(status, body.length);
            try (OutputStream out = exchange.getResponseBody()) {
                out.write(body);
            }
        } catch (IOException error) {
            throw new Gone(error);
        }
    }

    /**
     * Refuses all methods but these.
     *
     * @param exchange the request
     * @param methods what is allowed; GET allows HEAD, too
     */
    public static void allow(HttpExchange exchange, String... methods) {
        Set<String> allowed = new TreeSet<>(Set.of(methods));
        if (allowed.contains("GET")) {
            allowed.add("HEAD");
        }
        if (!allowed.contains(exchange.getRequestMethod())) {
            exchange.getResponseHeaders().set("Allow", String.join(", ", allowed));
            throw new Problem(405, "this path allows " + String.join(", ", allowed));
        }
    }

    /**
     * Tells what stands behind the path of a route, and refuses what is no path below it.
     *
     * @param exchange the request
     * @return what follows the slash; empty for the path itself
     */
    public static String below(HttpExchange exchange) {
        String rest = exchange.getRequestURI()
                .getPath()
                .substring(exchange.getHttpContext().getPath().length());
        if (!rest.isEmpty() && rest.charAt(0) != '/') {
            throw new Problem(404, "there is nothing here");
        }
        return rest.isEmpty() ? "" : rest.substring(1);
    }
}
