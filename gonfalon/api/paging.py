"""Lists in pages: `limit` and `offset`, the total and the next page in the answer's headers (RFC 8288)."""

from collections.abc import Callable, Sequence
from typing import Any
from urllib.parse import urlencode

from drf_spectacular.utils import OpenApiParameter
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.api.problems import Invalid

MOST = 5_000
LONGEST_NUMBER = 15
PAGED = [OpenApiParameter("limit", int), OpenApiParameter("offset", int)]
"""What a paged list accepts, for its description."""


def paged(request: Request, items: Sequence[Any], told: Callable[[Sequence[Any]], Sequence[Any]] = list) -> Response:
    """One page of a list, at most MOST of it, with `Total-Count` and a `Link` to the next page if there is one.

    `told` makes what is answered of the items on that page.
    """
    asked = request.query_params
    limit = min(whole(request, "limit", MOST), MOST) or MOST
    offset = whole(request, "offset", 0)
    headers = {"Total-Count": str(len(items))}
    if offset + limit < len(items):
        query = urlencode({**asked.dict(), "limit": limit, "offset": offset + limit})
        headers["Link"] = f'<{request.path}?{query}>; rel="next"'
    return Response(told(items[offset : offset + limit]), headers=headers)


def whole(request: Request, name: str, otherwise: int) -> int:
    """A whole number of a query, or `otherwise` where it is not given. Raises Invalid."""
    text = request.query_params.get(name, "")
    if not text:
        return otherwise
    if not (text.isascii() and text.isdecimal() and len(text) <= LONGEST_NUMBER):
        raise Invalid({f"/{name}": f"This is a whole number of at most {LONGEST_NUMBER} digits."})
    return int(text)
