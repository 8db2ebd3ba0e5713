"""What somebody may be told of: which nodes and which people by name. docs/knowledge.md says what opens which.

sight = Sight(nodes={"notices"}, people={"ines"})
"minutes" in sight.nodes       # False: whatever explains, counts or finds says "a page out of sight"
"""

from collections.abc import Container
from dataclasses import dataclass

HIDDEN_NODE = "a page out of sight"
HIDDEN_PERSON = "somebody"


class _Everything:
    def __contains__(self, id: object) -> bool:
        return True


EVERYTHING = _Everything()


@dataclass(frozen=True, slots=True)
class Sight:
    """The nodes and the accounts that may be named to somebody, by id; all others are as good as not there."""

    nodes: Container[str]
    people: Container[str]

    @property
    def roster(self) -> bool:
        """Whether people are counted, too: then every one of them is known."""
        return self.people is EVERYTHING


UNBOUND = Sight(EVERYTHING, EVERYTHING)
"""For what nobody reads as it is: the ledger's entries are told as far as each reader may know."""
