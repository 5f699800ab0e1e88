package {= package =}.api;

import com.sun.net.httpserver.Filter;
import com.sun.net.httpserver.HttpExchange;
import io.micrometer.core.instrument.MeterRegistry;
import io.micrometer.core.instrument.Timer;
import java.io.IOException;
import java.time.Duration;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.atomic.AtomicInteger;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.slf4j.MDC;

/** What happens to every request: an id, a line in the log, a time in the metrics, and an answer in any case. */
final class Requests extends Filter {
    private static final Logger LOG = LoggerFactory.getLogger(Requests.class);
    private static final String HEADER = "X-Request-Id";

    private static final Set<String> METHODS = Set.of("GET", "HEAD", "POST", "PUT", "PATCH", "DELETE", "OPTIONS");

    private final MeterRegistry metrics;
    private final AtomicInteger running = new AtomicInteger();
    private volatile boolean closing;

    Requests(MeterRegistry metrics) {
        this.metrics = metrics;
    }

    @Override
    public String description() {
        return "id, log, metrics and errors";
    }

    @Override
    public void doFilter(HttpExchange exchange, Chain chain) throws IOException {
        running.incrementAndGet();
        long start = System.nanoTime();
        String given = exchange.getRequestHeaders().getFirst(HEADER);
        String id = given != null && given.matches("[A-Za-z0-9._-]{1,64}")
                ? given
                : UUID.randomUUID().toString();
        MDC.put("request", id);
        try {
            exchange.getResponseHeaders().set(HEADER, id);
            answer(exchange, chain);
            Duration took = Duration.ofNanos(System.nanoTime() - start);
            measure(exchange, took);
            LOG.info(
                    "{} {} {} {} ms",
                    exchange.getRequestMethod(),
                    exchange.getRequestURI().getRawPath(),
                    exchange.getResponseCode(),
                    took.toMillis());
        } catch (Gone error) {
            LOG.info("the client went away: {}", error.getMessage());
        } finally {
            exchange.close();
            MDC.remove("request");
            running.decrementAndGet();
        }
    }

    private void answer(HttpExchange exchange, Chain chain) throws IOException {
        if (closing) {
            exchange.getResponseHeaders().set("Connection", "close");
            Json.refuse(exchange, new Problem(503, "the service is about to end"));
            return;
        }
        try {
            chain.doFilter(exchange);
        } catch (Gone error) {
            throw error;
        } catch (Problem problem) {
            Json.refuse(exchange, problem);
        } catch (IOException | RuntimeException | Error error) {
            LOG.error("failed", error);
            if (exchange.getResponseCode() == -1) {
                Json.refuse(exchange, new Problem(500, "something went wrong; the log says what"));
            }
        }
    }

    private void measure(HttpExchange exchange, Duration took) {
        String method = exchange.getRequestMethod();
        Timer.builder("http.server.requests")
                .tag("method", METHODS.contains(method) ? method : "OTHER")
                .tag("uri", exchange.getHttpContext().getPath())
                .tag("status", Integer.toString(exchange.getResponseCode()))
                .register(metrics)
                .record(took);
    }

    /** Takes no new requests, and waits for the running ones, but not longer than this. */
    void close(Duration patience) {
        closing = true;
        long end = System.nanoTime() + patience.toNanos();
        while (running.get() > 0 && System.nanoTime() < end) {
            try {
                Thread.sleep(10);
            } catch (InterruptedException error) {
                Thread.currentThread().interrupt();
                return;
            }
        }
    }
}
