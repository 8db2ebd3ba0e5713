"""A request's body, read once and before anything is locked: uploads are taken in while nobody waits for them.

body = Body(view, request)
body.request_anew().data        # for each try of the unit; what is wrong with it is raised where a view looks at it
"""

from typing import Any

from django.http import HttpRequest
from rest_framework.exceptions import APIException
from rest_framework.request import Request
from rest_framework.views import APIView

from gonfalon.api.problems import Problem, TooLarge


class _ReadRequest(Request):
    """A request whose body is read. `fault` is what was wrong with it, until a view looks at it."""

    fault: Exception | None = None

    @property
    def data(self) -> Any:
        if self.fault is not None:
            raise self.fault
        return super().data


def _length(request: HttpRequest) -> int:
    """How long the body says it is; what is no number counts as nothing, as Django reads it."""
    try:
        return int(request.META.get("CONTENT_LENGTH") or 0)
    except ValueError:
        return 0


class Body:
    """What a request brought, and its request for each try."""

    def __init__(self, view: APIView, request: HttpRequest, largest: int) -> None:
        self._view, self._asked = view, request
        self.request = made = self._made()
        try:
            if _length(request) > largest:
                raise TooLarge(f"A request has at most {largest // 1024 // 1024} MB here.")
            made._load_data_and_files()
        except (APIException, Problem) as fault:
            made.fault = fault
            made._data, made._files, made._full_data = {}, {}, {}

    @property
    def sent(self) -> Any:
        """What was sent; of a body that cannot be read, nothing."""
        return self.request._full_data

    def request_anew(self) -> Request:
        """The request as if nothing had been asked of it, with the body that was read."""
        made = self._made()
        made._data, made._files, made._full_data = self.request._data, self.request._files, self.request._full_data
        made.fault = self.request.fault
        return made

    def _made(self) -> _ReadRequest:
        return _ReadRequest(
            self._asked,
            parsers=self._view.get_parsers(),
            authenticators=self._view.get_authenticators(),
            negotiator=self._view.get_content_negotiator(),
            parser_context=self._view.get_parser_context(self._asked),
        )
