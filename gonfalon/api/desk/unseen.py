"""Pages that nobody would see once they are public: told before they are published."""

from collections.abc import Iterable
from dataclasses import replace

from gonfalon.access.catalogue import ContentType
from gonfalon.api.problems import Problem
from gonfalon.content.models import Node
from gonfalon.core import Question
from gonfalon.core.checks.who import active_accounts
from gonfalon.viewpoint.viewpoint import Viewpoint


class Unseen(Problem):
    """A page that nobody would see once it is public."""

    def __init__(self, kind: ContentType) -> None:
        detail = (
            "Once it is public nobody would see it here, neither visitors nor whoever has an account: no role lets "
            f"them see {kind.plural} that stand here."
        )
        super().__init__(409, "unseen", "Nobody would see it", detail)


def unseen_once_public(ids: Iterable[str], viewpoint: Viewpoint) -> set[str]:
    """Which of some nodes nobody but keyholders would see if they were public; of those that are there (§4).

    Visitors see most, and are asked first; everybody else about all that is left at once.
    """
    engine, public = viewpoint.engine, Node.State.PUBLISHED.value
    once = {id: replace(engine.tree.target(id), state=public) for id in ids if id in engine.tree}
    left = [id for id, it in once.items() if not engine.decide(Question(None, "see", it, viewpoint.at)).allow]
    others = active_accounts(engine.policy)
    if not left or not others:
        return set(left)
    then = engine.changed(engine.policy, engine.tree.with_states(dict.fromkeys(left, public)))
    seen = then.survey(others, left, ["see"], viewpoint.at)
    return {id for i, id in enumerate(left) if not seen[:, i].any()}
