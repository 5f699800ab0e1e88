"""Which function answers which request. Add routes here.

A handler takes a Request and gives a status and what becomes the JSON of the answer. A part of the path in braces is
handed over in request.parameters.
"""

from typing import Any

from {= module =} import notes
from {= module =}.server import Request, Routes


def health(request: Request) -> tuple[int, Any]:
    return 200, {"status": "ok"}


ROUTES: Routes = [
    ("GET", "/health", health),
    ("GET", "/notes", notes.list_all),
    ("POST", "/notes", notes.create),
    ("GET", "/notes/{number}", notes.show),
]
