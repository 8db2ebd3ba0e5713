"""How DRF learns whose request it is: from the session, with the CSRF token checked on every writing one."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.middleware.csrf import CsrfViewMiddleware
from drf_spectacular.extensions import OpenApiAuthenticationExtension
from rest_framework.authentication import BaseAuthentication
from rest_framework.request import Request

from gonfalon.api.problems import Problem


class _CsrfCheck(CsrfViewMiddleware):
    def _reject(self, request: HttpRequest, reason: str) -> str:
        return reason


class SessionAccount(BaseAuthentication):
    """Tells DRF whose request it is, and checks the CSRF token of every writing one."""

    def authenticate(self, request: Request) -> tuple[Any, None] | None:
        check = _CsrfCheck(lambda _: HttpResponse())
        check.process_request(request._request)
        reason = check.process_view(request._request, HttpResponse, (), {})
        if reason:
            raise Problem(
                403,
                "csrf",
                "This request did not come from the application",
                "Reload the page and try again.",
            )
        actor = request._request.asked_by.actor
        return (actor, None) if actor else None


class SessionScheme(OpenApiAuthenticationExtension):
    """How the OpenAPI schema tells of it."""

    target_class = SessionAccount
    name = "session"

    def get_security_definition(self, auto_schema: Any) -> dict[str, str]:
        return {"type": "apiKey", "in": "cookie", "name": "sessionid"}
