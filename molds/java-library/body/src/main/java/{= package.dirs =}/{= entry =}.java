package {= package =};

{= place "java-import" given names = [
    "java.time.LocalTime",
    "java.util.List",
    "java.util.Optional"
] + (if jackson then ["tools.jackson.core.JacksonException", "tools.jackson.databind.json.JsonMapper"] else [])
  + (if gson and not jackson then ["com.google.gson.Gson", "com.google.gson.JsonParseException"] else [])
  + (if json then ["java.util.Arrays"] else [])
=}

/** Knows when something leaves in the course of a day. */
public final class {= entry =} {
    private final List<LocalTime> departures;

    private {= entry =}(List<LocalTime> departures) {
        this.departures = departures;
    }

    /**
     * Makes one of departures.
     *
     * @param departures the times of a day, in any order
     * @return those times
     */
    public static {= entry =} of(List<LocalTime> departures) {
        return new {= entry =}(departures.stream().sorted().distinct().toList());
    }
    // {= if json =}

    /**
     * Reads departures.
     *
     * @param json an array of times, as in {@code ["08:00", "17:30"]}
     * @return those times
     * @throws IllegalArgumentException if the text is no such array
     * @throws java.time.DateTimeException if an element is no time
     */
    public static {= entry =} fromJson(String json) {
        String[] times;
        try {
            times = {= if jackson =}new JsonMapper().readValue(json, String[].class){= else =}new Gson().fromJson(json, String[].class){= end =};
        } catch ({= if jackson =}JacksonException{= else =}JsonParseException{= end =} error) {
            throw new IllegalArgumentException("this is no array of times", error);
        }
        if (times == null || Arrays.asList(times).contains(null)) {
            throw new IllegalArgumentException("this is no array of times");
        }
        return of(Arrays.stream(times).map(LocalTime::parse).toList());
    }
    // {= end =}

    /**
     * Finds the next departure.
     *
     * @param time the time of the day
     * @return the first departure at this time or later; none if the last one is gone
     */
    public Optional<LocalTime> next(LocalTime time) {
        return departures.stream()
                .filter(departure -> !departure.isBefore(time))
                .findFirst();
    }

    /**
     * Lists all departures.
     *
     * @return the times, the earliest first
     */
    public List<LocalTime> departures() {
        return departures;
    }
}
