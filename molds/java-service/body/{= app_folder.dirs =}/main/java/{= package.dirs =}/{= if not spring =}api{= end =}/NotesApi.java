package {= package =}.api;

{= place "java-import" given names = [
    "com.sun.net.httpserver.HttpExchange",
    "com.sun.net.httpserver.HttpHandler",
    "java.io.IOException",
    "java.util.HashMap",
    "java.util.Map",
    package + ".notes.Note",
    package + ".notes.Notes"
] =}

/** The notes over HTTP. */
public final class NotesApi implements HttpHandler {
    private final Notes notes;

    /**
     * Serves these notes.
     *
     * @param notes where they are kept
     */
    public NotesApi(Notes notes) {
        this.notes = notes;
    }

    @Override
    public void handle(HttpExchange exchange) throws IOException {
        String id = Json.below(exchange);
        if (!id.isEmpty()) {
            Json.allow(exchange, "GET");
            Json.write(exchange, 200, find(id));
        } else if (exchange.getRequestMethod().equals("POST")) {
            Note note = notes.add(textOf(Json.read(exchange, NewNote.class)));
            exchange.getResponseHeaders().set("Location", "/notes/" + note.id());
            Json.write(exchange, 201, note);
        } else {
            Json.allow(exchange, "GET", "POST");
            Map<String, String> query = query(exchange);
            long after = number(query, "after", 0, Long.MAX_VALUE, 0);
            int limit = (int) number(query, "limit", 1, 100, 20);
            Json.write(exchange, 200, notes.list(after, limit));
        }
    }

    private Note find(String id) {
        if (!id.matches("[0-9]{1,18}")) {
            throw new Problem(404, "a note has a number");
        }
        return notes.find(Long.parseLong(id)).orElseThrow(() -> new Problem(404, "there is no note " + id));
    }

    private static String textOf(NewNote note) {
        String text = note.text() == null ? "" : note.text().strip();
        if (text.isEmpty() || text.length() > Notes.LONGEST || text.indexOf('\0') >= 0) {
            throw new Problem(400, "text has 1 to " + Notes.LONGEST + " characters");
        }
        return text;
    }

    private static Map<String, String> query(HttpExchange exchange) {
        String query = exchange.getRequestURI().getQuery();
        Map<String, String> values = new HashMap<>();
        for (String pair : (query == null ? "" : query).split("&")) {
            String[] sides = pair.split("=", 2);
            values.putIfAbsent(sides[0], sides.length == 1 ? "" : sides[1]);
        }
        return values;
    }

    private static long number(Map<String, String> query, String name, long least, long most, long usual) {
        String text = query.get(name);
        if (text == null) {
            return usual;
        }
        if (text.matches("[0-9]{1,18}")) {
            long number = Long.parseLong(text);
            if (number >= least && number <= most) {
                return number;
            }
        }
        throw new Problem(400, name + " is a number from " + least + " to " + most);
    }

    private record NewNote(String text) {}
}
