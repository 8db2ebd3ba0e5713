"""The application shell, and addresses that lead nowhere."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render

from gonfalon.api.guard import Anyone, GuardedPage, GuardedView
from gonfalon.api.problems import NotFound


class Shell(GuardedPage):
    """The single page that the front end fills; it holds nothing of anybody."""

    doors = {"get": Anyone("It is the same empty page for everyone.")}
    never_rehearsed = frozenset({"get"})

    def get(self, request: HttpRequest, **_: Any) -> HttpResponse:
        return render(request, "index.html")


class Home(GuardedPage):
    doors = {"get": Anyone("It only sends on.")}
    never_rehearsed = frozenset({"get"})

    def get(self, request: HttpRequest) -> HttpResponse:
        return redirect("/define" if self.session.actor else "/sign-in")


class NoSuchAddress(GuardedView):
    """Any other address under /api/, so that a typing error is a problem too, not a page."""

    doors = {"get": Anyone("There is nothing here.")}
    never_rehearsed = frozenset({"get"})
    schema = None

    def get(self, request: HttpRequest, **_: Any) -> HttpResponse:
        raise NotFound("address")


PLACES = (
    "begin",
    "sign-in",
    "welcome",
    "me",
    "hand-out",
    "reviews",
    "define",
    "assign",
    "limit",
    "verify",
    "why",
    "walk",
    "side-by-side",
    "desk",
    "ledger",
)
