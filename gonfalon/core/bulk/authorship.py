"""Who wrote which nodes, themselves or as a direct member of a group (§2), for many accounts at once.

authors = Authors(policy.accounts, tree)
authors.near(account)                       # ascending positions of what the account or its team wrote
authors.work(tree.author_codes)             # a Work: by author, and by group, the rows they wrote
"""

from collections.abc import Mapping, Sequence
from functools import cached_property
from itertools import chain
from typing import NamedTuple

import numpy as np

from gonfalon.core.model.bits import Ints, expand_ranges, join_sorted, stable_argsort
from gonfalon.core.model.policy import Account
from gonfalon.core.model.tree import Tree


class Work(NamedTuple):
    """Two pairs of parallel columns, the first of each ascending.

    `author` and `by_author`: the number of an author, and a row it wrote. `group` and `by_group`: the number of a
    group, and a row that a direct member of it wrote.
    """

    author: Ints
    by_author: Ints
    group: Ints
    by_group: Ints


class Numbered(NamedTuple):
    """Some accounts by their numbers: `author` (-1: wrote nothing), and pairs of an account and a group it is in.

    `member` is a place among the accounts, ascending; `group` the number of the group.
    """

    author: Ints
    member: Ints
    group: Ints

    def some(self, which: Ints) -> "Numbered":
        """Some of the accounts, in that order."""
        edges = np.searchsorted(self.member, np.arange(len(self.author) + 1))
        member, pairs = expand_ranges(edges[which], edges[which + 1])
        return Numbered(self.author[which], member, self.group[pairs])


class Authors:
    """The work of each author and of the direct members of each group, as ascending positions of a tree."""

    def __init__(self, accounts: Mapping[str, Account], tree: Tree) -> None:
        self.accounts, self.tree = accounts, tree
        self._near: dict[str, Ints] = {}
        self._numbers_of: dict[frozenset[str], tuple[int, ...]] = {}

    def by(self, account: Account) -> Ints:
        """What the account wrote."""
        return self.tree.by_author(account.id)

    def near(self, account: Account) -> Ints:
        """What the account, or a direct fellow member of one of its groups, wrote."""
        if account.id not in self._near:
            work, groups = self.everything, self.numbered([account]).group
            first, last = (np.searchsorted(work.group, groups, side) for side in ("left", "right"))
            of_groups = (work.by_group[i:j] for i, j in zip(first, last, strict=True))
            self._near[account.id] = np.unique(np.concatenate((self.by(account), *of_groups)))
        return self._near[account.id]

    def near_to(self, whose: Numbered) -> tuple[Ints, Ints]:
        """Pairs of an author's number and the place of an account that is that author, or a direct fellow member."""
        edges, groups = self._groups_of
        own = (whose.author >= 0).nonzero()[0]
        by_group = stable_argsort(groups)
        fellow, pair = join_sorted(whose.group, groups[by_group])
        authors = np.repeat(np.arange(len(edges) - 1), np.diff(edges))[by_group[pair]]
        return np.concatenate((whose.author[own], authors)), np.concatenate((own, whose.member[fellow]))

    def work(self, codes: Ints) -> Work:
        """The work on some rows, by the number of each row's author as `Tree.author_codes` has it."""
        order = stable_argsort(codes)
        order = order[np.searchsorted(codes[order], 0) :]
        author = codes[order]
        edges, groups = self._groups_of
        row, at = expand_ranges(edges[author], edges[author + 1])
        group = groups[at]
        by_group = stable_argsort(group)
        return Work(author, order, group[by_group], order[row[by_group]])

    def numbered(self, accounts: Sequence[Account | None]) -> Numbered:
        """The numbers that the work of some accounts, and of their groups, goes by."""
        authors = self.tree.authors
        author = [-1 if account is None else authors.get(account.id, -1) for account in accounts]
        each = [() if account is None else self._numbers(account.groups) for account in accounts]
        member = np.repeat(np.arange(len(each)), [len(some) for some in each])
        return Numbered(np.array(author, dtype=np.intp), member, np.array([*chain(*each)], dtype=np.intp))

    @cached_property
    def everything(self) -> Work:
        """The work on the whole tree."""
        return self.work(self.tree.author_codes)

    def _numbers(self, groups: frozenset[str]) -> tuple[int, ...]:
        """The numbers of those of some groups that an author is in."""
        numbers = self._numbers_of.get(groups)
        if numbers is None:
            some = [self._groups[group] for group in groups if group in self._groups]
            numbers = self._numbers_of[groups] = tuple(some)
        return numbers

    @cached_property
    def _groups(self) -> dict[str, int]:
        """A number for each group that an author is in."""
        known = (self.accounts[author] for author in self.tree.authors if author in self.accounts)
        return {group: i for i, group in enumerate(dict.fromkeys(group for who in known for group in who.groups))}

    @cached_property
    def _groups_of(self) -> tuple[Ints, Ints]:
        """Where the groups of each author begin and end, by its number, and the groups one after the other."""
        known = (self.accounts.get(author) for author in self.tree.authors)
        each = [[] if who is None else [self._groups[group] for group in who.groups] for who in known]
        edges = np.cumsum([0, *(len(groups) for groups in each)], dtype=np.intp)
        return edges, np.array([*chain(*each)], dtype=np.intp)
