"""Frames the site that was built, checks its links, and shows it: frame, check or serve."""

import html
import os
import re
import sys
import tomllib
from functools import partial
from html.parser import HTMLParser
from http.server import SimpleHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from urllib.parse import quote, unquote, urljoin, urlsplit

TOP = Path(__file__).resolve().parent.parent
OUT = TOP / "build" / "site"
SITE = tomllib.loads((TOP / "site.toml").read_text(encoding="utf-8"))
PAGE = """<!doctype html>
<html lang="{language}">
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>{title}</title>
{content}
</html>
"""


def addresses(out: Path) -> list[str]:
    """The addresses of all pages, as a web server shows them."""
    pages = sorted(page.relative_to(out).as_posix() for page in out.rglob("*.html"))
    return [re.sub(r"(^|/)index\.html$", r"\1", page) for page in pages]


def frame(out: Path = OUT) -> None:
    """Writes the first page, the page for addresses that are not there, and the site map."""
    first = next(iter(SITE["languages"]))
    title = html.escape(SITE["title"])
    refresh = f'<meta http-equiv="refresh" content="0; url={first}/">'
    link = f'{refresh}\n<p><a href="{first}/">{title}</a></p>'
    page = PAGE.format(language=first, title=title, content=link)
    (out / "index.html").write_text(page, encoding="utf-8")
    base = urlsplit(SITE["address"]).path
    homes = (f'<a href="{base}{code}/">{name}</a>' for code, name in SITE["languages"].items())
    content = f"<h1>404</h1>\n<p>{title}: {', '.join(homes)}</p>"
    page = PAGE.format(language=first, title=f"404 - {title}", content=content)
    (out / "404.html").write_text(page, encoding="utf-8")
    rows = [
        f"<url><loc>{html.escape(SITE['address'] + quote(page))}</loc></url>\n"
        for page in addresses(out)
        if page and not page.endswith(("404.html", "search.html", "genindex.html", "search/"))
    ]
    space = "http://www.sitemaps.org/schemas/sitemap/0.9"
    site_map = f'<?xml version="1.0"?>\n<urlset xmlns="{space}">\n{"".join(rows)}</urlset>\n'
    (out / "sitemap.xml").write_text(site_map, encoding="utf-8")
    robots = f"User-agent: *\nSitemap: {SITE['address']}sitemap.xml\n"
    (out / "robots.txt").write_text(robots, encoding="utf-8")


class Reader(HTMLParser):
    """Gathers the links of a page, and what others may link to in it."""

    def __init__(self) -> None:
        super().__init__()
        self.links: set[str] = set()
        self.anchors: set[str] = set()

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        for name, value in attrs:
            if not value:
                continue
            if name in ("href", "src"):
                self.links.add(value)
            elif name == "id" or (name == "name" and tag == "a"):
                self.anchors.add(value)


def check(out: Path = OUT) -> list[str]:
    """The links within the site that lead nowhere, with the pages that have them."""
    pages = {}
    for file in sorted(out.rglob("*.html")):
        reader = Reader()
        reader.feed(file.read_text(encoding="utf-8"))
        pages[file] = reader
    wrong = []
    base = SITE["address"]
    for file, reader in pages.items():
        here = urljoin(base, quote(file.relative_to(out).as_posix()))
        for link in sorted(reader.links):
            target = urljoin(here, link)
            if not target.startswith(base):
                continue
            parts = urlsplit(target[len(base) :])
            found = out / unquote(parts.path)
            found = found / "index.html" if found.is_dir() else found
            is_missing = not found.is_file()
            lacks = found in pages and unquote(parts.fragment) not in pages[found].anchors
            if is_missing or (parts.fragment and lacks):
                wrong.append(f"{file.relative_to(out)}: {link} leads nowhere")
    return wrong


class Handler(SimpleHTTPRequestHandler):
    """Shows files as a web server would, with the site's own page for what is not there."""

    def send_error(self, code: int, message: str | None = None, explain: str | None = None) -> None:
        page = Path(self.directory) / "404.html"
        if code != 404 or not page.is_file():
            super().send_error(code, message, explain)
            return
        body = page.read_bytes()
        self.send_response(404)
        self.send_header("Content-Type", "text/html; charset=utf-8")
        self.send_header("Content-Length", str(len(body)))
        self.end_headers()
        if self.command != "HEAD":
            self.wfile.write(body)

    def log_message(self, *_: object) -> None:
        pass


def serve(out: Path = OUT) -> None:
    port = int(os.environ.get("PORT") or 8400)
    with ThreadingHTTPServer(("127.0.0.1", port), partial(Handler, directory=str(out))) as server:
        print(f"the site is at http://127.0.0.1:{server.server_port}/", file=sys.stderr, flush=True)
        try:
            server.serve_forever()
        except KeyboardInterrupt:
            print("stopped", file=sys.stderr)


def main() -> int:
    match sys.argv[1:]:
        case ["frame"]:
            frame()
        case ["check"]:
            wrong = check()
            print(*wrong, sep="\n", end="\n" if wrong else "")
            return 1 if wrong else 0
        case ["serve"]:
            serve()
        case _:
            print("frame, check or serve?", file=sys.stderr)
            return 2
    return 0


if __name__ == "__main__":
    sys.exit(main())
