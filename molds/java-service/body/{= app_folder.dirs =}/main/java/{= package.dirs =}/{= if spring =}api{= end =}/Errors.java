package {= package =}.api;

import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.http.HttpStatus;
import org.springframework.http.ProblemDetail;
import org.springframework.web.bind.annotation.ExceptionHandler;
import org.springframework.web.bind.annotation.RestControllerAdvice;
import org.springframework.web.servlet.mvc.method.annotation.ResponseEntityExceptionHandler;

/** Answers what went wrong as RFC 9457 has it: what Spring refuses, and what nobody expected. */
@RestControllerAdvice
class Errors extends ResponseEntityExceptionHandler {
    private static final Logger LOG = LoggerFactory.getLogger(Errors.class);

    @ExceptionHandler
    ProblemDetail unexpected(Throwable error) {
        LOG.error("failed", error);
        return ProblemDetail.forStatusAndDetail(
                HttpStatus.INTERNAL_SERVER_ERROR, "something went wrong; the log says what");
    }
}
