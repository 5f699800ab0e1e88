"""Builds the site: each file of pages/ becomes a page in the template, and can be searched."""

import html
import json
import re
import shutil
import string
import sys
import tomllib
from dataclasses import dataclass
from pathlib import Path, PurePosixPath

TOP = Path(__file__).resolve().parent.parent
OUT = TOP / "build" / "site"
SITE = tomllib.loads((TOP / "site.toml").read_text(encoding="utf-8"))
WORDS = tomllib.loads((TOP / "site" / "words.toml").read_text(encoding="utf-8"))
HEADING = re.compile(r"<h([123])(?: id=\"([^\"]*)\")?>(.*?)</h\1>", re.DOTALL)


class PageError(Exception):
    """A page that cannot be built; the message names it."""


@dataclass(frozen=True)
class Page:
    path: PurePosixPath
    heading: str
    content: str
    # Identifier and text of each heading below the first.
    contents: list[tuple[str, str]]

    @property
    def address(self) -> str:
        """Where it stands below its language: the first page of a folder is the folder."""
        return f"{self.path.parent}/" if self.path.name == "index.html" else str(self.path)


def plain(text: str) -> str:
    """HTML as words."""
    return " ".join(html.unescape(re.sub(r"<[^>]*>", " ", text)).split())


def read(source: Path, folder: Path) -> Page:
    text = source.read_text(encoding="utf-8")
    found = HEADING.search(text)
    if not found or found[1] != "1":
        raise PageError(f"{source}: a page begins with a heading, as in: <h1>First steps</h1>")
    contents: list[tuple[str, str]] = []

    def with_id(heading: re.Match[str]) -> str:
        if heading[1] == "1":
            return heading[0]
        words = re.sub(r"\W+", "-", plain(heading[3]).lower()).strip("-") or "part"
        taken = [name for name, _ in contents]
        name = heading[2] or (f"{words}-{len(taken)}" if words in taken else words)
        contents.append((name, plain(heading[3])))
        return f'<h{heading[1]} id="{html.escape(name)}">{heading[3]}</h{heading[1]}>'

    content = HEADING.sub(with_id, text)
    path = PurePosixPath(source.relative_to(folder).as_posix())
    return Page(path, plain(found[3]), content, contents)


def pages_of(language: str, top: Path = TOP) -> list[Page]:
    """The pages of a language: the first page of each folder, then those that it holds, by name."""
    folder = top / "pages" / language

    def place(page: Page) -> list[tuple[bool, str]]:
        *folders, name = page.path.parts
        return [(True, part) for part in folders] + [(name != "index.html", name)]

    pages = [read(source, folder) for source in folder.rglob("*.html")]
    if not any(str(page.path) == "index.html" for page in pages):
        raise PageError(f"pages/{language} has no index.html")
    return sorted(pages, key=place)


def link(page: Page, up: str, here: Page) -> str:
    current = ' aria-current="page"' if page == here else ""
    address = html.escape(up + ("" if page.address == "./" else page.address)) or "./"
    return f'<a href="{address}"{current}>{html.escape(page.heading)}</a>'


def navigation(pages: list[Page], up: str, here: Page) -> str:
    """All pages; those of a folder stand below its first page."""
    rows = ["<ul>"]
    for page in pages:
        is_section = len(page.path.parts) > 1 and page.path.name == "index.html"
        kind = ' class="inner"' if len(page.path.parts) > 1 and not is_section else ""
        rows.append(f"<li{kind}>{link(page, up, here)}</li>")
    return "\n".join([*rows, "</ul>"])


def other_languages(language: str, up: str) -> str:
    """Links to the first pages of the other languages."""
    return " ".join(
        f'<a href="../{up}{other}/" lang="{other}">{html.escape(name)}</a>'
        for other, name in SITE["languages"].items()
        if other != language
    )


def build(top: Path = TOP, out: Path = OUT) -> int:
    """Builds everything again, and gives the number of pages."""
    shutil.rmtree(out, ignore_errors=True)
    shutil.copytree(top / "site" / "assets", out / "assets")
    template = string.Template((top / "site" / "page.html").read_text(encoding="utf-8"))
    count = 0
    for language in SITE["languages"]:
        words = {key: html.escape(word) for key, word in WORDS[language].items()}
        pages = pages_of(language, top)
        count += len(pages)
        for at, page in enumerate(pages):
            up = "../" * (len(page.path.parts) - 1)
            before, after = "", ""
            if at:
                before = f"{words['previous']}: {link(pages[at - 1], up, page)}"
            if at + 1 < len(pages):
                after = f"{words['next']}: {link(pages[at + 1], up, page)}"
            inside = [f'<li><a href="#{n}">{html.escape(t)}</a></li>' for n, t in page.contents]
            values = {
                **words,
                "language": language,
                "title": html.escape(SITE["title"]),
                "summary": html.escape(SITE["summary"]),
                "heading": html.escape(page.heading),
                "content": page.content,
                "up": up,
                "home": up or "./",
                "pages": navigation(pages, up, page),
                "inside": f"<ul>{''.join(inside)}</ul>" if inside else "",
                "before": before,
                "after": after,
                "languages": other_languages(language, up),
            }
            target = out / language / page.path
            target.parent.mkdir(parents=True, exist_ok=True)
            target.write_text(template.substitute(values), encoding="utf-8")
        index = [
            {"path": page.address, "title": page.heading, "text": plain(page.content).lower()}
            for page in pages
        ]
        text = json.dumps(index, ensure_ascii=False)
        (out / language / "search.json").write_text(text, encoding="utf-8")
    return count


if __name__ == "__main__":
    try:
        print(f"built {build()} pages")
    except (PageError, OSError, ValueError, KeyError) as error:
        sys.exit(f"error: {error}")
