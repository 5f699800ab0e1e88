package {= package =}.api;

// {= if spring =}
import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.ArgumentMatchers.anyInt;
import static org.mockito.ArgumentMatchers.anyLong;
import static org.mockito.Mockito.when;

{= place "java-import" given names = [
    "java.io.IOException",
    "java.net.URI",
    "java.net.http.HttpClient",
    "java.net.http.HttpRequest",
    "java.net.http.HttpResponse",
    "java.net.http.HttpResponse.BodyHandlers",
    "org.junit.jupiter.api.Test",
    "org.springframework.boot.test.context.SpringBootTest",
    "org.springframework.boot.test.web.server.LocalServerPort",
    "org.springframework.test.context.bean.override.mockito.MockitoBean",
    package + ".notes.Notes"
] =}

/** What happens when the storage fails: the log says why, the response does not. */
// {= if stored =}
@SpringBootTest(
        webEnvironment = SpringBootTest.WebEnvironment.RANDOM_PORT,
        properties = {
            "spring.autoconfigure.exclude=org.springframework.boot.jdbc.autoconfigure.DataSourceAutoConfiguration",
            "management.endpoint.health.group.ready.include=readinessState"
        })
// {= else =}
@SpringBootTest(webEnvironment = SpringBootTest.WebEnvironment.RANDOM_PORT)
// {= end =}
class FailureIT {
    @LocalServerPort
    private int port;

    @MockitoBean
    private Notes notes;

    @Test
    void aFailureIsAnAnswerWithoutItsTrace() throws IOException, InterruptedException {
        when(notes.list(anyLong(), anyInt())).thenThrow(new IllegalStateException("a secret"));
        URI address = URI.create("http://127.0.0.1:" + port + "/notes");

        HttpResponse<String> answer =
                HttpClient.newHttpClient().send(HttpRequest.newBuilder(address).build(), BodyHandlers.ofString());

        assertThat(answer.statusCode()).isEqualTo(500);
        assertThat(answer.body()).contains("\"status\":500").doesNotContain("secret");
    }
}
// {= else =}
import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.net.http.HttpResponse;
import org.junit.jupiter.api.Test;

/** What happens when the storage fails: the log says why, the response does not. */
class FailureIT {
    @Test
    void aFailureIsAnAnswerWithoutItsTrace() throws IOException, InterruptedException {
        try (Service service = TestService.start()) {
            HttpResponse<String> answer = TestService.get(service, "/notes");

            assertThat(answer.statusCode()).isEqualTo(500);
            assertThat(answer.body()).contains("\"status\":500").doesNotContain("secret");
            assertThat(TestService.get(service, "/ready").statusCode()).isEqualTo(503);
        }
    }
}
// {= end =}
