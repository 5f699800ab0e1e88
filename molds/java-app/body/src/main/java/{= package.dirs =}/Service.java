package {= package =};

import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;

/** HTTP around the work: which function answers which request. */
public final class Service {
    private static final int MOST_BYTES = 100_000;

    /** What a request gets. */
    record Answer(int status, String body) {}

    /** Something that answers. */
    interface Handler {
        Answer answer(HttpExchange exchange) throws IOException;
    }

    /** A method, a path, and what answers. */
    record Route(String method, String path, Handler handler) {}

    private final List<Route> routes = routes();
    private final String host;
    private final Log log;
    private final HttpServer server;
    private final ExecutorService threads = Executors.newCachedThreadPool();

    /** A service that will listen there; port 0 takes a free one. */
    public Service(String host, int port, Log log) throws IOException {
        this.host = host;
        this.log = log;
        server = HttpServer.create(new InetSocketAddress(host, port), 0);
        server.setExecutor(threads);
        server.createContext("/", this::handle);
    }

    /** All routes: add yours here. */
    private static List<Route> routes() {
        List<Route> routes = new ArrayList<>();
        routes.add(new Route("GET", "/health", exchange -> new Answer(200, "{\"status\": \"ok\"}")));
        routes.add(new Route("POST", "/count", Service::count));
        // joint: routes (tinmold)
        return List.copyOf(routes);
    }

    /** Begins to listen. */
    public void start() {
        server.start();
    }

    /** Answers what was asked already, and ends. */
    public void stop() {
        server.stop(1);
        threads.shutdown();
    }

    /** Where it listens. */
    public String address() {
        String shown = host.contains(":") ? "[" + host + "]" : host;
        return "http://" + shown + ":" + server.getAddress().getPort();
    }

    private static Answer count(HttpExchange exchange) throws IOException {
        byte[] body = exchange.getRequestBody().readNBytes(MOST_BYTES + 1);
        if (body.length > MOST_BYTES) {
            return new Answer(413, "{\"error\": \"more than " + MOST_BYTES + " bytes\"}");
        }
        Counts counts = Counts.of(new String(body, StandardCharsets.UTF_8));
        return new Answer(200, "{\"lines\": %d, \"words\": %d, \"characters\": %d}"
                .formatted(counts.lines(), counts.words(), counts.characters()));
    }

    private void handle(HttpExchange exchange) throws IOException {
        Answer answer;
        try {
            answer = answer(exchange);
        } catch (RuntimeException error) {
            log.error("failed: " + error);
            answer = new Answer(500, "{\"error\": \"something went wrong; the log says what\"}");
        }
        byte[] body = (answer.body() + "\n").getBytes(StandardCharsets.UTF_8);
        exchange.getResponseHeaders().set("Content-Type", "application/json; charset=utf-8");
        exchange.sendResponseHeaders(answer.status(), body.length);
        exchange.getResponseBody().write(body);
        exchange.close();
        log.info(exchange.getRequestMethod() + " " + exchange.getRequestURI().getPath() + " " + answer.status());
    }

    private Answer answer(HttpExchange exchange) throws IOException {
        boolean known = false;
        for (Route route : routes) {
            if (route.path().equals(exchange.getRequestURI().getPath())) {
                if (route.method().equals(exchange.getRequestMethod())) {
                    return route.handler().answer(exchange);
                }
                known = true;
            }
        }
        return known
                ? new Answer(405, "{\"error\": \"this path has no such method\"}")
                : new Answer(404, "{\"error\": \"there is nothing here\"}");
    }
}
