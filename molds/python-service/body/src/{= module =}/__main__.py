"""The entry point: read the settings, start the server, stop it cleanly."""

import logging
import signal
import sys
import threading

from {= module =} import log
from {= module =}.config import Config, ConfigError
from {= module =}.routes import ROUTES
from {= module =}.server import Server


def main() -> int:
    try:
        config = Config.from_environment()
    except ConfigError as error:
        print(error, file=sys.stderr)
        return 2
    log.set_up(config.log_format, config.log_level)
    logger = logging.getLogger(__name__)
    try:
        server = Server(config.host, config.port, ROUTES)
    except OSError as error:
        logger.error("cannot listen on %s:%d: %s", config.host, config.port, error)
        return 1
    host, port = server.server_address[:2]
    logger.info("listening on http://%s:%d", host, port)

    def stop(signum, frame):
        # shutdown() waits for the loop that this handler interrupted.
        threading.Thread(target=server.shutdown).start()

    signal.signal(signal.SIGTERM, stop)
    signal.signal(signal.SIGINT, stop)
    try:
        server.serve_forever(poll_interval=0.2)
    finally:
        server.server_close()
    logger.info("stopped")
    return 0


if __name__ == "__main__":
    sys.exit(main())
