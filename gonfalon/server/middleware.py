"""What every request passes: the headers that keep a page to itself, and whose request it is."""

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse

from gonfalon.access.uses import write_now_and_then
from gonfalon.verify.presence import Presence

_Next = Callable[[HttpRequest], HttpResponse]

CONTENT_POLICY = "; ".join(
    (
        "default-src 'self'",
        "script-src 'self'",
        "style-src 'self' 'unsafe-inline'",
        "img-src 'self' data:",
        "font-src 'self'",
        "connect-src 'self'",
        "object-src 'none'",
        "base-uri 'none'",
        "form-action 'self'",
        "frame-ancestors 'none'",
    )
)
"""No script but our own files. Inline styles stay allowed: the dialogs' scroll lock writes one."""


def security_headers(get_response: _Next) -> _Next:
    def respond(request: HttpRequest) -> HttpResponse:
        response = get_response(request)
        response.headers.setdefault("Content-Security-Policy", CONTENT_POLICY)
        response.headers.setdefault("X-Frame-Options", "DENY")
        response.headers.setdefault("Permissions-Policy", "camera=(), geolocation=(), microphone=()")
        if not request.path.startswith("/static/"):
            response.headers.setdefault("Cache-Control", "no-store")
        return response

    return respond


def presence(get_response: _Next) -> _Next:
    def respond(request: HttpRequest) -> HttpResponse:
        request.presence = Presence(request)  # type: ignore[attr-defined]
        response = get_response(request)
        write_now_and_then()
        return response

    return respond
