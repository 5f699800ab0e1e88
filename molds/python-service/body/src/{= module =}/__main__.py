"""The entry point: read the settings, start the server, stop it cleanly."""

import logging
import signal
import sys
import threading

from {= module =} import log
from {= module =}.config import Config, ConfigError
# {= if stored =}
from {= module =}.database import DatabaseError, migrate
# {= end =}
from {= module =}.server import Service


def main() -> int:
    try:
        config = Config.from_environment()
    except ConfigError as error:
        print(error, file=sys.stderr)
        return 2
    log.set_up(config.log_format, config.log_level)
    logger = logging.getLogger(__name__)
    # {= if stored =}
    try:
        for name in migrate(config.database):
            logger.info("the database took the step %s", name)
    except DatabaseError as error:
        logger.error("the database cannot be used: %s", error)
        return 1
    # {= end =}
    try:
        service = Service(config)
    except OSError as error:
        logger.error("cannot listen on %s:%d: %s", config.host, config.port, error)
        return 1
    logger.info("listening on http://%s:%d", *service.address)

    def stop(signum, frame):
        # It waits for the loop that this handler interrupted.
        threading.Thread(target=service.stop).start()

    signal.signal(signal.SIGTERM, stop)
    signal.signal(signal.SIGINT, stop)
    service.serve()
    logger.info("stopped")
    return 0


if __name__ == "__main__":
    sys.exit(main())
