"""ETag and If-Match on what people edit (RFC 9110): a save on top of someone else's is noticed."""

from drf_spectacular.utils import OpenApiParameter
from rest_framework.request import Request

from gonfalon.api.problems import Problem

IF_MATCH = OpenApiParameter(
    "If-Match",
    str,
    OpenApiParameter.HEADER,
    required=True,
    description="The ETag of what was edited; without it the answer is 428, with another one 412.",
)
ETAG = OpenApiParameter("ETag", str, OpenApiParameter.HEADER, response=[200], description="Its version, for If-Match.")
TAGGED = [IF_MATCH, ETAG]
"""What the schema says of an edit on top of a version."""


def etag(version: int | str) -> str:
    return f'"{version}"'


class _Any(str):
    """Whatever version there is: something done again, after what came before it was taken back."""

    __hash__ = None  # type: ignore[assignment]

    def __eq__(self, other: object) -> bool:
        return True

    def __ne__(self, other: object) -> bool:
        return False


def expected_version(request: Request) -> str:
    """The ETag the edit was begun from. Raises when the request names none."""
    if getattr(request._request, "on_top", False):
        return _Any()
    tag = request.headers.get("If-Match")
    if not tag:
        raise Problem(
            428,
            "precondition-required",
            "Say which version you edited",
            "Send the ETag you were given as If-Match, so that nobody's work is overwritten.",
        )
    return tag
