package {= package =}.api;

{= place "java-import" given names = [
    "com.sun.net.httpserver.HttpHandler",
    "com.sun.net.httpserver.HttpServer",
    "io.micrometer.core.instrument.binder.jvm.JvmMemoryMetrics",
    "io.micrometer.core.instrument.binder.system.ProcessorMetrics",
    "io.micrometer.prometheusmetrics.PrometheusConfig",
    "io.micrometer.prometheusmetrics.PrometheusMeterRegistry",
    "java.io.IOException",
    "java.net.InetSocketAddress",
    "java.time.Duration",
    "java.util.concurrent.ExecutorService",
    "java.util.function.BooleanSupplier",
    package + ".Settings",
    package + ".notes.Notes"
] + (if threads then ["java.util.concurrent.Executors"] else []) + (if not (threads) then ["java.util.concurrent.SynchronousQueue", "java.util.concurrent.ThreadPoolExecutor", "java.util.concurrent.TimeUnit"] else []) =}

/** The server, and which path is answered by what. */
public final class Service implements AutoCloseable {
    /** How many connections may wait to be taken. */
    private static final int WAITING = 1000;

    private static final Duration PATIENCE = Duration.ofSeconds(10);

    static {
        // The seconds for a whole request and for a whole response, read once before the first server is made.
        System.setProperty("sun.net.httpserver.maxReqTime", "20");
        System.setProperty("sun.net.httpserver.maxRspTime", "30");
        System.setProperty("jdk.httpserver.maxConnections", "2000");
    }

    private final HttpServer server;
    private final ExecutorService threads;
    private final PrometheusMeterRegistry metrics = new PrometheusMeterRegistry(PrometheusConfig.DEFAULT);
    private final Requests requests = new Requests(metrics);

    /**
     * Makes a service that does not listen yet.
     *
     * @param settings where it listens
     * @param notes where notes are kept
     * @param isReady whether it can answer now
     * @throws IOException if the port is taken
     */
    public Service(Settings settings, Notes notes, BooleanSupplier isReady) throws IOException {
        server = HttpServer.create(new InetSocketAddress(settings.host(), settings.port()), WAITING);
        // {= if threads =}
        threads = Executors.newVirtualThreadPerTaskExecutor();
        // {= else =}
        // A slow client holds a thread until its time is over.
        threads = new ThreadPoolExecutor(0, 2000, 10, TimeUnit.SECONDS, new SynchronousQueue<>());
        // {= end =}
        server.setExecutor(threads);
        new JvmMemoryMetrics().bindTo(metrics);
        new ProcessorMetrics().bindTo(metrics);

        route("/health", new HealthApi(() -> true));
        route("/ready", new HealthApi(isReady));
        route("/metrics", exchange -> {
            Json.allow(exchange, "GET");
            Json.send(exchange, 200, "text/plain; version=0.0.4; charset=utf-8", metrics.scrape());
        });
        route("/notes", new NotesApi(notes));
        // joint: routes (tinmold)
        route("/", exchange -> {
            throw new Problem(404, "there is nothing here");
        });
    }

    private void route(String path, HttpHandler handler) {
        server.createContext(path, handler).getFilters().add(requests);
    }

    /** Begins to listen. */
    public void start() {
        server.start();
    }

    /**
     * Tells where it listens.
     *
     * @return the port
     */
    public int port() {
        return server.getAddress().getPort();
    }

    /** Lets running requests end, cuts off those that take too long, and ends. */
    @Override
    public void close() {
        requests.close(PATIENCE);
        server.stop(0);
        threads.shutdownNow();
    }
}
