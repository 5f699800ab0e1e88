"""Builds the site: every page of pages/LANGUAGE becomes build/LANGUAGE/PAGE.html."""

import html
# {= if search =}
import json
# {= end =}
import re
import shutil
import string
import sys
from pathlib import Path

import markdown

TOP = Path(__file__).resolve().parent.parent
TITLE = {= title.python =}
SUMMARY = {= summary.python =}
# By language, the words that stand around the pages; the first language is where visitors begin.
LANGUAGES = {
    # {= for l in languages =}
    "{= l =}": {"name": {= l.label.python =}, "pages": {= l.pages.python =}, "search": {= l.search.python =}, "found": {= l.found.python =}},
    # {= end =}
}


class PageError(Exception):
    """A page that cannot be built; the message names it."""


def build(top=TOP):
    """Builds everything into build/, and gives the pages by language: name, heading and text."""
    out = top / "build"
    shutil.rmtree(out, ignore_errors=True)
    shutil.copytree(top / "site/assets", out / "assets")
    template = string.Template((top / "site/page.html").read_text(encoding="utf-8"))
    site = {}
    for language, words in LANGUAGES.items():
        sources = sorted((top / "pages" / language).glob("*.md"))
        if not sources:
            raise PageError(f"pages/{language} holds no pages")
        site[language] = pages = [read(source) for source in sources]
        (out / language).mkdir()
        for name, heading, text in pages:
            values = {
                "title": html.escape(TITLE),
                "summary": html.escape(SUMMARY),
                "language": language,
                "heading": html.escape(heading),
                "content": markdown.render(text),
                "pages_word": html.escape(words["pages"]),
                "search_word": html.escape(words["search"]),
                "found_word": html.escape(words["found"]),
                "pages": listed((f"{other}.html", title, other == name) for other, title, _ in pages),
                "languages": listed(languages(name, language)) if len(LANGUAGES) > 1 else "",
            }
            (out / language / f"{name}.html").write_text(template.substitute(values), encoding="utf-8")
        # {= if search =}
        index = [{"path": f"{name}.html", "title": heading, "text": markdown.plain(text).lower()} for name, heading, text in pages]
        (out / language / "search.json").write_text(json.dumps(index, ensure_ascii=False), encoding="utf-8")
        # {= end =}
    first = f"{next(iter(LANGUAGES))}/{site[next(iter(LANGUAGES))][0][0]}.html"
    (out / "index.html").write_text(f'<!doctype html><meta http-equiv="refresh" content="0; url={first}"><a href="{first}">{html.escape(TITLE)}</a>\n', encoding="utf-8")
    return site


def read(source):
    """A page: its name, its heading, its text."""
    text = source.read_text(encoding="utf-8")
    heading = re.search(r"^# (.+)", text, re.MULTILINE)
    if heading is None:
        raise PageError(f"{source}: a page begins with a heading, as in: # First steps")
    return source.stem, markdown.plain(heading[1]), text


def languages(name, current):
    """The languages, each with its page of the same name, or its first."""
    for language, words in LANGUAGES.items():
        there = (TOP / "pages" / language / f"{name}.md").exists()
        yield f"../{language}/{name if there else '01-index'}.html", words["name"], language == current


def listed(links):
    """Links as a list: address, text, and whether one is there."""
    rows = (f'<li><a href="{html.escape(address)}"{" aria-current=page" if here else ""}>{html.escape(text)}</a></li>' for address, text, here in links)
    return f"<ul>{''.join(rows)}</ul>"


if __name__ == "__main__":
    try:
        built = build()
    except (PageError, OSError, UnicodeDecodeError) as error:
        sys.exit(f"error: {error}")
    print(f"built {sum(map(len, built.values()))} pages in build/")
