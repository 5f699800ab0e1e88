{= summary.python =}

from .counts import Counts, count

__all__ = ["Counts", "count"]
__version__ = "0.1.0"
