package {= package =}.api;

import static org.assertj.core.api.Assertions.assertThat;

{= place "java-import" given names = [
    "java.io.IOException",
    "java.net.URI",
    "java.net.http.HttpClient",
    "java.net.http.HttpRequest",
    "java.net.http.HttpRequest.BodyPublisher",
    "java.net.http.HttpRequest.BodyPublishers",
    "java.net.http.HttpResponse",
    "java.net.http.HttpResponse.BodyHandlers",
    "org.junit.jupiter.api.Test",
    "org.junit.jupiter.params.ParameterizedTest",
    "org.junit.jupiter.params.provider.CsvSource"
] + (if stored then [package + ".database.TestDatabase"] else [])
  + (if stored and not spring then [package + ".database.Database", package + ".notes.StoredNotes"] else [])
  + (if not stored and not spring then [package + ".notes.MemoryNotes"] else [])
  + (if not spring then ["org.junit.jupiter.api.AfterAll", "org.junit.jupiter.api.BeforeAll", package + ".Settings"] else [])
  + (if database == "postgres" then ["org.junit.jupiter.api.condition.EnabledIfEnvironmentVariable"] else [])
  + (if database == "postgres" and spring then ["org.junit.jupiter.api.AfterAll"] else [])
  + (if spring then ["org.springframework.boot.test.context.SpringBootTest", "org.springframework.boot.test.web.server.LocalServerPort"] else [])
  + (if spring and stored then ["org.springframework.test.context.DynamicPropertyRegistry", "org.springframework.test.context.DynamicPropertySource"] else [])
=}

/** The whole service over HTTP. */
// {= if database == "postgres" =}
@EnabledIfEnvironmentVariable(named = "TEST_JDBC_URL", matches = ".+")
// {= end =}
// {= if spring =}
@SpringBootTest(webEnvironment = SpringBootTest.WebEnvironment.RANDOM_PORT)
// {= end =}
class ServiceIT {
    private static final String METRICS = "{= if spring =}/actuator/prometheus{= else =}/metrics{= end =}";

    private final HttpClient client = HttpClient.newHttpClient();

    // {= if spring =}
    // {= if stored =}
    private static final TestDatabase DATABASE = TestDatabase.create();

    @DynamicPropertySource
    static void database(DynamicPropertyRegistry properties) {
        properties.add("spring.datasource.url", DATABASE::url);
        properties.add("spring.datasource.username", () -> "");
        properties.add("spring.datasource.password", () -> "");
    }

    // {= if database == "postgres" =}
    @AfterAll
    static void drop() {
        DATABASE.close();
    }

    // {= end =}
    // {= end =}
    @LocalServerPort
    private int port;

    // {= else =}
    // {= if stored =}
    private static TestDatabase test;
    private static Database database;
    // {= end =}
    private static Service service;
    private static int port;

    @BeforeAll
    static void start() throws IOException {
        // {= if stored =}
        test = TestDatabase.create();
        database = Database.open(test.url(), "", "");
        Settings settings = new Settings("127.0.0.1", 0, "text", "INFO", test.url(), "", "");
        service = new Service(settings, new StoredNotes(database.source()), database::isReady);
        // {= else =}
        service = new Service(new Settings("127.0.0.1", 0, "text", "INFO"), new MemoryNotes(100), () -> true);
        // {= end =}
        service.start();
        port = service.port();
    }

    @AfterAll
    static void stop() {
        service.close();
        // {= if stored =}
        database.close();
        // {= end =}
        // {= if database == "postgres" =}
        test.close();
        // {= end =}
    }

    // {= end =}
    @Test
    void aNoteIsKept() throws Exception {
        HttpResponse<String> made = post("application/json", "{\"text\": \"  Buy paint  \"}");

        assertThat(made.statusCode()).isEqualTo(201);
        assertThat(made.body()).contains("\"text\":\"Buy paint\"").contains("\"created\":\"20");
        String place = made.headers().firstValue("Location").orElseThrow();
        assertThat(ask("GET", place).body()).isEqualTo(made.body());
        long before = Long.parseLong(place.substring("/notes/".length())) - 1;
        assertThat(ask("GET", "/notes?limit=1&after=" + before).body()).isEqualTo("[" + made.body() + "]");
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "415 | text/plain       | {\"text\": \"a\"}",
                "400 | application/json | {\"text\": ",
                "400 | application/json | {\"text\": \"  \"}",
                "400 | application/json | {}",
                "400 | application/json | []",
                "400 | application/json | null",
                "400 | application/json | {\"text\": \"a\\u0000b\"}"
            })
    void whatIsNoNoteIsRefused(int status, String type, String body) throws Exception {
        HttpResponse<String> answer = post(type, body);

        assertThat(answer.statusCode()).isEqualTo(status);
        assertThat(answer.headers().firstValue("Content-Type").orElseThrow()).startsWith("application/problem+json");
    }

    @Test
    void aLargeBodyIsRefused() throws Exception {
        BodyPublisher body = BodyPublishers.ofString("{\"text\": \"" + "x".repeat(1 << 20) + "\"}");

        assertThat(send("POST", "/notes", "application/json", body).statusCode())
                .isEqualTo(413);
        assertThat(post("application/json", "{\"text\": \"" + "x".repeat(2001) + "\"}")
                        .statusCode())
                .isEqualTo(400);
    }

    @ParameterizedTest
    @CsvSource({
        "GET, /health, 200",
        "HEAD, /health, 200",
        "GET, /ready, 200",
        "GET, /notes?limit=100&after=0, 200",
        "HEAD, /notes, 200",
        "GET, /notes?limit=0, 400",
        "GET, /notes?after=x, 400",
        "GET, /notes/999999999, 404",
        "GET, /nowhere, 404",
        "DELETE, /notes, 405",
        "DELETE, /notes/1, 405"
    })
    void requestsGetTheirStatus(String method, String path, int status) throws Exception {
        HttpResponse<String> answer = ask(method, path);

        assertThat(answer.statusCode()).isEqualTo(status);
        assertThat(answer.headers().firstValue("X-Request-Id")).isNotEmpty();
        if (status == 405) {
            assertThat(answer.headers().firstValue("Allow").orElseThrow()).contains("GET");
        }
    }

    @Test
    void requestsAreMeasured() throws Exception {
        ask("GET", "/health");

        assertThat(ask("GET", METRICS).body()).contains("http_server_requests_seconds_count");
    }

    private HttpResponse<String> post(String type, String body) throws IOException, InterruptedException {
        return send("POST", "/notes", type, BodyPublishers.ofString(body));
    }

    private HttpResponse<String> ask(String method, String path) throws IOException, InterruptedException {
        return send(method, path, "application/json", BodyPublishers.noBody());
    }

    private HttpResponse<String> send(String method, String path, String type, BodyPublisher body)
            throws IOException, InterruptedException {
        HttpRequest request = HttpRequest.newBuilder(URI.create("http://127.0.0.1:" + port + path))
                .method(method, body)
                .header("Content-Type", type)
                .build();
        return client.send(request, BodyHandlers.ofString());
    }
}
