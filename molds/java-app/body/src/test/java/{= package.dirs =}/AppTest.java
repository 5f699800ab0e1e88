package {= package =};

// {= if maven =}
import static org.junit.jupiter.api.Assertions.assertEquals;

// {= end =}
// {= if service =}
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.util.Map;
// {= end =}
// {= if maven =}
import org.junit.jupiter.api.Test;
// {= else =}
import java.util.Objects;
// {= end =}

/** The tests. */
final class AppTest {
    // {= if maven =}
    @Test
    // {= end =}
    void textsAreCounted() {
        assertEquals(new Counts(0, 0, 0), Counts.of(""));
        assertEquals(new Counts(0, 1, 3), Counts.of("one"));
        assertEquals(new Counts(2, 3, 14), Counts.of("one two\nthree\n"));
        assertEquals(new Counts(2, 0, 4), Counts.of(" \n\t\n"));
        assertEquals(new Counts(2, 2, 8), Counts.of("one\n").plus(Counts.of("two\n")));
    }

    // {= if service =}
    // {= if maven =}
    @Test
    // {= end =}
    void requestsAreAnswered() throws Exception {
        Service service = new Service("127.0.0.1", 0, new Log(true));
        service.start();
        try {
            assertEquals("200 {\"status\": \"ok\"}", ask(service, "GET", "/health", ""));
            assertEquals("200 {\"lines\": 1, \"words\": 2, \"characters\": 8}", ask(service, "POST", "/count", "one two\n"));
            assertEquals("404 {\"error\": \"there is nothing here\"}", ask(service, "GET", "/nowhere", ""));
            assertEquals("405 {\"error\": \"this path has no such method\"}", ask(service, "DELETE", "/health", ""));
            assertEquals("413", ask(service, "POST", "/count", "x".repeat(200_000)).substring(0, 3));
        } finally {
            service.stop();
        }
    }

    // {= if maven =}
    @Test
    // {= end =}
    void settingsComeFromTheEnvironment() {
        assertEquals(new Config("127.0.0.1", {= port =}, true), Config.from(Map.of("PORT", "")));
        assertEquals(new Config("0.0.0.0", 0, false), Config.from(Map.of("HOST", "0.0.0.0", "PORT", "0", "LOG_FORMAT", "text")));
        assertEquals("PORT is a number from 0 to 65535", refusal("PORT", "99999"));
        assertEquals("PORT is a number from 0 to 65535", refusal("PORT", "x"));
        assertEquals("LOG_FORMAT is json or text", refusal("LOG_FORMAT", "verse"));
    }

    static String refusal(String name, String value) {
        try {
            return "taken: " + Config.from(Map.of(name, value));
        } catch (IllegalArgumentException error) {
            return error.getMessage();
        }
    }

    // {= if maven =}
    @Test
    // {= end =}
    void aLineIsAnObjectOrASentence() {
        assertEquals("\"a \\\"b\\\" \\\\ \\u000a\"", Log.quoted("a \"b\" \\ \n"));
        assertEquals(true, new Log(true).line("info", "a").endsWith("\"level\": \"info\", \"message\": \"a\"}"));
        assertEquals(true, new Log(false).line("info", "a\n\u001bb").endsWith("Z info  a??b"));
    }

    static String ask(Service service, String method, String path, String body) throws Exception {
        HttpRequest request = HttpRequest.newBuilder(URI.create(service.address() + path))
                .method(method, HttpRequest.BodyPublishers.ofString(body))
                .build();
        HttpResponse<String> response = HttpClient.newHttpClient().send(request, HttpResponse.BodyHandlers.ofString());
        return response.statusCode() + " " + response.body().strip();
    }
    // {= else =}
    // {= if maven =}
    @Test
    // {= end =}
    void exitCodesTell() {
        assertEquals(0, App.run("README.md", "Makefile"));
        assertEquals(1, App.run("no-such-file"));
        assertEquals(2, App.run("--colour"));
    }
    // {= end =}
    // {= if not maven =}

    static void assertEquals(Object expected, Object found) {
        if (!Objects.equals(expected, found)) {
            throw new AssertionError("found " + found + ", expected " + expected);
        }
    }

    public static void main(String[] args) throws Exception {
        AppTest tests = new AppTest();
        tests.textsAreCounted();
        // {= if service =}
        tests.requestsAreAnswered();
        tests.settingsComeFromTheEnvironment();
        tests.aLineIsAnObjectOrASentence();
        // joint: tests (tinmold)
        // {= else =}
        tests.exitCodesTell();
        // {= end =}
        System.out.println("all tests passed");
    }
    // {= end =}
}
