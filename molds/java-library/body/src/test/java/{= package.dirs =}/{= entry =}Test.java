package {= package =};

import static org.assertj.core.api.Assertions.assertThat;
// {= if json =}
import static org.assertj.core.api.Assertions.assertThatIllegalArgumentException;
// {= end =}

import java.time.LocalTime;
import java.util.List;
import org.junit.jupiter.api.Test;
// {= if json =}
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
// {= end =}

class {= entry =}Test {
    private static final LocalTime MORNING = LocalTime.of(8, 0);
    private static final LocalTime EVENING = LocalTime.of(17, 30);

    @Test
    void theNextDepartureIsFound() {
        List<LocalTime> departures = List.of(EVENING, MORNING, MORNING);

        {= entry =} times = {= entry =}.of(departures);

        assertThat(times.departures()).containsExactly(MORNING, EVENING);
        assertThat(times.next(LocalTime.MIDNIGHT)).contains(MORNING);
        assertThat(times.next(MORNING)).contains(MORNING);
        assertThat(times.next(MORNING.plusSeconds(1))).contains(EVENING);
        assertThat(times.next(LocalTime.of(18, 0))).isEmpty();
    }
    // {= if json =}

    @Test
    void departuresAreRead() {
        String json = "[\"17:30\", \"08:00\"]";

        {= entry =} times = {= entry =}.fromJson(json);

        assertThat(times.departures()).containsExactly(MORNING, EVENING);
    }

    @ParameterizedTest
    @ValueSource(strings = {"", "null", "[null]", "{", "[[]]"})
    void whatIsNoArrayOfTimesIsRefused(String json) {
        assertThatIllegalArgumentException().isThrownBy(() -> {= entry =}.fromJson(json));
    }
    // {= end =}
}
