{= summary.python =}

from .counts import Counts, count

# joint: imports (tinmold)

__all__ = [
    "Counts",
    "count",
    # joint: names (tinmold)
]
__version__ = "0.1.0"
