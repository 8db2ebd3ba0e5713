"""Lists in pages: `limit` and `offset`, the total and the next page in the answer's headers (RFC 8288)."""

from collections.abc import Sequence
from typing import Any
from urllib.parse import urlencode

from drf_spectacular.utils import OpenApiParameter
from rest_framework.request import Request
from rest_framework.response import Response

MOST = 5_000
PAGED = [OpenApiParameter("limit", int), OpenApiParameter("offset", int)]
"""What a paged list accepts, for its description."""


def paged(request: Request, items: Sequence[Any]) -> Response:
    """One page of a list, at most MOST of it, with `Total-Count` and a `Link` to the next page if there is one."""
    asked = request.query_params
    limit = min(whole(asked.get("limit"), MOST), MOST) or MOST
    offset = whole(asked.get("offset"), 0)
    headers = {"Total-Count": str(len(items))}
    if offset + limit < len(items):
        query = urlencode({**asked.dict(), "limit": limit, "offset": offset + limit})
        headers["Link"] = f'<{request.path}?{query}>; rel="next"'
    return Response(items[offset : offset + limit], headers=headers)


def whole(text: str | None, otherwise: int) -> int:
    """A whole number from a query, or `otherwise` when it is none."""
    return int(text) if text and text.isdigit() else otherwise
