package {= package =};

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatIllegalArgumentException;

import org.junit.jupiter.api.Test;

class {= class =}Test {
    @Test
    void itHasAName() {
        assertThat(new {= class =}("Heron").name()).isEqualTo("Heron");
        assertThatIllegalArgumentException().isThrownBy(() -> new {= class =}(" "));
    }
}
