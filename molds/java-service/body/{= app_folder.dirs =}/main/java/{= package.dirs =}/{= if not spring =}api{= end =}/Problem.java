package {= package =}.api;

/** Why a request gets no answer: a status, and what was wrong with the request. */
public final class Problem extends RuntimeException {
    private static final long serialVersionUID = 1;

    private final int status;

    /**
     * Says what was wrong.
     *
     * @param status the status of the response (RFC 9110, section 15)
     * @param detail what was wrong, for whoever asked
     */
    public Problem(int status, String detail) {
        // What is the request's fault needs no trace.
        super(detail, null, false, false);
        this.status = status;
    }

    /**
     * Tells the status.
     *
     * @return the status of the response
     */
    public int status() {
        return status;
    }
}
