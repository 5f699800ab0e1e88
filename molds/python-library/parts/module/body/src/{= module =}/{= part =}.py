{= does.python =}

# {= if typed =}
from __future__ import annotations


# {= else =}

# {= end =}
def {= function =}(text{= if typed =}: str{= end =}){= if typed =} -> list[str]{= end =}:
    """The lines of a text that hold something, without the blanks around them: the start of what it is to read.

    >>> {= function =}(" one \\n\\ntwo")
    ['one', 'two']
    """
    return [line.strip() for line in text.splitlines() if line.strip()]
