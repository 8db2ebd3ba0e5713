"""Refusals and errors as RFC 9457 problem details.

    raise Refused("stopped", "You may not edit Winter rates.", trail)
    raise Invalid({"/name": "Another role has this name already."})

Every problem has a `reason`, a short code a program can act on; bad input lists its errors by JSON
Pointer, one for each field.
"""

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from django.core.exceptions import PermissionDenied, RequestDataTooBig
from django.db import OperationalError
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from rest_framework import exceptions
from rest_framework.response import Response

from gonfalon.work.units import IN_THE_WAY, may_be_tried_again

_PACKET_TOO_LARGE = 1153
"""What MariaDB calls it."""
MEDIA_TYPE = "application/problem+json"


class Problem(Exception):
    """A refusal or error on its way to whoever asked."""

    def __init__(self, status: int, reason: str, title: str, detail: str = "", **more: Any) -> None:
        super().__init__(detail or title)
        self.status = status
        self.headers: dict[str, str] = {}
        self.body = {"status": status, "reason": reason, "title": title, "detail": detail, **more}


class Refused(Problem):
    """The rules say no. `reason` is the code of the decision, `trail` the steps that led to it."""

    def __init__(self, reason: str, detail: str, trail: Sequence[Mapping[str, Any]] = ()) -> None:
        super().__init__(403, reason, "Not allowed", detail, trail=list(trail))


class NotSignedIn(Problem):
    def __init__(self) -> None:
        super().__init__(401, "not-signed-in", "Not signed in", "Sign in to go on.")


class NotFound(Problem):
    """There is no such thing, or nothing that may be seen."""

    def __init__(self, what: str = "page") -> None:
        super().__init__(404, "not-found", "Not found", f"There is no such {what}, or you may not see it.")


class Invalid(Problem):
    """Bad input: what is wrong, by JSON Pointer to the field."""

    def __init__(self, errors: Mapping[str, str]) -> None:
        listed = [{"pointer": pointer, "message": message} for pointer, message in errors.items()]
        super().__init__(422, "invalid", "Some of this cannot be saved", "; ".join(errors.values()), errors=listed)


class ChangedMeanwhile(Problem):
    """Someone saved in between; `theirs` is what stands now, for laying beside one's own."""

    def __init__(self, detail: str, theirs: Any) -> None:
        super().__init__(412, "changed-meanwhile", "Changed by someone else meanwhile", detail, theirs=theirs)


class Conflict(Problem):
    def __init__(self, detail: str, **more: Any) -> None:
        super().__init__(409, "conflict", "Cannot be applied as it stands", detail, **more)


class DrawnForAnother(Problem):
    """The screen was drawn for somebody else than who is there by now: standing in began or ended elsewhere."""

    def __init__(self) -> None:
        detail = (
            "Standing in began or ended elsewhere, or somebody else signed in. Nothing was changed; look again first."
        )
        super().__init__(409, "drawn-for-another", "This screen is for other eyes", detail)


class TooLarge(Problem):
    def __init__(self, detail: str) -> None:
        super().__init__(413, "too-large", "More than fits", detail)


class TooMany(Problem):
    def __init__(self, seconds: int) -> None:
        super().__init__(429, "throttled", "Too many wrong guesses", f"Wait {seconds} seconds before the next try.")
        self.headers["Retry-After"] = str(seconds)


def handler(error: Exception, context: Mapping[str, Any]) -> Response | None:
    """DRF's exception handler.

    None leaves an unexpected error to the server's log and a plain 500, and one that another try may mend to the unit.
    """
    problem = None if may_be_tried_again(error) else as_problem(error)
    if problem is None:
        return None
    response = Response(problem.body, status=problem.status, headers=problem.headers)
    response.content_type = MEDIA_TYPE
    return response


def as_problem(error: Exception) -> Problem | None:
    if isinstance(error, Problem):
        return error
    if isinstance(error, exceptions.ValidationError):
        return Invalid(dict(_pointers("", error.detail)))
    if isinstance(error, Http404):
        return NotFound()
    if isinstance(error, PermissionDenied):
        return Refused("forbidden", str(error))
    if isinstance(error, RequestDataTooBig):
        return TooLarge("This is more than a request may hold.")
    if isinstance(error, OperationalError) and error.args[:1] == (_PACKET_TOO_LARGE,):
        return TooLarge("This is more than the database takes at once.")
    if isinstance(error, OperationalError) and error.args and error.args[0] in IN_THE_WAY:
        return Conflict("Somebody else was saving the same at that moment. Nothing was changed; try again.")
    if isinstance(error, exceptions.MethodNotAllowed):
        return Problem(error.status_code, "method-not-allowed", "This cannot be done with it", str(error.detail))
    if isinstance(error, exceptions.UnsupportedMediaType):
        return Problem(error.status_code, "unsupported-media-type", "This cannot be read", str(error.detail))
    if isinstance(error, exceptions.APIException):
        code = str(error.default_code).replace("_", "-")
        return Problem(error.status_code, code, str(error.default_detail), str(error.detail))
    return None


def _pointers(pointer: str, detail: Any) -> Iterable[tuple[str, str]]:
    """Flatten DRF's nested error detail into (JSON Pointer, message) pairs."""
    if isinstance(detail, Mapping):
        for key, inner in detail.items():
            yield from _pointers(pointer if key == "non_field_errors" else f"{pointer}/{key}", inner)
    elif isinstance(detail, list) and detail and isinstance(detail[0], Mapping | list):
        for i, inner in enumerate(detail):
            yield from _pointers(f"{pointer}/{i}", inner)
    elif isinstance(detail, list):
        yield pointer, " ".join(str(message) for message in detail)
    else:
        yield pointer, str(detail)


def json_problem(problem: Problem) -> JsonResponse:
    """A problem from outside DRF's views."""
    return JsonResponse(problem.body, status=problem.status, content_type=MEDIA_TYPE, headers=problem.headers)


def server_error(request: HttpRequest) -> JsonResponse:
    """What an unexpected error answers; the server's log has the rest."""
    return json_problem(
        Problem(500, "server", "Something went wrong", "The server could not answer. Nothing was changed.")
    )


def not_found(request: HttpRequest, exception: Exception) -> HttpResponse:
    """What an address that leads nowhere answers: a page that says so, or a problem where programs ask.

    Whoever is signed in stays in the application, which says so itself.
    """
    problem = NotFound("address")
    if request.path.startswith("/api/"):
        return json_problem(problem)
    session = getattr(request, "asked_by", None)
    page = "index.html" if session is not None and session.actor is not None else "site/problem.html"
    return render(request, page, {"problem": problem.body}, status=problem.status)


def bad_request(request: HttpRequest, exception: Exception) -> JsonResponse:
    """What Django answers to a request it cannot read: a host that is not served here, a broken body."""
    return json_problem(Problem(400, "bad-request", "This cannot be read", "The request is not one that can be read."))


def csrf_failure(request: HttpRequest, reason: str = "") -> JsonResponse:
    """What Django answers when the CSRF token is missing or wrong."""
    return json_problem(
        Problem(403, "csrf", "This request did not come from the application", "Reload the page and try again.")
    )
