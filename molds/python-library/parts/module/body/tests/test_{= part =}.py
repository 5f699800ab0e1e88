"""What {= part =} reads, a row a case."""

import pytest

from {= module =} import {= function =}


@pytest.mark.parametrize(
    ("text", "expected"), [("", []), (" one \n\ntwo", ["one", "two"]), ("\t\n", [])]
)
def test_lines_are_read(text: str, expected: list[str]) -> None:
    assert {= function =}(text) == expected
