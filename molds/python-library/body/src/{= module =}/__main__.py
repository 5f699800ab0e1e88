"""The command: counts files, or standard input."""

import argparse
import sys
from importlib.metadata import metadata
from pathlib import Path

from . import Counts, __version__, count


def main(arguments: list[str] | None = None) -> int:
    """Runs the command; gives its exit code: 0 done, 1 a file cannot be read, 2 a wrong word."""
    summary = metadata("{= name =}")["Summary"]
    parser = argparse.ArgumentParser(prog="{= name =}", description=summary.replace("%", "%%"))
    parser.add_argument("files", nargs="*", metavar="FILE", help="standard input without one")
    parser.add_argument("--version", action="version", version=__version__)
    chosen = parser.parse_args(arguments)
    total, code = Counts(), 0
    for name in chosen.files or ["-"]:
        try:
            text = sys.stdin.read() if name == "-" else Path(name).read_text(encoding="utf-8")
        except (OSError, UnicodeDecodeError) as error:
            print(f"error: {name}: {error}", file=sys.stderr)
            code = 1
            continue
        found = count(text)
        total += found
        show(found, name)
    if len(chosen.files) > 1:
        show(total, "in all")
    return code


def show(counts: Counts, name: str) -> None:
    """Prints counts in a line."""
    print(f"{counts.lines:8} {counts.words:8} {counts.characters:8}  {name}")


if __name__ == "__main__":
    sys.exit(main())
