package {= package =}.api;

// {= if spring =}
import static org.springframework.test.web.servlet.request.MockMvcRequestBuilders.delete;
import static org.springframework.test.web.servlet.request.MockMvcRequestBuilders.get;
import static org.springframework.test.web.servlet.result.MockMvcResultMatchers.content;
import static org.springframework.test.web.servlet.result.MockMvcResultMatchers.status;

import org.junit.jupiter.api.Test;
import org.springframework.test.web.servlet.MockMvc;
import org.springframework.test.web.servlet.setup.MockMvcBuilders;

class {= handler =}Test {
    private final Object handler = new {= handler =}();
    private final MockMvc service = MockMvcBuilders.standaloneSetup(handler).build();

    @Test
    void itAnswers() throws Exception {
        service.perform(get("/{= route =}"))
                .andExpect(status().isOk())
                .andExpect(content().json("[]"));
        service.perform(delete("/{= route =}")).andExpect(status().isMethodNotAllowed());
    }
}
// {= else =}
import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import org.junit.jupiter.api.Test;

class {= handler =}Test {
    @Test
    void itAnswers() throws IOException, InterruptedException {
        try (Service service = TestService.start()) {
            String path = "/{= route =}";

            assertThat(TestService.get(service, path).body()).isEqualTo("[]");
            assertThat(TestService.get(service, path + "/1").statusCode()).isEqualTo(404);
        }
    }
}
// {= end =}
