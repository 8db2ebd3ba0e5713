"""Pictures and documents themselves: for whoever may see their node, and for everyone where a visitor may."""

from django.core.files.base import File
from django.core.files.storage import Storage
from django.http import FileResponse, HttpRequest
from django.utils.text import slugify

from gonfalon.api.guard import GuardedPage, OnSite
from gonfalon.api.problems import NotFound
from gonfalon.content.media.kinds import SHOWN, TYPES, extension_of
from gonfalon.content.models import Node, Rendition

LARGEST_WIDTH = 10_000


class FileView(GuardedPage):
    """The file of a node; with `?width=800` a picture at least as wide as that, if it was made in such a size.

    What is no picture is only downloaded, and nothing in a file is ever run: it is opened in a sandbox.
    """

    doors = {"get": OnSite()}

    def get(self, request: HttpRequest, node: str) -> FileResponse:
        row = Node.objects.filter(pk=node).first()
        if row is None or not row.file:
            raise NotFound("file")
        name = _sized(row, request.GET.get("width", "")) or str(row.file.name)
        extension = extension_of(name)
        response = FileResponse(
            _opened(row.file.storage, name),
            as_attachment=extension not in SHOWN,
            filename=f"{slugify(row.title) or 'file'}.{extension}",
            content_type=TYPES.get(extension, "application/octet-stream"),
        )
        response.headers["Cache-Control"] = "private, max-age=60"
        response.headers["Content-Security-Policy"] = "default-src 'none'; sandbox"
        response.headers["X-Content-Type-Options"] = "nosniff"
        return response


def _sized(row: Node, asked: str) -> str | None:
    """The file of the least size that is as wide as asked; None where the whole picture is meant."""
    if not (asked.isascii() and asked.isdigit() and len(asked) < 6 and 0 < int(asked) <= LARGEST_WIDTH):
        return None
    made = Rendition.objects.filter(node=row, width__gte=int(asked)).order_by("width")
    return made.values_list("file", flat=True).first()


def _opened(storage: Storage, name: str) -> File:
    try:
        return storage.open(name, "rb")
    except FileNotFoundError:
        raise NotFound("file") from None
