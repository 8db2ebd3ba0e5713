"""The file of a node: kept with it, put in the place of another, and taken away."""

from collections.abc import Iterable
from functools import partial

from django.core.files.base import ContentFile

from gonfalon.clock import new_id
from gonfalon.content.media.incoming import Incoming
from gonfalon.content.media.sizes import make_sizes
from gonfalon.content.models import Node, Rendition
from gonfalon.work import after_commit, after_rollback


def attach(row: Node, incoming: Incoming) -> None:
    """Keep what came in as the file of a node, in the place of what it had; sizes of a picture are made later.

    Part of a unit: where that is not kept the new file goes, and where it is the old ones.
    """
    old = files_of([row])
    row.file.save(f"{new_id()}.{incoming.extension}", ContentFile(incoming.content), save=False)
    after_rollback(partial(row.file.storage.delete, str(row.file.name)))
    row.file_bytes, row.file_width, row.file_height = len(incoming.content), incoming.width, incoming.height
    row.save(update_fields=["file", "file_bytes", "file_width", "file_height"])
    Rendition.objects.filter(node=row).delete()
    take_away(row, old)
    if incoming.kind == "picture":
        make_sizes.enqueue(row.id)


def files_of(rows: Iterable[Node]) -> list[str]:
    """The names of all files of some nodes, further sizes included. One query."""
    rows = list(rows)
    sizes = Rendition.objects.filter(node__in=[row.pk for row in rows]).values_list("file", flat=True)
    return [*(str(row.file.name) for row in rows if row.file), *sizes]


def take_away(row: Node, names: Iterable[str]) -> None:
    """Delete files once the unit is kept."""
    for name in names:
        after_commit(partial(row.file.storage.delete, name))
