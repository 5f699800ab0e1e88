"""What can be read from a text."""

# It {= does =}.


def {= function =}(text: str) -> list[str]:
    """The lines of a text that hold something, without the blanks around them.

    >>> {= function =}(" one \\n\\ntwo")
    ['one', 'two']
    """
    return [line.strip() for line in text.splitlines() if line.strip()]
