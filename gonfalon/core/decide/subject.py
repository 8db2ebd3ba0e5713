"""What somebody holds, ready to be asked about: sources by the capability they speak of, and limits on them (§4)."""

from typing import NamedTuple

from gonfalon.core.decide.grants import GrantSource, SubjectGrants
from gonfalon.core.decide.limits import LimitIndex
from gonfalon.core.decide.location import BarredBranches, Branches, CompiledScope, LimitedSubjects
from gonfalon.core.model.policy import Scope, Subject
from gonfalon.core.model.tree import Tree
from gonfalon.core.model.vocabulary import BARRED, Reason


class CompiledSource(NamedTuple):
    """A source as it speaks of one capability; `scope` None covers everything, `limited` None is stopped nowhere.

    `extent` is 0 where it gives nothing, since it says `withheld` or `barred`.
    """

    source: GrantSource
    extent: int
    scope: CompiledScope | None
    limited: LimitedSubjects | None


class About(NamedTuple):
    """The sources that say anything about one capability, `withheld` included, and those of them that bar it."""

    sources: tuple[CompiledSource, ...]
    barring: tuple[CompiledSource, ...]


class CompiledSubject:
    """An account, a visitor or a hypothetical subject, as the evaluator asks about it.

    `decided` is the answer to everything, where steps 1 and 2 have one.
    """

    __slots__ = (
        "_about",
        "_compiler",
        "barred_branches",
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
        self.sources: list[tuple[GrantSource, CompiledScope | None]] = []
        self._about: dict[str, About] = {}
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
        for source in grants.sources:
            scope = compiler.scope(source.scope)
            self.sources.append((source, scope))
            if limited := compiler.barred(source.resolved.subjects):
                self.limit_bars.append((limited, scope))
        every = [subject for limited, _ in self.limit_bars for subject in limited.subjects]
        self.barred_branches = BarredBranches(every, compiler.limits)
        if grants.account is not None:
            self.reach = {tree: Branches(branches, compiler.tree) for tree, branches in grants.account.reach.items()}
            self.own = compiler.limited(grants.subjects[:1])
        self._compiler = compiler

    def about(self, capability: str) -> "About":
        """What the sources say about a capability; worked out when first asked."""
        about = self._about.get(capability)
        if about is None:
            about = self._about[capability] = self._compiled_about(capability)
        return about

    def _compiled_about(self, capability: str) -> "About":
        every, barring = [], []
        for source, scope in self.sources:
            statement = source.statements.get(capability)
            if statement is not None:
                limited = self._compiler.limited(source.subjects)
                every.append(CompiledSource(source, int(statement.extent), scope, limited))
                if statement.says == BARRED:
                    barring.append(every[-1])
        return About(tuple(every), tuple(barring))


class Compiler:
    """Compiles subjects, and keeps what several of them share: equal scopes, and equal subjects of limits."""

    def __init__(self, limits: LimitIndex, tree: Tree) -> None:
        self.limits, self.tree = limits, tree
        self._scopes: dict[Scope, CompiledScope | None] = {Scope(): None}
        self._limited: dict[tuple[Subject, ...], LimitedSubjects | None] = {}

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
