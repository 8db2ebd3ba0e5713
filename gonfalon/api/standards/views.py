"""The API described by OpenAPI 3, and the policy document by JSON Schema."""

from pathlib import Path

from django.http import HttpRequest, HttpResponse
from drf_spectacular.utils import extend_schema
from drf_spectacular.views import SpectacularAPIView

import gonfalon.core
from gonfalon.api.guard import Anyone, GuardedView

_DOCUMENT_SCHEMA = Path(gonfalon.core.__file__).with_name("policy.schema.json")


class Schema(GuardedView, SpectacularAPIView):
    """OpenAPI 3 for the whole API."""

    doors = {"get": Anyone("What can be asked is no secret; what is answered is.")}


class DocumentSchema(GuardedView):
    """JSON Schema 2020-12 of the policy document."""

    doors = {"get": Anyone("The form of a document is no secret.")}

    @extend_schema(responses={(200, "application/schema+json"): dict}, operation_id="policy_schema")
    def get(self, request: HttpRequest) -> HttpResponse:
        return HttpResponse(_DOCUMENT_SCHEMA.read_bytes(), content_type="application/schema+json")
