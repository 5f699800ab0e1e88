"""The counts, a row a case."""

import pytest

import {= module =}
from {= module =} import Counts, count


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("", Counts(0, 0, 0)),
        ("one", Counts(0, 1, 3)),
        ("one two\nthree\n", Counts(2, 3, 14)),
        (" \n\t\n", Counts(2, 0, 4)),
    ],
)
def test_texts_are_counted(text: str, expected: Counts) -> None:
    assert count(text) == expected


def test_counts_add_up() -> None:
    assert count("one\n") + count("two\n") == count("one\ntwo\n")


def test_the_public_names_are_there() -> None:
    assert all(hasattr({= module =}, name) for name in {= module =}.__all__)
