"""A working copy as one may read and edit it: the page as it would be, asked about as if it were a draft (§4)."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from gonfalon.api.desk.page_data import PageAccess, page_data
from gonfalon.api.etag import etag
from gonfalon.api.guard import On, ask
from gonfalon.content.models import WorkingCopy
from gonfalon.content.nodes import Place
from gonfalon.content.working_copies import as_page, begun
from gonfalon.viewpoint.session import Session
from gonfalon.viewpoint.viewpoint import Viewpoint

OF_THE_COPY = ("see", "edit")
"""What is asked of a working copy itself; the rest of what one may do is asked of the page."""


@dataclass(frozen=True, slots=True)
class OnCopy:
    """An action on the working copy of the node the route names, on the desk.

    Seeing and editing are asked of the copy, publishing of the node; whoever may not see both finds nothing.
    """

    action: str
    while_looking: bool = False

    def pass_through(self, session: Session, arguments: Mapping[str, Any]) -> Place:
        place = On("see", desk=True).pass_through(session, arguments)
        copy = place.target.working_copy()
        ask(session.viewpoint, "see", copy)
        if self.action != "see":
            ask(session.viewpoint, self.action, copy if self.action in OF_THE_COPY else place.target)
        return place


def tag_of(copy: WorkingCopy) -> str:
    """Of which save of which copy it is; of one that is not begun, on top of which version of the page."""
    return f"{copy.key}-{copy.version}" if begun(copy) else f"{copy.base}-0"


def copy_etag(copy: WorkingCopy) -> str:
    return etag(tag_of(copy))


def copy_data(viewpoint: Viewpoint, place: Place, copy: WorkingCopy) -> dict[str, Any]:
    """The page as its working copy has it, with what one may do to that."""
    whole = PageAccess(viewpoint, place.target)
    data = page_data(viewpoint, as_page(place.row, copy), place.above, place.target.working_copy())
    may = [action for action in data["may"] if action in OF_THE_COPY]
    return data | {
        "working": True,
        "tag": tag_of(copy),
        "may": [*may, *(["publish"] if whole.may("publish") else [])],
        "may_hand_on": False,
        "may_edit_listing": False,
        "may_edit_site_listing": False,
        "public_changed": begun(copy) and copy.base != place.row.version,
    }
