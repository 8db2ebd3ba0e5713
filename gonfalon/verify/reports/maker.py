"""What a report tells, as far as its maker may know: of a branch, a role, a person, a group, or everything.

    report = Maker(viewpoint, reader).about("branch", "pier-3")

Its sentences are in the language of docs/sentences.md, but where they would name what is out of sight: of that a
report tells only that it leaves it out.
"""

from collections.abc import Iterator

from gonfalon.access.models import Role
from gonfalon.core import Question
from gonfalon.core.checks.who import active_accounts, through
from gonfalon.core.decide.grants import RoleResolver
from gonfalon.core.decide.outcome import Outcomes
from gonfalon.core.model.bits import Bools
from gonfalon.core.model.policy import Subject
from gonfalon.core.model.question import Finding
from gonfalon.core.model.vocabulary import ACTIONS, BARRED, WITHHELD
from gonfalon.core.sentences.changes import Answer, FieldRow
from gonfalon.core.sentences.questions import VERBS
from gonfalon.core.sentences.writing import time_words
from gonfalon.verify.models import WalkList
from gonfalon.verify.reports.parts import Report, Row, Section
from gonfalon.verify.reports.telling import EVERYBODY, Telling, may
from gonfalon.verify.reports.walked import walked
from gonfalon.verify.walks.ticks import standing

FIRST = ("edit", "publish", "retire", "remove", "move", "restore", "history", "see")
"""What is told of a branch, in this order, before the duties."""
FEW = 6
"""So many pages are named one by one, where no shorter sentence says the same."""


class Maker(Telling):
    """Makes one report."""

    def about(self, kind: str, id: str) -> Report:
        """The report. What it is about has to be in sight."""
        of = {"branch": self._branch, "role": self._role, "account": self._account, "group": self._group}
        report = of[kind](id) if kind in of else self._everything()
        report.left_out = [*report.left_out, *self.left_out]
        return report

    # -- a branch ------------------------------------------------------------------------------

    def _branch(self, branch: str) -> Report:
        tree = self.engine.tree
        seen = [n.id for n in tree.nodes[tree.branch(branch)] if n.id in self.reader.sight.nodes]
        if len(seen) < len(range(*tree.branch(branch).indices(len(tree)))):
            self.left_out["Pages that its maker does not see."] = None
        actions = [*FIRST, *(c for c in self.policy.placed if self._names("placed", c))]
        everyone = active_accounts(self.policy)
        report = Report(f"Who can do what in {self._name('node', branch)}", [(len(seen), "pages")])
        nobody = []
        for i, action in enumerate(actions):
            self._count(i, len(actions) + 1)
            may = self.engine.survey(everyone, seen, [action], self.at)[:, :, 0]
            counts = may.sum(axis=1).tolist()
            able = [(who, row) for row, who in enumerate(everyone) if counts[row]]
            verb = VERBS[action].removesuffix(" of") if action in VERBS else self._name("placed", action)
            if action in ("edit", "publish"):
                report.facts.append((len(able), f"can {verb} something"))
            if not able:
                nobody.append(verb)
                continue
            rows = [self._able(who, action, branch, seen, may[row]) for who, row in able]
            columns = ("Who", "How much", "Because")
            report.sections.append(Section(f"Who can {verb}", columns, _those_of_everybody_together(rows)))
        if nobody:
            report.sections.append(Section("What nobody can", words=f"{', '.join(nobody)}: keyholders alone."))
        return self._with_expectations(report, lambda q: self._lies_in(q, branch))

    def _able(self, who: str, action: str, branch: str, nodes: list[str], may: Bools) -> Row:
        allowed = [node for node, yes in zip(nodes, may.tolist(), strict=True) if yes]
        first = Question(who, action, self.engine.tree.target(allowed[0]), self.at)
        because = through(self.engine, first)
        much = f"all {len(nodes)}" if len(allowed) == len(nodes) else f"{len(allowed)} of {len(nodes)}"
        held = "; ".join(dict.fromkeys(map(self._held, because)))
        cloths = list(dict.fromkeys(f.role for f in because if f.role))
        return Row(
            (self._name("account", who), much, held), list(self._said(who, action, branch, nodes, allowed)), cloths
        )

    def _said(self, who: str, action: str, branch: str, nodes: list[str], allowed: list[str]) -> Iterator[str]:
        """The answers as the shortest sentences that say just them."""
        tree = self.engine.tree
        whole = range(*tree.branch(branch).indices(len(tree)))
        asked = {"account": who, "action": action}
        if len(allowed) == len(whole):
            yield self.expected({**asked, "branch": branch})
            return
        own = [node for node in nodes if tree.nodes[tree.index[node]].author == who]
        if len(nodes) == len(whole) and allowed == own:
            yield self.expected({**asked, "branch": branch, "whose": "own"})
            return
        for node in allowed[:FEW]:
            yield self.expected({**asked, "node": node})
        if len(allowed) > FEW:
            yield f"And so on {len(allowed) - FEW} more."

    def _held(self, finding: Finding) -> str:
        """Through what somebody is given something."""
        given = self.policy.assignments.get(finding.id) or self.policy.direct_grants.get(finding.id)
        role = self._name("role", finding.role) if finding.role else "a single capability"
        by = f" through {self._name('group', finding.group)}" if finding.group else ""
        if given is None:
            return f"{role}, {EVERYBODY}"
        ends = f", until {time_words(given.period.ends)}" if given.period.ends else ""
        return f"{role}{by}, {self._where(given)}{ends}"

    # -- a role --------------------------------------------------------------------------------

    def _role(self, role: str) -> Report:
        name = self._name("role", role)
        holders = self.viewpoint.snapshot.holders(self.at).accounts_of(role)
        report = Report(f"What holders of {name} can do", [(len(holders), "people hold it")])
        outcomes = Outcomes(RoleResolver(self.policy), role)
        given, never = Section("What they may", ("What", "Comes from")), Section("What they may never", ("What",))
        for capability in self.viewpoint.catalogue.capabilities():
            outcome = outcomes.of(capability)
            if outcome.says is None or outcome.says == WITHHELD:
                continue
            what = self._capability(capability)
            says = "all" if capability.endswith(".create") and outcome.says != BARRED else outcome.says
            sentence = self._change(Answer(role, capability, says))
            by = self._name("role", outcome.by) if outcome.by else ""
            if outcome.says == BARRED:
                never.rows.append(Row((what,), [sentence]))
            else:
                given.rows.append(Row((what, by), [sentence], [outcome.by] if outcome.by else []))
        report.facts.append((len(given.rows), "things it gives"))
        report.sections += [section for section in (given, never) if section.rows]
        report.sections += self._narrowed(Subject.role(role))
        report.sections += self._rows_of_fields(role)
        held = [a for a in self.policy.assignments.values() if a.role == role and a.period.active(self.at)]
        report.sections.append(self._assignments("Who holds it", held))
        self._with_walk(role, report)
        return self._with_expectations(report, lambda q: q.get("holders_of") == role)

    @property
    def _tells_walks(self) -> bool:
        """What was tried is told of what is in force now, and to whoever keeps expectations."""
        return self.viewpoint is self.reader and may(self.reader, "expectations.keep")

    def _proved(self) -> dict[str, str]:
        """How much of each role that has a walk list is proved, in words."""
        lists = list(WalkList.objects.all()) if self._tells_walks else []
        ticks = standing(lists, self.reader) if lists else {}
        proved = {row.role: sum(tick.as_said for tick in ticks[row.id].values()) for row in lists}
        return {row.role: f"{proved[row.role]} of {len(row.items)}" for row in lists}

    def _with_walk(self, role: str, report: Report) -> None:
        """What of it was tried."""
        if self._tells_walks and (told := walked(role, self)) is not None:
            section, proved, items = told
            report.facts.append((proved, f"of {items} things to try are proved"))
            report.sections += [section] if section.rows else []

    def _rows_of_fields(self, role: str) -> list[Section]:
        section = Section("Fields with a table", ("Field", "Of"))
        for (type, field), rule in self.policy.fields.items():
            if rule.mode == "table" and (self._names("kind", type) and self._names("field", field)):
                marks = rule.table.get(role, frozenset())
                sentence = self._change(FieldRow(type, field, role, marks))
                section.rows.append(Row((self._name("field", field), self._name("kind", type)), [sentence]))
        return [section] if section.rows else []

    # -- people --------------------------------------------------------------------------------

    def _account(self, account: str) -> Report:
        name = self._name("account", account)
        report = Report(f"What {name} can do")
        held = self.policy.accounts[account]
        if held.keyholder:
            report.sections.append(Section("Keyholder", words=f"{name} is a keyholder, and may do everything."))
        if held.state != "active":
            report.sections.append(
                Section("Not active", words=f"The account of {name} is {held.state}: it may nothing.")
            )
        subjects = [Subject.account(account), *map(Subject.group, sorted(self.policy.all_groups(held)))]
        report.sections.append(self._assignments("What they hold", self._given_to(subjects)))
        report.sections += self._grants(subjects)
        report.sections.append(self._answers(account, report))
        report.sections += [section for subject in subjects for section in self._narrowed(subject)]
        return self._with_expectations(report, lambda q: q.get("account") == account)

    def _answers(self, account: str, report: Report) -> Section:
        """How many of the pages in sight they can do something with, and which duties they have."""
        section = Section("What they can do", ("What", "How much"))
        nodes = [n.id for n in self.engine.tree.nodes if n.id in self.reader.sight.nodes]
        actions = [action for action in ACTIONS if action != "create"]
        may = self.engine.survey([account], nodes, actions, self.at)[0] if nodes else None
        for i, action in enumerate(actions):
            self._count(i, len(actions) + 1)
            able = 0 if may is None else int(may[:, i].sum())
            if able and may is not None:
                allowed = {node for node, yes in zip(nodes, may[:, i].tolist(), strict=True) if yes}
                said = list(self._said_everywhere(account, action, nodes, allowed))
                section.rows.append(Row((VERBS[action], f"{able} of {len(nodes)} pages"), said))
            if action in ("edit", "publish"):
                report.facts.append((able, f"pages they can {VERBS[action]}"))
        for duty in self.policy.plain:
            if self._names("duty", duty) and self.engine.decide(Question(account, duty, at=self.at)).allow:
                sentence = self.expected({"account": account, "action": duty})
                section.rows.append(Row((self._name("duty", duty), "yes"), [sentence]))
        return section

    def _said_everywhere(self, who: str, action: str, nodes: list[str], allowed: set[str]) -> Iterator[str]:
        """The answers for every page in sight, said of one tree after the other."""
        tree = self.engine.tree
        for root in (node.id for node in tree.nodes if node.parent is None):
            beneath = {node.id for node in tree.nodes[tree.branch(root)]}
            seen = [node for node in nodes if node in beneath]
            if can := [node for node in seen if node in allowed]:
                yield from self._said(who, action, root, seen, can)

    def _group(self, group: str) -> Report:
        members = [
            account.id
            for account in self.policy.accounts.values()
            if group in self.policy.all_groups(account) and account.state == "active"
        ]
        known = [id for id in members if id in self.reader.sight.people]
        name = self._name("group", group)
        report = Report(f"What members of {name} can do", [(len(members), "members")])
        subjects = [Subject.group(key) for key in self.policy.group_chain(group)]
        report.sections.append(self._assignments("What they are given", self._given_to(subjects)))
        report.sections += self._grants(subjects)
        report.sections += [section for subject in subjects for section in self._narrowed(subject)]
        rows = sorted((Row((self._name("account", id),)) for id in known), key=lambda row: row.cells[0])
        report.sections.append(Section("Members", ("Who",), rows))
        return self._with_expectations(report, lambda q: q.get("members_of") == group)

    # -- everything ----------------------------------------------------------------------------

    def _everything(self) -> Report:
        holders, everyone = self.viewpoint.snapshot.holders(self.at), active_accounts(self.policy)
        report = Report("Who can do what", [(len(everyone), "people at work"), (len(self.policy.roles), "roles")])
        roles, proved = Section("Roles", ("Role", "Held by", "Proved")), self._proved()
        for key in Role.objects.values_list("key", flat=True):
            if self._names("role", key):
                cells = (self._name("role", key), str(len(holders.accounts_of(key))), proved.get(key, ""))
                roles.rows.append(Row(cells, (), [key]))
        report.sections.append(roles)
        held = [a for a in self.policy.assignments.values() if a.period.active(self.at)]
        report.sections.append(self._assignments("Who holds what", held))
        duties = Section("Duties of the whole site", ("Duty", "Who"))
        for i, duty in enumerate(self.policy.plain):
            self._count(i, len(self.policy.plain) + 1)
            if not self._names("duty", duty):
                continue
            able = [who for who in everyone if self.engine.decide(Question(who, duty, at=self.at)).allow]
            if len(able) == len(everyone):
                continue
            names = sorted(self._name("account", who) for who in able)
            sentences = [self.expected({"account": who, "action": duty}) for who in able]
            duties.rows.append(Row((self._name("duty", duty), ", ".join(names) or "keyholders alone"), sentences))
        report.sections.append(duties)
        keyholders = sorted(
            self._name("account", a.id) for a in self.policy.accounts.values() if a.keyholder and a.state == "active"
        )
        report.sections.append(Section("Keyholders", words=f"{', '.join(keyholders)}: they may do everything."))
        return self._with_expectations(report, lambda q: True)

    def _lies_in(self, question: dict[str, object], branch: str) -> bool:
        tree = self.engine.tree
        place = question.get("branch") or question.get("node")
        return isinstance(place, str) and place in tree and branch in tree.path(place)


def _those_of_everybody_together(rows: list[Row]) -> list[Row]:
    """The rows by name; those who can what everybody can are one row, the last."""
    every: dict[tuple[str, ...], list[Row]] = {}
    for row in rows:
        everybody = row.cells[2].endswith(EVERYBODY)
        every.setdefault(row.cells[1:] if everybody else row.cells, []).append(row)
    alone = [some[0] for some in every.values() if len(some) == 1]
    together = []
    for first, *others in (some for some in every.values() if len(some) > 1):
        said = [sentence for row in (first, *others) for sentence in row.sentences]
        together.append(Row((f"{len(others) + 1} people", *first.cells[1:]), said, first.cloths))
    return [*sorted(alone, key=lambda row: row.cells), *together]
