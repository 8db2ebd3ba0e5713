"""Pictures and documents themselves: for whoever may see their node, and for everyone where a visitor may."""

import re
from typing import IO, Any

from django.core.files.storage import Storage
from django.http import FileResponse, HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from django.utils.cache import get_conditional_response
from django.utils.text import slugify

from gonfalon.api.guard import GuardedPage, OnSite
from gonfalon.api.problems import NotFound
from gonfalon.content.media.kinds import SHOWN, TYPES, extension_of
from gonfalon.content.models import Node, Rendition

LARGEST_WIDTH = 10_000
_RANGE = re.compile(r"bytes=(\d{0,15})-(\d{0,15})", re.ASCII)


class FileView(GuardedPage):
    """The file of a node; with `?width=800` a picture at least as wide as that, if it was made in such a size.

    What is no picture is only downloaded, and nothing in a file is ever run: it is opened in a sandbox. One range of
    bytes may be asked for (RFC 9110); a file that is known already is not sent again.
    """

    doors = {"get": OnSite()}

    def get(self, request: HttpRequest, node: str) -> HttpResponseBase:
        row = Node.objects.filter(pk=node).first()
        if row is None or not row.file:
            raise NotFound("file")
        name = _sized(row, request.GET.get("width", "")) or str(row.file.name)
        # a file is never written over: its name says which it is
        tag = f'"{name.rpartition("/")[2]}"'
        response: HttpResponseBase = get_conditional_response(request, etag=tag) or _sent(request, row, name, tag)
        response.headers["ETag"] = tag
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


def _sent(request: HttpRequest, row: Node, name: str, tag: str) -> HttpResponseBase:
    extension, storage = extension_of(name), row.file.storage
    file, size = _opened(storage, name)
    told: dict[str, Any] = {
        "as_attachment": extension not in SHOWN,
        "filename": f"{slugify(row.title) or 'file'}.{extension}",
        "content_type": TYPES.get(extension, "application/octet-stream"),
    }
    asked = request.headers.get("Range", "")
    if request.headers.get("If-Range", tag) != tag or not (said := _RANGE.fullmatch(asked)) or said[0] == "bytes=-":
        response = FileResponse(file, **told)
        response.headers["Accept-Ranges"] = "bytes"
        return response
    start, end = _span(said[1], said[2], size)
    if start >= end:
        file.close()
        return HttpResponse(status=416, headers={"Content-Range": f"bytes */{size}"})
    file.seek(start)
    response = FileResponse(_Part(file, end - start), status=206, **told)
    response.headers["Content-Length"] = str(end - start)
    response.headers["Content-Range"] = f"bytes {start}-{end - 1}/{size}"
    return response


def _span(first: str, last: str, size: int) -> tuple[int, int]:
    """From which byte to before which: the last so many where no first is said."""
    if not first:
        return max(0, size - int(last)), size
    return int(first), min(size, int(last) + 1) if last else size


class _Part:
    """So many bytes of a file that stands where they begin."""

    def __init__(self, file: IO[bytes], left: int) -> None:
        self._file, self._left = file, left
        self.close = file.close

    def read(self, most: int) -> bytes:
        content = self._file.read(min(most, self._left))
        self._left -= len(content)
        return content


def _opened(storage: Storage, name: str) -> tuple[IO[bytes], int]:
    try:
        return storage.open(name, "rb"), storage.size(name)
    except FileNotFoundError:
        raise NotFound("file") from None
