"""Handing a page on to another author: who may (§4). What is given as `own` reaches it from then on."""

from gonfalon.api.guard import ask, decide, may, require
from gonfalon.core import Question
from gonfalon.core.model.tree import Target
from gonfalon.viewpoint.viewpoint import Viewpoint

OF_LEAVERS = ("accounts.disable", "roles.assign")
"""What it takes where whoever wrote it is disabled, and then nothing else."""


def may_hand_on(viewpoint: Viewpoint, target: Target) -> bool:
    """Whether whoever asks may make somebody else the author of a page."""
    if _left(viewpoint, target) and all(may(viewpoint, duty) for duty in OF_LEAVERS):
        return True
    edit = Question(viewpoint.subject, "edit", target, viewpoint.at)
    own = viewpoint.wrote(target.author)
    return decide(viewpoint, edit, trail=False).allow and (own or may(viewpoint, "roles.assign"))


def ask_to_hand_on(viewpoint: Viewpoint, target: Target) -> None:
    """Raise Refused unless they may."""
    if _left(viewpoint, target) and all(may(viewpoint, duty) for duty in OF_LEAVERS):
        return
    ask(viewpoint, "edit", target)
    if not viewpoint.wrote(target.author):
        require(viewpoint, "roles.assign")


def _left(viewpoint: Viewpoint, target: Target) -> bool:
    author = viewpoint.snapshot.policy.accounts.get(target.author or "")
    return author is not None and author.state == "disabled"
