package {= package =}.count;

import static org.assertj.core.api.Assertions.assertThat;
// {= if mockito =}
import static org.assertj.core.api.Assertions.assertThatIOException;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;
// {= end =}

import java.io.IOException;
// {= if mockito =}
import java.io.Reader;
// {= end =}
import java.io.StringReader;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class CountsTest {
    @ParameterizedTest
    @CsvSource({"'', 0, 0, 0", "one, 0, 1, 3", "'one two\nthree\n', 2, 3, 14", "' \n\t', 1, 0, 3", "⛴😀 é, 0, 2, 4"})
    void textsAreCounted(String text, long lines, long words, long characters) throws IOException {
        assertThat(Counts.of(new StringReader(text))).isEqualTo(new Counts(lines, words, characters));
    }

    @Test
    void wordsMayCrossPieces() throws IOException {
        String text = "x".repeat(70_000) + " " + "y".repeat(70_000);

        assertThat(Counts.of(new StringReader(text)).words()).isEqualTo(2);
    }
    // {= if mockito =}

    @Test
    void aFailureIsPassedOn() throws IOException {
        Reader text = mock();
        when(text.read(any(char[].class))).thenThrow(new IOException("gone"));

        assertThatIOException().isThrownBy(() -> Counts.of(text)).withMessage("gone");
    }
    // {= end =}
    // {= if json =}

    @Test
    void countsBecomeJson() {
        Report report = new Report();
        report.add("a", new Counts(1, 2, 3));

        assertThat(report.asJson().replaceAll("\\s", ""))
                .isEqualTo("{\"a\":{\"lines\":1,\"words\":2,\"characters\":3}}");
    }
    // {= end =}
}
