package {= package =};

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatIllegalArgumentException;

import org.junit.jupiter.api.Test;

class {= class =}Test {
    @Test
    void itHasAName() {
        String name = new {= class =}("Heron").name();

        assertThat(name).isEqualTo("Heron");
        assertThatIllegalArgumentException().isThrownBy(() -> new {= class =}(" "));
    }
}
