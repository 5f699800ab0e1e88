"""Pages from the templates: $name stands for a value, which is escaped; notes_list and the like are made here."""

import html
from functools import cache
from importlib.resources import files
from string import Template
from typing import Any

from {= module =} import NAME, SUMMARY


@cache
def template(name: str) -> Template:
    return Template(files("{= module =}").joinpath("templates", name).read_text(encoding="utf-8"))


def page(name: str, **values: Any) -> str:
    """A page of the site: texts become safe in HTML, and of a list each element's text becomes an item."""
    shown = {key: items(value) if isinstance(value, list) else html.escape(str(value)) for key, value in values.items()}
    content = template(name).substitute(shown)
    return template("page.html").substitute(name=html.escape(NAME), summary=html.escape(SUMMARY), content=content)


def items(rows: list[Any]) -> str:
    return "\n".join(f"<li>{html.escape(str(row['text']))}</li>" for row in rows)
