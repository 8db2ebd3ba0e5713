"""What somebody holds, ready to be asked about: their sources, with scopes and limits compiled (§4)."""

from collections.abc import Mapping
from typing import NamedTuple

from gonfalon.core.decide.grants import GrantSource, SubjectGrants
from gonfalon.core.decide.limits import LimitIndex
from gonfalon.core.decide.location import BarredBranches, Branches, CompiledScope, LimitedSubjects
from gonfalon.core.model.policy import Scope, Subject
from gonfalon.core.model.tree import Tree
from gonfalon.core.model.vocabulary import Reason


class CompiledSource(NamedTuple):
    """A source ready to be asked; `scope` None covers everything, `limited` None is stopped nowhere.

    `extents` has what it gives, by capability, and `barred` what it bars. `limit_bars` are its roles, where a limit
    bars something for any of them.
    """

    source: GrantSource
    extents: Mapping[str, int]
    barred: frozenset[str]
    scope: CompiledScope | None
    limited: LimitedSubjects | None
    limit_bars: LimitedSubjects | None


class CompiledSubject:
    """An account, a visitor or a hypothetical subject, as the evaluator asks about it.

    `decided` is the answer to everything, where steps 1 and 2 have one.
    """

    __slots__ = (
        "barred_branches",
        "barring",
        "changes",
        "decided",
        "grants",
        "limit_bars",
        "own",
        "reach",
        "sources",
    )

    def __init__(self, grants: SubjectGrants, compiler: "Compiler") -> None:
        self.grants = grants
        self.decided = Reason.INACTIVE if not grants.active else Reason.ALLOWED if grants.keyholder else None
        self.changes = grants.starts is not None or grants.ends is not None
        """Whether something else is held at some other time."""
        self.sources: list[CompiledSource] = []
        self.barring: list[CompiledSource] = []
        """Those of them that bar anything."""
        self.limit_bars: list[tuple[LimitedSubjects, CompiledScope | None]] = []
        """Subjects that a limit bars something for, each counting where the scope covers."""
        self.own: LimitedSubjects | None = None
        """The account itself, where a limit names it."""
        self.reach: dict[str, Branches] = {}
        if self.decided is None:
            self._compile(compiler)

    def _compile(self, compiler: "Compiler") -> None:
        grants = self.grants
        if limited := compiler.barred(grants.subjects):
            self.limit_bars.append((limited, None))
        self.sources = [compiler.source(source) for source in grants.sources]
        self.barring = [compiled for compiled in self.sources if compiled.barred]
        self.limit_bars += [(each.limit_bars, each.scope) for each in self.sources if each.limit_bars is not None]
        if self.limit_bars:
            every = [subject for limited, _ in self.limit_bars for subject in limited.subjects]
            self.barred_branches = BarredBranches(every, compiler.limits)
        if grants.account is not None:
            self.reach = {tree: Branches(branches, compiler.tree) for tree, branches in grants.account.reach.items()}
            self.own = compiler.limited(grants.subjects[:1])


class Compiler:
    """Keeps what several subjects share: sources, equal scopes, and equal subjects of limits."""

    def __init__(self, limits: LimitIndex, tree: Tree) -> None:
        self.limits, self.tree = limits, tree
        self._scopes: dict[Scope, CompiledScope | None] = {Scope(): None}
        self._limited: dict[tuple[Subject, ...], LimitedSubjects | None] = {}
        self._sources: dict[GrantSource, CompiledSource] = {}

    def source(self, source: GrantSource) -> CompiledSource:
        """A source, one object for all who hold it."""
        compiled = self._sources.get(source)
        if compiled is None:
            resolved, scope = source.resolved, self.scope(source.scope)
            limited, bars = self.limited(source.subjects), self.barred(resolved.subjects)
            compiled = CompiledSource(source, resolved.extents, resolved.barred, scope, limited, bars)
            self._sources[source] = compiled
        return compiled

    def scope(self, scope: Scope) -> CompiledScope | None:
        """A scope, or None where it restricts nothing."""
        if scope not in self._scopes:
            self._scopes[scope] = CompiledScope(scope, self.tree)
        return self._scopes[scope]

    def limited(self, subjects: tuple[Subject, ...]) -> LimitedSubjects | None:
        """Those of some subjects that a limit names, or None when there are none."""
        if subjects not in self._limited:
            named = tuple(subject for subject in subjects if self.limits.limited(subject))
            self._limited[subjects] = LimitedSubjects(named, self.limits) if named else None
        return self._limited[subjects]

    def barred(self, subjects: tuple[Subject, ...]) -> LimitedSubjects | None:
        """The same where a limit bars something for any of them, else None."""
        return self.limited(subjects) if any(self.limits.bars(subject) for subject in subjects) else None
