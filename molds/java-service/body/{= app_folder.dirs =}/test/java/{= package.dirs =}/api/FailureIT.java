package {= package =}.api;

import static org.assertj.core.api.Assertions.assertThat;
{= if spring or mockito =}
import static org.mockito.ArgumentMatchers.anyInt;
import static org.mockito.ArgumentMatchers.anyLong;
{= if not spring =}
import static org.mockito.Mockito.mock;
{= end =}
import static org.mockito.Mockito.when;
{= end =}

{= place "java-import" given names = [
    "java.io.IOException",
    "java.net.URI",
    "java.net.http.HttpClient",
    "java.net.http.HttpRequest",
    "java.net.http.HttpResponse",
    "java.net.http.HttpResponse.BodyHandlers",
    "org.junit.jupiter.api.Test",
    package + ".notes.Notes"
] + (if spring then ["org.springframework.boot.test.context.SpringBootTest", "org.springframework.boot.test.web.server.LocalServerPort", "org.springframework.test.context.bean.override.mockito.MockitoBean"] else [package + ".Settings"])
  + (if not spring and not mockito then ["java.util.List", "java.util.Optional", package + ".notes.Note"] else [])
=}

/** What happens when the storage fails: the log says why, the response does not. */
// {= if spring and stored =}
@SpringBootTest(
        webEnvironment = SpringBootTest.WebEnvironment.RANDOM_PORT,
        properties = {
            "spring.autoconfigure.exclude=org.springframework.boot.jdbc.autoconfigure.DataSourceAutoConfiguration",
            "management.endpoint.health.group.ready.include=readinessState"
        })
// {= else if spring =}
@SpringBootTest(webEnvironment = SpringBootTest.WebEnvironment.RANDOM_PORT)
// {= end =}
class FailureIT {
    // {= if spring =}
    @LocalServerPort
    private int port;

    @MockitoBean
    private Notes notes;

    // {= end =}
    @Test
    void aFailureIsAnAnswerWithoutItsTrace() throws IOException, InterruptedException {
        // {= if spring =}
        when(notes.list(anyLong(), anyInt())).thenThrow(new IllegalStateException("a secret"));

        check(port);
    }
    // {= else =}
        // {= if mockito =}
        Notes notes = mock(Notes.class);
        when(notes.list(anyLong(), anyInt())).thenThrow(new IllegalStateException("a secret"));
        // {= else =}
        Notes notes = new Failing();
        // {= end =}

        // {= if stored =}
        Settings settings = new Settings("127.0.0.1", 0, "text", "INFO", "", "", "");
        // {= else =}
        Settings settings = new Settings("127.0.0.1", 0, "text", "INFO");
        // {= end =}
        try (Service service = new Service(settings, notes, () -> false)) {
            service.start();
            check(service.port());
            assertThat(get(service.port(), "/ready").statusCode()).isEqualTo(503);
        }
    }
    // {= end =}

    private static void check(int port) throws IOException, InterruptedException {
        HttpResponse<String> answer = get(port, "/notes");

        assertThat(answer.statusCode()).isEqualTo(500);
        assertThat(answer.body()).contains("\"status\":500").doesNotContain("secret");
    }

    private static HttpResponse<String> get(int port, String path) throws IOException, InterruptedException {
        URI address = URI.create("http://127.0.0.1:" + port + path);
        return HttpClient.newHttpClient().send(HttpRequest.newBuilder(address).build(), BodyHandlers.ofString());
    }
    // {= if not spring and not mockito =}

    private static final class Failing implements Notes {
        @Override
        public Note add(String text) {
            throw new IllegalStateException("a secret");
        }

        @Override
        public Optional<Note> find(long id) {
            throw new IllegalStateException("a secret");
        }

        @Override
        public List<Note> list(long after, int limit) {
            throw new IllegalStateException("a secret");
        }
    }
    // {= end =}
}
