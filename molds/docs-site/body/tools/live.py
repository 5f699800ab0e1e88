"""Shows the site, builds it again whenever something changes, and reloads the pages."""

import os
import sys
import threading
import time
from functools import partial
from http.server import ThreadingHTTPServer
from pathlib import Path

import build
import publish

RELOAD = b"""<script>
let seen;
setInterval(async () => {
  const now = await (await fetch("/.built")).text();
  if (seen && seen !== now) location.reload();
  seen = now;
}, 700);
</script>"""
built = 0


class Handler(publish.Handler):
    """Pages with a script that asks whether they were built again."""

    def do_GET(self) -> None:
        path = Path(self.translate_path(self.path))
        path = path / "index.html" if path.is_dir() else path
        if self.path == "/.built":
            self.answer("text/plain", str(built).encode())
        elif path.suffix == ".html" and path.is_file() and self.path.endswith(("/", ".html")):
            self.answer("text/html; charset=utf-8", path.read_bytes() + RELOAD)
        else:
            super().do_GET()

    def answer(self, kind: str, body: bytes) -> None:
        self.send_response(200)
        self.send_header("Content-Type", kind)
        self.send_header("Content-Length", str(len(body)))
        self.send_header("Cache-Control", "no-store")
        self.end_headers()
        self.wfile.write(body)


def state() -> list[tuple[str, int]]:
    """What the site is made of, with the times of its last changes."""
    files = [file for folder in ("pages", "site") for file in (build.TOP / folder).rglob("*")]
    return sorted((str(file), file.stat().st_mtime_ns) for file in files)


def build_again() -> None:
    global built
    try:
        build.build()
        publish.frame()
        built += 1
    except (build.PageError, OSError, ValueError, KeyError) as error:
        print(f"error: {error}", file=sys.stderr, flush=True)


def watch() -> None:
    seen: list[tuple[str, int]] = []
    while True:
        try:
            now = state()
        except FileNotFoundError:
            continue
        if now != seen:
            seen = now
            build_again()
        time.sleep(0.5)


def main() -> None:
    threading.Thread(target=watch, daemon=True).start()
    port = int(os.environ.get("PORT") or {= port =})
    handler = partial(Handler, directory=str(build.OUT))
    with ThreadingHTTPServer(("127.0.0.1", port), handler) as server:
        print(f"the site is at http://127.0.0.1:{server.server_port}/", file=sys.stderr, flush=True)
        try:
            server.serve_forever()
        except KeyboardInterrupt:
            print("stopped", file=sys.stderr)


if __name__ == "__main__":
    main()
