"""Portraits: a picture of one's own, cut to a square, seen by whoever sees the profile."""

from functools import partial
from io import BytesIO
from typing import Any

from django.core.files.base import ContentFile
from django.http import FileResponse, HttpResponseBase
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from PIL import Image, ImageOps, UnidentifiedImageError
from rest_framework import serializers
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.accounts.models import Account
from gonfalon.api.guard import GuardedView, SignedIn, ask
from gonfalon.api.people import portrait_address
from gonfalon.api.problems import Invalid, NotFound, TooLarge
from gonfalon.clock import new_id
from gonfalon.core.model.tree import profile
from gonfalon.inputs import Input
from gonfalon.ledger.models import By, record
from gonfalon.viewpoint.viewpoint import Viewpoint
from gonfalon.work import POLICY, RowLock, after_commit, after_rollback

SIDE = 256
"""Pixels."""
LARGEST_FILE = 10 * 1024 * 1024
ROOM = 10_000
"""What is sent around a picture."""
MOST_PIXELS = 50_000_000
FORMATS = ("JPEG", "PNG", "WEBP")


class PortraitInput(Input):
    """A picture, and the square of it that is kept, in shares of its width and height from 0 to 1."""

    picture = serializers.FileField()
    left = serializers.FloatField(min_value=0, max_value=1, default=0)
    top = serializers.FloatField(min_value=0, max_value=1, default=0)
    width = serializers.FloatField(min_value=0.01, max_value=1, default=1)
    height = serializers.FloatField(min_value=0.01, max_value=1, default=1)


class PortraitShape(serializers.Serializer):
    portrait = serializers.CharField(allow_null=True)


class PortraitView(GuardedView):
    doors = {"get": SignedIn(), "put": SignedIn(), "delete": SignedIn()}
    locks = dict.fromkeys(("put", "delete"), (POLICY.shared, RowLock("accounts.Account", "account")))
    parser_classes = [MultiPartParser]
    largest_body = LARGEST_FILE + ROOM

    @extend_schema(responses={(200, "image/webp"): OpenApiTypes.BINARY}, operation_id="portrait")
    def get(self, request: Request, account: str) -> HttpResponseBase:
        """The picture, 256 by 256 pixels."""
        ask(self.viewpoint, "see", profile(account))
        row = Account.objects.filter(pk=account).exclude(portrait="").first()
        if row is None:
            raise NotFound("portrait")
        try:
            file = row.portrait.open()
        except FileNotFoundError:
            raise NotFound("portrait") from None
        response = FileResponse(file, content_type="image/webp")
        response.headers["Cache-Control"] = "private, max-age=86400"
        return response

    @extend_schema(request={"multipart/form-data": PortraitInput}, responses=PortraitShape, operation_id="set_portrait")
    def put(self, request: Request, account: str) -> Response:
        """Take a picture as the portrait, cut as asked."""
        row = _editable(account, self.viewpoint)
        given = PortraitInput(data=request.data)
        given.is_valid(raise_exception=True)
        kept = _cut(given.validated_data)
        return Response(_replace(row, kept, self.session.by))

    @extend_schema(responses=PortraitShape, operation_id="remove_portrait")
    def delete(self, request: Request, account: str) -> Response:
        return Response(_replace(_editable(account, self.viewpoint), None, self.session.by))


def _too_large() -> TooLarge:
    return TooLarge(f"A picture has at most {LARGEST_FILE // 1024 // 1024} MB.")


def _editable(account: str, viewpoint: Viewpoint) -> Account:
    ask(viewpoint, "see", profile(account))
    ask(viewpoint, "edit", profile(account))
    row = Account.objects.filter(pk=account).first()
    if row is None or account not in viewpoint.sight.people:
        raise NotFound("account")
    return row


def _replace(row: Account, picture: bytes | None, by: By) -> dict[str, Any]:
    """Keep another portrait, or none; the old file goes once that is sure."""
    old, storage = row.portrait.name, row.portrait.storage
    if picture is None:
        row.portrait = ""
    else:
        row.portrait.save(f"{new_id()}.webp", ContentFile(picture), save=False)
        after_rollback(partial(storage.delete, str(row.portrait.name)))
    row.save(update_fields=["portrait"])
    way = "none" if picture is None else ""
    record(by, "account.portrait", about=("account", row.id), way=way, name=row.name)
    if old:
        after_commit(lambda: storage.delete(old))
    return {"portrait": portrait_address(row)}


def _cut(data: dict[str, Any]) -> bytes:
    """The asked square of a picture, as WebP without anything else that was in the file. Raises Invalid, TooLarge."""
    file = data["picture"]
    if file.size > LARGEST_FILE:
        raise _too_large()
    try:
        opened = Image.open(file, formats=FORMATS)
        if opened.width * opened.height > MOST_PIXELS:
            raise TooLarge(f"A picture has at most {MOST_PIXELS // 1_000_000} million pixels.")
        image = ImageOps.exif_transpose(opened).convert("RGB")
    except (UnidentifiedImageError, Image.DecompressionBombError, OSError, ValueError, SyntaxError):
        raise Invalid({"/picture": "This is no picture that can be read: send a JPEG, PNG or WebP file."}) from None
    left, top = data["left"] * image.width, data["top"] * image.height
    side = max(1.0, min(data["width"] * image.width, data["height"] * image.height))
    left, top = min(left, image.width - side), min(top, image.height - side)
    box = (max(0, round(left)), max(0, round(top)), round(left + side), round(top + side))
    written = BytesIO()
    ImageOps.fit(image.crop(box), (SIDE, SIDE)).save(written, "WEBP", quality=86)
    return written.getvalue()
