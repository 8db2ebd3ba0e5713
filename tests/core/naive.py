"""A second reading of docs/access-rules.md, written straight from the page, one sentence after another.

Slow and plain on purpose: no arrays, no caches, no short cuts, nothing shared with the engine but the
value classes. Where this and the engine disagree, one of them has misread the page.
"""

from dataclasses import replace

from gonfalon.core.model.policy import Period, Policy
from gonfalon.core.model.question import HypotheticalSubject, Question
from gonfalon.core.model.tree import Target, Tree

EXTENTS = {"own": 1, "team": 2, "all": 3, "yes": 3}
CHANGING = ("edit", "publish", "retire", "remove", "move", "restore")


class Naive:
    def __init__(self, policy: Policy, tree: Tree) -> None:
        self.policy, self.tree, self.known = policy, tree, {}

    # -- §1 and §2 -----------------------------------------------------------------------------

    def roles_up(self, role):
        return [role, *(self.roles_up(self.policy.roles[role].builds_on) if self.policy.roles[role].builds_on else [])]

    def groups_up(self, group):
        parent = self.policy.groups[group].parent
        return [group, *(self.groups_up(parent) if parent else [])]

    def says(self, role, capability):
        """A role that says nothing takes what the role it builds on says, and so on up."""
        said = self.policy.roles[role].grants.get(capability)
        if said is None and self.policy.roles[role].builds_on:
            return self.says(self.policy.roles[role].builds_on, capability)
        return said

    def account(self, who):
        return self.policy.accounts[who] if isinstance(who, str) else None

    def member_of(self, who):
        return {g for own in self.direct_groups(who) for g in self.groups_up(own)}

    def direct_groups(self, who):
        if isinstance(who, HypotheticalSubject):
            return set(who.groups)
        account = self.account(who)
        return set(account.groups) if account else set()

    # -- §3 ------------------------------------------------------------------------------------

    def covers(self, scope, target: Target):
        for listed, mine in (
            (scope.sites, {target.site}),
            (scope.branches, set(target.path)),
            (scope.types, {target.type}),
            (scope.topics, set(target.topics)),
        ):
            if listed is not None and not (listed & mine):
                return False
        return True

    def covers_sitewide(self, scope, site, barring):
        if scope.branches is not None or scope.types is not None or scope.topics is not None:
            return False
        if scope.sites is None:
            return True
        if site is None:
            return barring and len(scope.sites) > 0
        return site in scope.sites

    def sources(self, who, at):
        """(id, role or None, answers, scope, group named or None)"""
        found = [("everyone", self.policy.everyone, None, None, None)]
        if who is not None:
            found.append(("signed-in", self.policy.signed_in, None, None, None))
        if isinstance(who, HypotheticalSubject):
            found += [(role, role, None, None, None) for role in who.roles]
            found += [(role, role, None, scope, None) for role, scope in who.scoped]
        for given in [*self.policy.assignments.values(), *self.policy.direct_grants.values()]:
            starts, ends = given.period.starts, given.period.ends
            if (starts and at < starts) or (ends and at >= ends):
                continue
            if given.to.kind == "account" and given.to.id != who:
                continue
            if given.to.kind == "group" and given.to.id not in self.member_of(who):
                continue
            group = given.to.id if given.to.kind == "group" else None
            role = getattr(given, "role", None)
            single = None if role else {given.capability: given.says}
            found.append((given.id, role, single, given.scope, group))
        return found

    def source_says(self, source, capability):
        _, role, single, _, _ = source
        return self.says(role, capability) if role else single.get(capability)

    def source_covers(self, source, target):
        return source[3] is None or self.covers(source[3], target)

    # -- §4 ------------------------------------------------------------------------------------

    def in_force(self, kind, id, action, target: Target):
        noted = False
        for node in reversed(target.path):
            itself = node == target.id
            met = [
                limit.effect.value
                for limit in self.policy.limits.values()
                if limit.node == node
                and (limit.to.kind, limit.to.id) == (kind, id)
                and (limit.actions is None or action in limit.actions)
                and limit.applies in (("node", "branch") if itself else ("beneath", "branch"))
            ]
            if "bar" in met:
                return "bar"
            if "stop" in met:
                noted = True
            elif "lift" in met:
                break
        return "stop" if noted else None

    def is_author(self, who, target):
        if isinstance(who, HypotheticalSubject):
            return who.as_author and target.id is not None
        return who is not None and target.author == who

    def extent_covers(self, who, said, target, action):
        if action == "create" or EXTENTS[said] == 3 or self.is_author(who, target):
            return True
        author = self.policy.accounts.get(target.author or "")
        return said == "team" and author is not None and bool(self.direct_groups(who) & author.groups)

    def steps_3_to_5(self, who, capability, action, target, at, live=False):
        sources = self.sources(who, at)
        kept = [s for s in sources if self.source_covers(s, target)]
        if any(self.source_says(s, capability) == "barred" for s in kept):
            return "barred"
        if not target.profile:
            subjects = [("account", who)] if isinstance(who, str) else []
            subjects += [("group", g) for g in self.member_of(who)]
            subjects += [("role", r) for s in kept if s[1] for r in self.roles_up(s[1])]
            if any(self.in_force(kind, id, action, target) == "bar" for kind, id in subjects):
                return "barred"
        rungs = ["not-granted"]
        for source in sources:
            rungs.append(self.rung(who, source, capability, action, target))
        order = ["not-granted", "out-of-scope", "out-of-extent", "stopped", "top"]
        best = max(rungs, key=order.index)
        if best != "top":
            return "live" if live else best
        if isinstance(who, str) and not target.profile:
            if self.in_force("account", who, action, target) == "stop":
                return "stopped"
            reach = self.account(who).reach.get(target.tree)
            if reach is not None and not (reach & set(target.path)):
                return "out-of-reach"
        return "allowed"

    def rung(self, who, source, capability, action, target):
        said = self.source_says(source, capability)
        if said not in EXTENTS:
            return "not-granted"
        if not self.source_covers(source, target):
            return "out-of-scope"
        if not self.extent_covers(who, said, target, action):
            return "out-of-extent"
        if not target.profile:
            subjects = [("role", r) for r in self.roles_up(source[1])] if source[1] else []
            subjects += [("group", g) for g in self.groups_up(source[4])] if source[4] else []
            if any(self.in_force(kind, id, action, target) == "stop" for kind, id in subjects):
                return "stopped"
        return "top"

    def on_node(self, who, action, target, at):
        account = self.account(who)
        if account and account.state != "active":
            return "inactive"
        if account and account.keyholder:
            return "allowed"
        if "." in action:
            reason = self.steps_3_to_5(who, action, action, target, at)
        elif action == "see" and target.state != "published" and not target.profile:
            reason = self.steps_3_to_5(who, f"{target.type}.see-draft", "see", target, at)
        else:
            reason = self.steps_3_to_5(who, f"{target.type}.{action}", action, target, at)
        if reason != "allowed":
            return reason
        if action == "edit" and target.state == "published" and not target.profile:
            reason = self.steps_3_to_5(who, f"{target.type}.edit-live", "edit", target, at, live=True)
            if reason != "allowed":
                return reason
        if action in CHANGING and not target.profile and self.locked(who, target, None, None, at):
            return "locked"
        return "allowed"

    def locked(self, who, target, field, component, at):
        closing = [
            k
            for k in self.policy.locks.values()
            if k.node == target.id and (k.field, k.component) == (field, component)
        ]
        return bool(closing) and self.steps_3_to_5(who, "locks.open", "locks.open", target, at) != "allowed"

    def plain(self, who, capability, site, at):
        account = self.account(who)
        if account and account.state != "active":
            return "inactive"
        if account and account.keyholder:
            return "allowed"
        opening = self.policy.kind(capability).value == "opening"
        best = "not-granted"
        for source in self.sources(who, at):
            said, scope = self.source_says(source, capability), source[3]
            covered = opening or scope is None or self.covers_sitewide(scope, site, said == "barred")
            if said == "barred" and covered:
                return "barred"
        for source in self.sources(who, at):
            said, scope = self.source_says(source, capability), source[3]
            if said not in EXTENTS:
                continue
            if opening or scope is None or self.covers_sitewide(scope, site, False):
                best = "allowed"
            elif best == "not-granted":
                best = "out-of-scope"
        return best

    # -- §5 ------------------------------------------------------------------------------------

    def field(self, who, verb, target, name, at):
        rule = self.policy.fields.get((target.type, name))
        if rule is None or rule.mode == "open":
            return True
        if rule.mode == "author":
            private = self.steps_3_to_5(who, "fields.private", "fields.private", target, at)
            return verb == "fill" or self.is_author(who, target) or private == "allowed"
        wanted = {"fill"} if verb == "fill" else {f"{verb}-all"}
        if verb != "fill" and self.is_author(who, target):
            wanted.add(f"{verb}-own")
        kept = [s for s in self.sources(who, at) if self.source_covers(s, target) and s[1]]
        return any(wanted & rule.table.get(r, frozenset()) for s in kept for r in self.roles_up(s[1]))

    def reaching(self, who, target, at):
        """The roles of sources that reached the top of step 4 for `T.edit`; None for a direct grant."""
        capability = f"{target.type}.edit"
        return [s[1] for s in self.sources(who, at) if self.rung(who, s, capability, "edit", target) == "top"]

    def may_insert(self, role, component):
        for r in self.roles_up(role) if role else []:
            if self.policy.roles[r].components is not None:
                return component in self.policy.roles[r].components
        return True

    def may_change(self, role, component, facet):
        for r in self.roles_up(role) if role else []:
            if component in self.policy.roles[r].facets:
                return facet in self.policy.roles[r].facets[component]
        return True

    # -- the answer ----------------------------------------------------------------------------

    def answer(self, q: Question) -> str:
        who, target, at = q.who, q.target, q.at
        account = self.account(who)
        whole = {"see-field": "see", "fill-field": "create", "change-field": "edit"}.get(q.action)
        if q.action in ("insert-component", "arrange-component", "change-facet"):
            whole = "edit"
        if whole:
            reason = self.on_node(who, whole, target, at)
            if reason != "allowed" or (account and account.keyholder):
                return reason
            if q.action == "change-field" and not target.profile and self.locked(who, target, q.field, None, at):
                return "locked"
            if "field" in q.action:
                return "allowed" if self.field(who, q.action.split("-")[0], target, q.field, at) else "field"
            closes = q.action != "insert-component" and q.component_id
            if closes and self.locked(who, target, None, q.component_id, at):
                return "locked"
            if q.action == "change-facet":
                may = any(self.may_change(r, q.component, q.facet) for r in self.reaching(who, target, at))
                return "allowed" if may else "facet"
            may = any(self.may_insert(r, q.component) for r in self.reaching(who, target, at))
            return "allowed" if may else "component"
        if "." in q.action and self.policy.kind(q.action).value in ("opening", "sitewide"):
            return self.plain(who, q.action, q.site, at)
        if q.action == "stand-in":
            return self.stand_in(who, q.subject, at)
        if q.action == "hand-out":
            return self.hand_out(who, q.given, at)
        reason = self.on_node(who, q.action, target, at)
        if reason == "allowed" and q.action in ("remove", "move") and target.id:
            for node in self.tree.nodes:
                path = self.tree.path(node.id)
                if target.id in path[:-1] and reason == "allowed":
                    reason = self.on_node(who, q.action, self.tree.target(node.id), at)
        if reason == "allowed" and q.to is not None:
            new = Target(None, q.to.path, target.type, q.to.tree, q.to.site, None, None, target.topics)
            reason = self.on_node(who, "create", new, at)
        return reason

    # -- §7 ------------------------------------------------------------------------------------

    def stand_in(self, actor, subject, at):
        if isinstance(actor, HypotheticalSubject):
            actor = replace(actor, as_author=False)  # "not for create, fill-field and stand-in"
        reason = self.plain(actor, "impersonate.start", None, at)
        if reason != "allowed":
            return reason
        account, mine = self.account(subject), self.account(actor)
        if account and account.state != "active":
            return "inactive"
        if actor == subject and not isinstance(actor, HypotheticalSubject):
            return "beyond"
        if mine and mine.keyholder:
            return "allowed"
        if account and account.keyholder:
            return "beyond"
        return "beyond" if self.yeses(subject, at) - self.yeses(actor, at) else "allowed"

    def stand_in_under(self, other, actor, subject, at, then):
        """The same with the subject as they would be, under another policy and at another time."""
        reason = self.plain(actor, "impersonate.start", None, at)
        if reason != "allowed":
            return reason
        account, mine = other.account(subject), self.account(actor)
        if account and account.state != "active":
            return "inactive"
        if actor == subject:
            return "beyond"
        if mine and mine.keyholder:
            return "allowed"
        if account and account.keyholder:
            return "beyond"
        return "beyond" if other.yeses(subject, then) - self.yeses(actor, at) else "allowed"

    def yeses(self, who, at):
        """The questions of §7's list that are answered yes, by their places in it."""
        if (who, at) not in self.known:
            asked = enumerate(self.list_of_7(who, at))
            self.known[who, at] = {i for i, q in asked if self.answer(q) == "allowed"}
        return self.known[who, at]

    def list_of_7(self, who, at):
        types = {key: t for key, t in self.policy.types.items() if key != "account"}
        actions = ["see", "edit", "publish", "retire", "remove", "move", "history", "restore", *self.policy.placed]
        for node in self.tree.nodes:
            target = self.tree.target(node.id)
            for action in actions:
                yield Question(who, action, target, at)
            copies = [target]
            if node.state == "published":  # what is asked of a working copy is asked as of a draft
                copies.append(replace(target, state="draft"))
                yield from (Question(who, action, copies[1], at) for action in ("see", "edit"))
            for type in sorted(types):
                if types[type].tree == node.tree:
                    new = Target(None, target.path, type, target.tree, target.site, None, None, frozenset())
                    yield Question(who, "create", new, at)
                    for field in types[type].fields:
                        yield Question(who, "fill-field", new, at, field=field)
            for target in copies:
                for field in types[node.type].fields:
                    yield Question(who, "see-field", target, at, field=field)
                    yield Question(who, "change-field", target, at, field=field)
                for component, facets in sorted(self.policy.components.items()):
                    yield Question(who, "insert-component", target, at, component=component)
                    for facet in facets:
                        yield Question(who, "change-facet", target, at, component=component, facet=facet)
        for capability in self.policy.plain:
            yield Question(who, capability, at=at)
            if self.policy.kind(capability).value == "sitewide":
                for site in sorted(self.policy.sites):
                    yield Question(who, capability, at=at, site=site)
        for account in self.policy.accounts:
            target = Target(account, (), "account", author=account)
            for action in actions:
                yield Question(who, action, target, at)
            for field in self.policy.types["account"].fields:
                yield Question(who, "see-field", target, at, field=field)
                yield Question(who, "change-field", target, at, field=field)

    # -- §9 ------------------------------------------------------------------------------------

    def hand_out(self, actor, given, at):
        account, receiver = self.account(actor), given.to.id
        if account and account.state != "active":
            return "inactive"
        if account and account.keyholder:
            return "allowed"
        if "roles.assign" in self.policy.capabilities and self.plain(actor, "roles.assign", None, at) == "allowed":
            return "allowed"
        fitting = [d for d in self.policy.delegations.values() if self.delegates(d, actor, given, at)]
        if actor == receiver or not fitting:
            return "not-delegated"
        for capability in {c for role in self.roles_up(given.role) for c in self.policy.roles[role].grants}:
            extent = EXTENTS.get(self.says(given.role, capability), 0)
            if extent and not self.given_as_far(actor, capability, extent, given.scope, at):
                return "beyond"
        begun = replace(given, period=Period())
        after = Naive(replace(self.policy, assignments={**self.policy.assignments, given.id: begun}), self.tree)
        turned = after.yeses(receiver, at) - self.yeses(receiver, at)
        if isinstance(actor, HypotheticalSubject):
            actor = replace(actor, as_author=False)
        return "beyond" if turned - self.yeses(actor, at) else "allowed"

    def delegates(self, d, actor, given, at):
        if d.ends is not None and not at < d.ends:
            return False
        held = {role for _, role, *_ in self.sources(actor, at)}
        named = {
            "account": d.to.id == actor,
            "group": d.to.id in self.member_of(actor),
            "role": d.to.id in held,
        }[d.to.kind]
        to_receiver = d.receivers is None or d.receivers in self.member_of(given.to.id)
        ends = given.period.ends
        no_sooner = d.ends is None or (ends is not None and d.ends >= ends)
        return named and given.role in d.roles and to_receiver and no_sooner and self.lies_within(given.scope, d.scope)

    def given_as_far(self, actor, capability, extent, scope, at):
        for source in self.sources(actor, at):
            said = EXTENTS.get(self.source_says(source, capability), 0)
            enough = said > 0 if capability.endswith(".create") else said >= extent
            if enough and (source[3] is None or self.lies_within(scope, source[3])):
                return True
        return False

    def lies_within(self, inner, outer):
        for mine, theirs in ((inner.sites, outer.sites), (inner.types, outer.types), (inner.topics, outer.topics)):
            if theirs is not None and (mine is None or mine - theirs):
                return False
        if outer.branches is None:
            return True
        if inner.branches is None:
            return False
        return all(outer.branches & set(self.tree.path(branch)) for branch in inner.branches)
