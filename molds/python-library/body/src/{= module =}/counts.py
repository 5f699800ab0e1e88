"""Counts the lines, words and characters of a text."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Counts:
    """How much a text holds: lines that end in it, words between white space, characters."""

    lines: int = 0
    words: int = 0
    characters: int = 0

    def __add__(self, other: "Counts") -> "Counts":
        return Counts(
            self.lines + other.lines,
            self.words + other.words,
            self.characters + other.characters,
        )


def count(text: str) -> Counts:
    """Counts a text.

    >>> count("one two\\nthree\\n")
    Counts(lines=2, words=3, characters=14)
    """
    return Counts(text.count("\n"), len(text.split()), len(text))
