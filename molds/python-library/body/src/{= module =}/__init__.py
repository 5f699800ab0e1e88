"""What others may import."""

from importlib.metadata import version

from .counts import Counts, count

# joint: imports (tinmold)

__all__ = [
    "Counts",
    "count",
    # joint: names (tinmold)
]
__version__ = version("{= name =}")
