"""The application shell, and the description of the API."""

from pathlib import Path
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from drf_spectacular.utils import extend_schema
from drf_spectacular.views import SpectacularAPIView

import gonfalon.core
from gonfalon.server.guard import Anyone, GuardedPage, GuardedView
from gonfalon.server.problems import NotFound


class Shell(GuardedPage):
    """The single page that the front end fills; it holds nothing of anybody."""

    doors = {"get": Anyone("It is the same empty page for everyone.")}

    def get(self, request: HttpRequest, **_: Any) -> HttpResponse:
        return render(request, "index.html")


class Home(GuardedPage):
    doors = {"get": Anyone("It only sends on.")}

    def get(self, request: HttpRequest) -> HttpResponse:
        return redirect("/define" if self.presence.actor else "/sign-in")


class Schema(GuardedView, SpectacularAPIView):
    """OpenAPI 3 for the whole API."""

    doors = {"get": Anyone("What can be asked is no secret; what is answered is.")}


class DocumentSchema(GuardedView):
    """JSON Schema 2020-12 of the policy document."""

    doors = {"get": Anyone("The form of a document is no secret.")}

    @extend_schema(responses={(200, "application/schema+json"): dict}, operation_id="policy_schema")
    def get(self, request: HttpRequest) -> HttpResponse:
        return HttpResponse(_DOCUMENT_SCHEMA.read_bytes(), content_type="application/schema+json")


class NoSuchAddress(GuardedView):
    """Any other address under /api/, so that a typing error is a problem too, not a page."""

    doors = {"get": Anyone("There is nothing here.")}
    schema = None

    def get(self, request: HttpRequest, **_: Any) -> HttpResponse:
        raise NotFound("address")


_DOCUMENT_SCHEMA = Path(gonfalon.core.__file__).with_name("policy.schema.json")
PLACES = ("sign-in", "define", "assign", "limit", "verify", "desk", "ledger")
