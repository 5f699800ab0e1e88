package {= package =}.api;

// {= if spring =}
import java.util.List;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RestController;

/** Answers {@code /{= route =}}. */
@RestController
@RequestMapping("/{= route =}")
class {= handler =} {
    @GetMapping
    List<String> list() {
        return List.of();
    }
}
// {= else =}
import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpHandler;
import java.io.IOException;
import java.util.List;

/** Answers {@code /{= route =}}. */
final class {= handler =} implements HttpHandler {
    @Override
    public void handle(HttpExchange exchange) throws IOException {
        Json.allow(exchange, "GET");
        if (!Json.below(exchange).isEmpty()) {
            throw new Problem(404, "there is nothing here");
        }
        Json.write(exchange, 200, List.of());
    }
}
// {= end =}
