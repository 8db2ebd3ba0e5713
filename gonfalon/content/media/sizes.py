"""Further sizes of pictures, made by the worker, so that small screens and lists fetch little."""

from io import BytesIO

from django.core.files.base import ContentFile
from django_tasks import task
from PIL import Image

from gonfalon.content.models import Node, Rendition
from gonfalon.work import locked, unit

WIDTHS = (360, 800, 1600)
"""Pixels."""


@task
def make_sizes(id: str) -> int:
    """Make those sizes of a picture that are smaller than it is; how many were made."""
    row = Node.everywhere.filter(pk=id).first()
    if row is None or not row.file:
        return 0
    name = str(row.file.name)
    try:
        with row.file.open("rb") as file, Image.open(file) as opened:
            image = (
                opened if opened.mode in ("RGB", "RGBA") else opened.convert("RGBA" if "A" in opened.mode else "RGB")
            )
            image.load()
    except FileNotFoundError:
        return 0  # replaced meanwhile: that has a task of its own
    made = [(width, _made(image, width)) for width in WIDTHS if width < image.width]
    return _keep(id, name, made)


def _made(image: Image.Image, width: int) -> bytes:
    written = BytesIO()
    image.resize((width, max(1, round(image.height * width / image.width)))).save(written, "WEBP", quality=82)
    return written.getvalue()


@unit()
def _keep(id: str, name: str, made: list[tuple[int, bytes]]) -> int:
    """Keep what was made of a file, unless another took its place meanwhile."""
    row = locked(Node.everywhere).filter(pk=id, file=name).first()
    if row is None:
        return 0
    had = set(Rendition.objects.filter(node=row).values_list("width", flat=True))
    new = [(width, content) for width, content in made if width not in had]
    for width, content in new:
        Rendition(node=row, width=width).keep(ContentFile(content))
    return len(new)
