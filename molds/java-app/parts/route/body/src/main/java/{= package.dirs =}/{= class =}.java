package {= package =};

import com.sun.net.httpserver.HttpExchange;

/** What answers `GET /{= route =}`. */
final class {= class =} {
    private {= class =}() {}

    /** All of them, as JSON: the start of what it is to answer. */
    static Service.Answer answer(HttpExchange exchange) {
        return new Service.Answer(200, "[]");
    }
}
