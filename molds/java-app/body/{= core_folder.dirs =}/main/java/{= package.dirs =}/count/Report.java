package {= package =}.count;

{= place "java-import" given names = ["java.util.LinkedHashMap", "java.util.Map"]
    + (if gson then ["com.google.gson.Gson", "com.google.gson.GsonBuilder"] else [])
    + (if jackson and not gson then ["tools.jackson.databind.SerializationFeature", "tools.jackson.databind.json.JsonMapper"] else []) =}

/** What was counted, by name, in the order in which it came. */
public final class Report {
    private final Map<String, Counts> counts = new LinkedHashMap<>();

    /**
     * Adds what was counted.
     *
     * @param name what it was
     * @param found how much it holds
     */
    public void add(String name, Counts found) {
        counts.merge(name, found, Counts::plus);
    }

    /**
     * Returns all as lines for people.
     *
     * @return a line for each, and one for the sum of several
     */
    public String asText() {
        StringBuilder text = new StringBuilder();
        counts.forEach((name, found) -> line(text, name, found));
        if (counts.size() > 1) {
            line(text, "in all", counts.values().stream().reduce(Counts.NONE, Counts::plus));
        }
        return text.toString();
    }
    // {= if json =}

    /**
     * Returns all as JSON for programs.
     *
     * @return an object with the name of each
     */
    public String asJson() {
        // {= if gson =}
        Gson gson = new GsonBuilder().setPrettyPrinting().create();
        return gson.toJson(counts) + "\n";
        // {= else =}
        JsonMapper mapper =
                JsonMapper.builder().enable(SerializationFeature.INDENT_OUTPUT).build();
        return mapper.writeValueAsString(counts) + "\n";
        // {= end =}
    }
    // {= end =}

    private static void line(StringBuilder text, String name, Counts found) {
        text.append(String.format("%8d %8d %8d  %s%n", found.lines(), found.words(), found.characters(), name));
    }
}
