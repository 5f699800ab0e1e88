package {= package =};

// {= if maven =}
import static org.junit.jupiter.api.Assertions.assertEquals;

import org.junit.jupiter.api.Test;

// {= else =}
import static {= package =}.AppTest.assertEquals;

// {= end =}
/** The route `/{= route =}`, asked over HTTP. */
final class {= class =}Test {
    // {= if maven =}
    @Test
    // {= end =}
    void itAnswers() throws Exception {
        Service service = new Service("127.0.0.1", 0, new Log(true));
        service.start();
        try {
            assertEquals("200 []", AppTest.ask(service, "GET", "/{= route =}", ""));
            assertEquals("405", AppTest.ask(service, "DELETE", "/{= route =}", "").substring(0, 3));
        } finally {
            service.stop();
        }
    }
}
