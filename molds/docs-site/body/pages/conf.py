"""How Sphinx makes the site; the Makefile gives the language."""

import tomllib
from pathlib import Path
# {= if languages.len > 1 =}
from urllib.parse import urlsplit
# {= end =}

from sphinx.application import Sphinx
from sphinx.config import Config

_site = tomllib.loads((Path(__file__).parent.parent / "site.toml").read_text(encoding="utf-8"))

project = html_title = _site["title"]
html_theme = "furo"
html_copy_source = False
html_permalinks_icon = "#"
extensions = ["myst_parser"]
myst_heading_anchors = 3
nitpicky = True


def place(_: Sphinx, config: Config) -> None:
    """Each language has a folder of its own below the address of the site."""
    config.html_baseurl = f"{_site['address']}{config.language}/"
    # {= if languages.len > 1 =}
    base = urlsplit(_site["address"]).path
    config.html_theme_options["footer_icons"] = [
        {"name": name, "url": f"{base}{code}/", "html": name, "class": ""}
        for code, name in _site["languages"].items()
        if code != config.language
    ]
    # {= end =}


def setup(app: Sphinx) -> None:
    app.connect("config-inited", place)
