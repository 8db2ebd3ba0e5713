"""Subject-independent data for a set of nodes and some actions: built once, shared by all holders.

batch = NodeBatch(columns, policy_index, positions)      # positions None: the whole tree
batch.kinds                                              # [rows] the kind of each node
batch.in_force(subjects, Effect.STOP)                    # [rows] action bits that limits on them stop here
"""

from bisect import bisect_left
from collections.abc import Callable, Hashable, Iterable, Iterator, Mapping, Sequence
from functools import cached_property, lru_cache
from itertools import pairwise
from typing import Any, NamedTuple, TypeVar

import numpy as np
from numpy.typing import NDArray

from gonfalon.core.bulk.authorship import Work
from gonfalon.core.bulk.columns import ActionColumns
from gonfalon.core.bulk.limit_runs import Narrowing
from gonfalon.core.bulk.policy_index import PolicyIndex
from gonfalon.core.decide.grants import ResolvedGrants
from gonfalon.core.model.bits import Bits, Bools, Ints, has
from gonfalon.core.model.policy import Account, Scope, Subject
from gonfalon.core.model.vocabulary import Effect

T = TypeVar("T")
MOST_CELLS = 1 << 21
"""How many cells, holders times rows, are evaluated at once: some ten such arrays fit into a processor's cache."""
ALL_ROWS = slice(None)
_FEW_ROWS = 5_000
"""Batches of up to so many rows are kept: whoever asks what is beneath some nodes asks again."""
_REACHES = 64
"""For so many different reaches the rows outside are kept: people of one client have the same."""


class Narrowed(NamedTuple):
    """The runs of rows where limits narrow subjects: `places` gives the runs of each, the other columns are by run."""

    places: Mapping[Subject, tuple[int, int]]
    first: Ints
    last: Ints
    bits: Bits

    def runs(self, subjects: Iterable[Subject]) -> list[tuple[slice, Any]]:
        """The runs where any of some subjects is narrowed, each with the action bits narrowed there."""
        places = [i for subject in subjects if subject in self.places for i in range(*self.places[subject])]
        return [(slice(self.first[i], self.last[i]), self.bits[i]) for i in places]


class SubtreeKinds(NamedTuple):
    """For some branches, one after the other: each kind of node in it, and the position of the first such node.

    The branch `i` holds those from `edges[i]` to `edges[i + 1]`, its own top included.
    """

    edges: Ints
    kind: Ints
    first: Ints


class NodeBatch:
    """Some nodes, a row each, and the actions asked, a bit each.

    `positions` are places in the tree, ascending, or None for the whole tree.
    """

    def __init__(self, columns: ActionColumns, policy_index: PolicyIndex, positions: Ints | None = None) -> None:
        self.columns, self.policy_index, self.tree = columns, policy_index, policy_index.tree
        self.positions = None if positions is not None and len(positions) == len(self.tree) else positions
        self.length = len(self.tree) if positions is None else len(positions)
        self.kinds = self._of(self.tree.kinds)
        self.published = self._of(self.tree.published)
        self.nothing = np.zeros(self.length, dtype=columns.dtype)
        self.all = np.full(self.length, columns.every, dtype=columns.dtype)
        self.everything = slice(0, self.length)
        self._kept: dict[Callable[[NodeBatch], Any], Any] = {}
        self._masks: dict[Scope, Bits] = {}
        self._trees: dict[str, Bools] = {}
        self._narrowed: dict[Narrowing, Narrowed] = {}
        self._recent = lru_cache(1)(lambda rows: self._alone(np.frombuffer(rows, dtype=np.intp)))
        self._outside = lru_cache(_REACHES)(self._beyond)
        self._in_force: dict[tuple[tuple[Subject, ...], Narrowing], Bits] = {}

    def kept(self, make: "Callable[[NodeBatch], T]") -> T:
        """What `make` gives for this batch: made once, and kept for as long as the batch is."""
        if make not in self._kept:
            self._kept[make] = make(self)
        made: T = self._kept[make]
        return made

    def _of(self, whole: NDArray[Any]) -> NDArray[Any]:
        return whole if self.positions is None else whole[self.positions]

    @cached_property
    def present(self) -> Bools:
        """`[kinds]` which kinds of node occur."""
        present: Bools = np.bincount(self.kinds, minlength=2 * len(self.tree.type_names)) > 0
        return present

    def says(self, said: ResolvedGrants) -> Bits:
        """`[relations, rows]` the bits that a role or direct grant gives and bars, whatever its scope."""
        with self.policy_index.source_index.lock:
            number = self.policy_index.source_index.tables.number(said)
            table = self.policy_index.source_index.tables.of(self.columns, [number])[:, 0]
        says: Bits = table.take(self.kinds, axis=1)
        return says

    # -- where scopes lie ----------------------------------------------------------------------

    def rows_from(self, positions: Ints) -> Ints:
        """The first rows at or after some positions of the tree."""
        return positions if self.positions is None else np.searchsorted(self.positions, positions)

    def runs(self, branches: frozenset[str] | None) -> Iterator[slice]:
        """The rows of some branches (None: all rows), in runs."""
        for run in self.policy_index.source_index.runs(branches):
            start, end = run if self.positions is None else (bisect_left(self._places, edge) for edge in run)
            if start < end:
                yield slice(start, end)

    def within(self, scope: Scope, bits: Bits) -> Bits:
        """`[rows]` some bits, cleared where a scope does not cover what their columns ask about (§3)."""
        if scope.unrestricted:
            return bits
        covered, mask = self.nothing.copy(), self.mask(scope)
        for rows in self.runs(scope.branches):
            covered[rows] = bits[rows] if mask is None else bits[rows] & mask[rows]
        return covered

    def mask(self, scope: Scope) -> Bits | None:
        """`[rows]` the bits covered by the sites, types and topics of a scope; None where it names none of them."""
        scope = scope._replace(branches=None)
        if scope.unrestricted:
            return None
        if scope not in self._masks:
            self._masks[scope] = self.masks([scope])[0]
        return self._masks[scope]

    def masks(self, scopes: Sequence[Scope]) -> Bits:
        """`[scopes, rows]` the bits covered by the sites, types and topics of each."""
        columns, tree = self.columns, self.tree
        on_sites = np.ones((len(scopes), self.length), dtype=bool)
        _keep(on_sites, [None if s.sites is None else tree.matching("site", s.sites) for s in scopes], self._sites)
        on_nodes = on_sites.copy()
        types = [None if s.types is None else tree.matching_type(s.types) for s in scopes]
        _keep(on_nodes, types, self.kinds >> 1)
        topics = [None if s.topics is None else tree.matching_topic(s.topics) for s in scopes]
        _keep(on_nodes, topics, self._topics)
        new = np.array([columns.new_within(s) for s in scopes], dtype=columns.dtype)
        masks: Bits = on_nodes * columns.on_nodes
        return masks | on_sites * new[:, None] if new.any() else masks

    @cached_property
    def _sites(self) -> Ints:
        return self._of(self.tree.codes("site"))

    @cached_property
    def _topics(self) -> Ints:
        return self._of(self.tree.codes("topics"))

    @cached_property
    def _places(self) -> list[int]:
        return [] if self.positions is None else self.positions.tolist()

    # -- what narrows --------------------------------------------------------------------------

    def narrowed(self, effect: Narrowing) -> Narrowed:
        """Where limits of an effect narrow somebody here."""
        if effect not in self._narrowed:
            runs, subjects = (
                self.policy_index.limit_runs.on(self.columns, effect),
                self.policy_index.limit_runs.subjects,
            )
            first, last = self.rows_from(runs.start), self.rows_from(runs.end)
            here = first < last
            whose, firsts = np.unique(runs.subject[here], return_index=True)
            edges = [*firsts.tolist(), int(np.count_nonzero(here))]
            places = {subjects[i]: edge for i, edge in zip(whose.tolist(), pairwise(edges), strict=True)}
            self._narrowed[effect] = Narrowed(places, first[here], last[here], runs.bits[here])
        return self._narrowed[effect]

    @cached_property
    def limited(self) -> frozenset[Subject]:
        """Accounts that a stop names here, and accounts and groups that a bar does: these narrow all that they hold."""
        barred, stopped = (self.narrowed(effect).places for effect in (Effect.BAR, Effect.STOP))
        return frozenset((*barred, *(subject for subject in stopped if subject.kind == "account")))

    def in_force(self, subjects: tuple[Subject, ...], effect: Narrowing) -> Bits | None:
        """`[rows]` the bits for which a limit of an effect is in force for any of the subjects; None: nowhere."""
        narrowed = self.narrowed(effect)
        limited = tuple(subject for subject in subjects if subject in narrowed.places)
        if not limited:
            return None
        if (limited, effect) not in self._in_force:
            force = self._in_force[limited, effect] = self.nothing.copy()
            for rows, bits in narrowed.runs(limited):
                force[rows] |= bits
        return self._in_force[limited, effect]

    def narrowing(self, subjects: tuple[Subject, ...], effect: Narrowing) -> Hashable:
        """What limits on some subjects come to here, as something that compares equal."""
        force = self.in_force(subjects, effect)
        return None if force is None else force.tobytes()

    def outside(self, account: Account) -> Bools | None:
        """`[rows]` which nodes lie outside the account's reach; None when it has none."""
        return self._outside(frozenset(account.reach.items())) if account.reach else None

    def _beyond(self, reach: frozenset[tuple[str, frozenset[str]]]) -> Bools:
        outside = np.zeros(self.length, dtype=bool)
        for tree, branches in reach:
            inside = np.zeros(self.length, dtype=bool)
            for rows in self.runs(branches):
                inside[rows] = True
            outside |= self._in_tree(tree) & ~inside
        return outside

    def _in_tree(self, tree: str) -> Bools:
        if tree not in self._trees:
            self._trees[tree] = self._of(self.tree.having("tree", frozenset({tree})))
        return self._trees[tree]

    @cached_property
    def locked(self) -> Bools | None:
        """The nodes with a lock on the whole of them; None when no node has one."""
        here = self._of(self.policy_index.locked)
        return here if here.any() else None

    def close(self, passed: Bits, rows: slice | Ints = ALL_ROWS) -> None:
        """Clear in `passed`, `[..., rows]`, what locks close, and `edit` of published nodes where `edit-live` fails.

        `passed` are those that pass steps 1 to 5.
        """
        columns = self.columns
        if columns.live is not None:
            # The bit of edit-live, moved to that of edit: kept where it is set, and on nodes that are not published.
            kept = passed >> columns.dtype(columns.live)
            kept &= columns.dtype(1)
            kept *= columns.edits
            kept |= ~(self.published[rows] * columns.edits)
            passed &= kept
        if columns.opens is not None and self.locked is not None:
            locked = self.locked[rows].nonzero()[0]
            some = passed[..., locked]
            passed[..., locked] = some & ~(~has(some, columns.opens) * columns.changing)

    # -- whole branches ------------------------------------------------------------------------

    @cached_property
    def branches(self) -> tuple[Ints, Ints, Ints]:
        """The rows with something beneath them, and the positions where the branch of each begins and ends."""
        positions = np.arange(self.length) if self.positions is None else self.positions
        rows = (self.tree.ends[positions] > positions + 1).nonzero()[0]
        return rows, positions[rows], self.tree.ends[positions[rows]]

    @cached_property
    def held(self) -> SubtreeKinds:
        """What the branches of those rows hold."""
        _, starts, ends = self.branches
        kinds, count = self.tree.kinds, 2 * len(self.tree.type_names)
        present = [np.bincount(kinds[i:j], minlength=count) > 0 for i, j in zip(starts, ends, strict=True)]
        branch, kind = np.array(present, dtype=bool).reshape(len(starts), count).nonzero()
        by_kind = np.argsort(kinds, kind="stable")
        along = kinds[by_kind].astype(np.intp) * len(self.tree) + by_kind
        first = by_kind[np.searchsorted(along, kind * len(self.tree) + starts[branch])]
        return SubtreeKinds(np.searchsorted(branch, np.arange(len(starts) + 1)), kind, first)

    def of_runs(self, starts: Ints, ends: Ints) -> "NodeBatch":
        """A batch of some runs of the tree, for `remove` and `move` of each node alone. The last small one is kept."""
        opens = np.zeros(len(self.tree) + 1, dtype=np.intp)
        np.add.at(opens, starts, 1)
        np.add.at(opens, ends, -1)
        within = (np.cumsum(opens[:-1]) > 0).nonzero()[0]
        return self._alone(within) if len(within) > _FEW_ROWS else self._recent(within.tobytes())

    def _alone(self, positions: Ints) -> "NodeBatch":
        return NodeBatch(self.columns.branching, self.policy_index, positions)

    # -- who wrote what ------------------------------------------------------------------------

    @cached_property
    def work(self) -> Work:
        """Which rows each author and group wrote."""
        authors = self.policy_index.authors
        return authors.everything if self.positions is None else authors.work(self._of(self.tree.author_codes))

    def rows_by(self, account: Account) -> Ints:
        """The rows of what the account wrote, ascending."""
        return self.rows_at(self.policy_index.authors.by(account))

    def rows_near(self, account: Account) -> Ints:
        """The rows of what the account, or a direct fellow member of a group, wrote, ascending."""
        return self.rows_at(self.policy_index.authors.near(account))

    def rows_at(self, positions: Ints) -> Ints:
        """The rows of those among some positions of the tree that are on this batch."""
        if self.positions is None:
            return positions
        rows = self.row_of[positions]
        here: Ints = rows[rows >= 0]
        return here

    @cached_property
    def row_of(self) -> Ints:
        """The row of each position of the tree; -1 where it has none."""
        rows = np.full(len(self.tree), -1, dtype=np.intp)
        rows[slice(None) if self.positions is None else self.positions] = np.arange(self.length)
        return rows


def chunks(batch: NodeBatch, holders: int) -> Iterable[slice]:
    """Slices of holders small enough to be evaluated at once on a batch."""
    step = max(1, MOST_CELLS // max(1, batch.length))
    return [slice(first, first + step) for first in range(0, holders, step)]


def _keep(here: Bools, matching: Sequence[Bools | None], codes: Ints) -> None:
    """Clear in `here`, `[scopes, rows]`, the rows whose code does not match, for scopes that name something."""
    depending = [i for i, matches in enumerate(matching) if matches is not None]
    if depending:
        here[depending] &= np.stack([matches for matches in matching if matches is not None])[:, codes]
