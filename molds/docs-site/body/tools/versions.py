"""Builds every version tag (v1.0, v2.1.3, ...) beside the newest pages, and lists them."""

import html
import re
import shutil
import subprocess
from pathlib import Path

import publish

WORK = publish.TOP / "build" / "versions"


def git(*words: str) -> str:
    done = subprocess.run(
        ["git", "-C", publish.TOP, *words], check=True, text=True, stdout=subprocess.PIPE
    )
    return done.stdout


def tags() -> list[str]:
    """The version tags, the newest first."""
    found = [tag for tag in git("tag", "--list").split() if re.fullmatch(r"v\d+(\.\d+)*", tag)]
    return sorted(found, key=lambda tag: [int(part) for part in tag[1:].split(".")], reverse=True)


def build(tag: str) -> None:
    """Builds a version with its own tools, in a work tree of its own."""
    tree = WORK / tag
    remove(tree)
    git("worktree", "add", "--detach", str(tree), tag)
    try:
        subprocess.run(["make", "-C", tree, "build"], check=True)
        shutil.copytree(tree / "build" / "site", publish.OUT / tag)
    finally:
        remove(tree)


def remove(tree: Path) -> None:
    if tree.exists():
        git("worktree", "remove", "--force", str(tree))


def main() -> None:
    versions = tags()
    for tag in versions:
        build(tag)
    rows = [f'<li><a href="{tag}/">{tag}</a></li>' for tag in versions]
    title = html.escape(publish.SITE["title"])
    content = f'<h1>{title}</h1>\n<ul><li><a href="./">newest</a></li>{"".join(rows)}</ul>'
    language = next(iter(publish.SITE["languages"]))
    page = publish.PAGE.format(language=language, title=title, content=content)
    (publish.OUT / "versions.html").write_text(page, encoding="utf-8")
    print(f"{len(versions)} versions are beside the newest pages; versions.html lists them")


if __name__ == "__main__":
    main()
