package {= package =}.api;

import jakarta.servlet.FilterChain;
import jakarta.servlet.ReadListener;
import jakarta.servlet.ServletException;
import jakarta.servlet.ServletInputStream;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletRequestWrapper;
import jakarta.servlet.http.HttpServletResponse;
import java.io.ByteArrayInputStream;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.InputStream;
import java.time.Duration;
import java.util.UUID;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.slf4j.MDC;
import org.springframework.core.Ordered;
import org.springframework.core.annotation.Order;
import org.springframework.http.HttpStatus;
import org.springframework.http.MediaType;
import org.springframework.stereotype.Component;
import org.springframework.web.filter.OncePerRequestFilter;

/** What happens to every request: an id, a line in the log, and limits for the body, which comes before the answer. */
@Component
@Order(Ordered.HIGHEST_PRECEDENCE)
class Requests extends OncePerRequestFilter {
    private static final Logger LOG = LoggerFactory.getLogger(Requests.class);
    private static final String HEADER = "X-Request-Id";
    private static final int MOST_BYTES = 1 << 20;
    private static final String TOO_LARGE = "the body has more than " + MOST_BYTES + " bytes";
    private static final Duration PATIENCE = Duration.ofSeconds(10);

    @Override
    protected void doFilterInternal(HttpServletRequest request, HttpServletResponse response, FilterChain chain)
            throws ServletException, IOException {
        long start = System.nanoTime();
        String id = idOf(request.getHeader(HEADER));
        MDC.put("request", id);
        try {
            response.setHeader(HEADER, id);
            answer(request, response, chain);
            long took = (System.nanoTime() - start) / 1_000_000;
            LOG.info("{} {} {} {} ms", request.getMethod(), request.getRequestURI(), response.getStatus(), took);
        } finally {
            MDC.remove("request");
        }
    }

    /** Takes an id that can stand in a log and a header as it is. */
    private static String idOf(String given) {
        boolean isFit = given != null && given.matches("[A-Za-z0-9._-]{1,64}");
        return isFit ? given : UUID.randomUUID().toString();
    }

    private static void answer(HttpServletRequest request, HttpServletResponse response, FilterChain chain)
            throws ServletException, IOException {
        if (request.getContentLengthLong() > MOST_BYTES) {
            refuse(response, HttpStatus.CONTENT_TOO_LARGE, TOO_LARGE);
            return;
        }
        ByteArrayOutputStream body = new ByteArrayOutputStream();
        long end = System.nanoTime() + PATIENCE.toNanos();
        byte[] piece = new byte[8192];
        try {
            InputStream in = request.getInputStream();
            for (int read = in.read(piece); read >= 0; read = in.read(piece)) {
                body.write(piece, 0, read);
                if (body.size() > MOST_BYTES) {
                    refuse(response, HttpStatus.CONTENT_TOO_LARGE, TOO_LARGE);
                    return;
                }
                if (System.nanoTime() > end) {
                    refuse(response, HttpStatus.REQUEST_TIMEOUT, "the body took too long");
                    return;
                }
            }
        } catch (IOException error) {
            refuse(response, HttpStatus.REQUEST_TIMEOUT, "the body did not come");
            return;
        }
        chain.doFilter(new Read(request, body.toByteArray()), response);
    }

    private static void refuse(HttpServletResponse response, HttpStatus status, String detail) throws IOException {
        response.setStatus(status.value());
        response.setHeader("Connection", "close");
        response.setContentType(MediaType.APPLICATION_PROBLEM_JSON_VALUE);
        response.getWriter()
                .printf(
                        "{\"title\":\"%s\",\"status\":%d,\"detail\":\"%s\"}",
                        status.getReasonPhrase(), status.value(), detail);
    }

    /** A request whose body was read. */
    private static final class Read extends HttpServletRequestWrapper {
        private final byte[] body;

        Read(HttpServletRequest request, byte[] body) {
            super(request);
            this.body = body;
        }

        @Override
        public ServletInputStream getInputStream() {
            ByteArrayInputStream in = new ByteArrayInputStream(body);
            return new ServletInputStream() {
                @Override
                public int read() {
                    return in.read();
                }

                @Override
                public int read(byte[] bytes, int from, int length) {
                    return in.read(bytes, from, length);
                }

                @Override
                public boolean isFinished() {
                    return in.available() == 0;
                }

                @Override
                public boolean isReady() {
                    return true;
                }

                @Override
                public void setReadListener(ReadListener listener) {
                    throw new IllegalStateException("the body is there already");
                }
            };
        }
    }
}
