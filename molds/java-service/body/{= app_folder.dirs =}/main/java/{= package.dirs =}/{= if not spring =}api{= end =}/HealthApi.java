package {= package =}.api;

import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpHandler;
import java.io.IOException;
import java.util.Map;
import java.util.function.BooleanSupplier;

/** Whether the service runs, or can answer. */
final class HealthApi implements HttpHandler {
    private final BooleanSupplier isUp;

    HealthApi(BooleanSupplier isUp) {
        this.isUp = isUp;
    }

    @Override
    public void handle(HttpExchange exchange) throws IOException {
        Json.allow(exchange, "GET");
        if (!Json.below(exchange).isEmpty()) {
            throw new Problem(404, "there is nothing here");
        }
        boolean up = isUp.getAsBoolean();
        Json.write(exchange, up ? 200 : 503, Map.of("status", up ? "UP" : "DOWN"));
    }
}
