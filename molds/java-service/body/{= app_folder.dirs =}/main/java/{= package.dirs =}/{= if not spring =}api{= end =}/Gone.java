package {= package =}.api;

import java.io.IOException;

/** Whoever asked is no longer there, or was too slow. */
final class Gone extends IOException {
    private static final long serialVersionUID = 1;

    Gone(IOException cause) {
        super(cause);
    }
}
