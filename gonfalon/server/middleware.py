"""What every request passes: the headers that keep a page to itself, and whose request it is."""

from collections.abc import Callable

from django.conf import settings
from django.http import HttpRequest, HttpResponse

from gonfalon.access.uses import write_now_and_then
from gonfalon.content.sites import site_at
from gonfalon.viewpoint.cookie import Cookie
from gonfalon.viewpoint.session import Session

_EVERYWHERE = ("/static/", "/files/", "/site/")

_Next = Callable[[HttpRequest], HttpResponse]

CONTENT_POLICY = "; ".join(
    (
        "default-src 'self'",
        "script-src 'self'",
        "style-src 'self' 'unsafe-inline'",
        "img-src 'self' data: blob:",
        "font-src 'self'",
        "connect-src 'self'",
        "object-src 'none'",
        "base-uri 'none'",
        "form-action 'self'",
        "frame-ancestors 'none'",
    )
)
"""No script but our own files. Inline styles stay allowed: the dialogs' scroll lock writes one.

A portrait is cut from the picture as it was chosen, a blob.
"""


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


def site_hosts(get_response: _Next) -> _Next:
    """Under the host name of a site its pages answer without /site/KEY/ before them, and nothing but the site does."""

    def respond(request: HttpRequest) -> HttpResponse:
        host = request.get_host().rpartition(":")[0] or request.get_host()
        if host != settings.HOST and not request.path.startswith(_EVERYWHERE):
            site = site_at(host.lower())
            if site is not None:
                request.path_info = f"/site/{site.key}{request.path}"
        return get_response(request)

    return respond


def session(get_response: _Next) -> _Next:
    def respond(request: HttpRequest) -> HttpResponse:
        request.asked_by = Session(Cookie(request))  # type: ignore[attr-defined]
        response = get_response(request)
        write_now_and_then()
        return response

    return respond
