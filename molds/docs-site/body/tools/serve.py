"""Shows the site on this machine; with --watch it builds again when something changes, and pages reload themselves."""

import os
import sys
import threading
import time
from functools import partial
from http.server import SimpleHTTPRequestHandler, ThreadingHTTPServer

import build

RELOAD = b"<script>let seen;setInterval(async()=>{const now=await(await fetch('/.built')).text();if(seen&&seen!==now)location.reload();seen=now},700)</script>"


def changed():
    """The newest time of everything that the site is made of."""
    places = [path for folder in ("pages", "site") for path in (build.TOP / folder).rglob("*")]
    return max((path.stat().st_mtime_ns for path in places), default=0)


class Handler(SimpleHTTPRequestHandler):
    """Files of build/, and where it is watched, when it was built."""

    watched = False

    def do_GET(self):
        path = self.translate_path(self.path)
        if self.watched and self.path == "/.built":
            return self.answer(b"text/plain", str(changed()).encode())
        if self.watched and path.endswith(".html") and os.path.isfile(path):
            with open(path, "rb") as page:
                return self.answer(b"text/html; charset=utf-8", page.read() + RELOAD)
        return super().do_GET()

    def answer(self, kind, body):
        self.send_response(200)
        self.send_header("Content-Type", kind.decode())
        self.send_header("Content-Length", str(len(body)))
        self.send_header("Cache-Control", "no-store")
        self.end_headers()
        self.wfile.write(body)

    def log_message(self, *_):
        pass


def rebuild():
    """Builds again whenever something changes."""
    seen = changed()
    while True:
        time.sleep(0.5)
        now = changed()
        if now != seen:
            seen = now
            try:
                build.build()
                print("built again", file=sys.stderr, flush=True)
            except (build.PageError, OSError, ValueError) as error:
                print(f"error: {error}", file=sys.stderr, flush=True)


def main():
    try:
        port = int(os.environ.get("PORT") or {= port =})
        build.build()
        server = ThreadingHTTPServer(("127.0.0.1", port), partial(Handler, directory=str(build.TOP / "build")))
    except (build.PageError, OSError, ValueError, OverflowError) as error:
        return f"error: {error}"
    if "--watch" in sys.argv:
        Handler.watched = True
        threading.Thread(target=rebuild, daemon=True).start()
    print(f"the site is at http://127.0.0.1:{server.server_port}/", file=sys.stderr, flush=True)
    try:
        server.serve_forever()
    except KeyboardInterrupt:
        pass
    return None


if __name__ == "__main__":
    sys.exit(main())
