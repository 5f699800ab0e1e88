{= summary.python =}

from .counts import Counts, count

# tinmold:seam imports

__all__ = [
    "Counts",
    "count",
    # tinmold:seam names
]
__version__ = "0.1.0"
