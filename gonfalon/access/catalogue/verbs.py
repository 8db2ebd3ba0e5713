"""The verbs of graded capabilities (§2) in words."""

from dataclasses import dataclass

from gonfalon.core.model.vocabulary import ACTIONS, VERBS


@dataclass(frozen=True, slots=True)
class Verb:
    """A verb of graded capabilities: its column head, how it reads after "may", and which pages the end of that means.

    So "see unpublished" sections, and "see" all "unpublished" sections.
    """

    key: str
    name: str
    phrase: str

    @property
    def which(self) -> str:
        last = self.phrase.rpartition(" ")[2]
        return last if last in ("published", "unpublished") else ""


VERB_WORDS = {
    "see": ("See", "see"),
    "see-draft": ("See unpub.", "see unpublished"),
    "create": ("Create", "create"),
    "edit": ("Edit", "edit"),
    "edit-live": ("Edit live", "edit published"),
    "publish": ("Publish", "publish"),
    "retire": ("Retire", "retire"),
    "remove": ("Remove", "remove"),
    "move": ("Move", "move"),
    "history": ("History", "see the history of"),
    "restore": ("Restore", "restore earlier versions of"),
}
VERBS_OF_PROFILES = ("see", "edit")
"""What can be done with a profile (§5)."""
VERBS_IN_WORDS = tuple(Verb(key, *VERB_WORDS[key]) for key in VERBS)

ACTION_WORDS = {action: f"{VERB_WORDS[action][1]} this" for action in ACTIONS} | {
    "create": "make this here",
    "see-field": "see this field",
    "change-field": "change this field",
    "fill-field": "fill this field",
    "insert-component": "insert this component",
    "arrange-component": "take out or move this component",
    "change-facet": "change this side of the component",
    "stand-in": "stand in for this account",
    "hand-out": "give this role",
}
"""Every action on a node or a part of one as it reads after "may"."""
