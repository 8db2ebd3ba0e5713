"""What has been said about access, as rows. `snapshot` reads them into a policy (§1).

Node ids are kept as plain strings: nodes belong to the content app, above this one.
"""

from django.db import models

from gonfalon.accounts.models import Account, Group
from gonfalon.clock import new_id, now
from gonfalon.ids import LONGEST_ID, IdField


class PolicyVersion(models.Model):
    """A single row, raised with every change to access, locked while one is applied."""

    number = models.PositiveBigIntegerField(default=0)
    demands = models.JSONField(default=dict)
    """What people must have when they come: a second factor of holders of `roles`, or of anything `risky`; `fields`."""

    def when_held(self) -> None:
        """Whoever may raise it keeps what they change."""
        from gonfalon.access.policy_changes import watch

        watch()


class PolicyChange(models.Model):
    """What one version of the policy changed: [kind, key, was, now] for each entry, as policy documents write it (§8).

    None where that is not kept.
    """

    version = models.PositiveBigIntegerField(primary_key=True)
    at = models.DateTimeField(db_index=True)
    changes = models.JSONField(null=True)


class Role(models.Model):
    """A named bundle of answers, with the cloth that marks it everywhere."""

    class Baseline(models.TextChoices):
        NONE = ""
        EVERYONE = "everyone"
        SIGNED_IN = "signed-in"

    key = IdField(primary_key=True)
    name = models.CharField(max_length=80, unique=True)
    description = models.CharField(max_length=300, blank=True)
    builds_on = models.ForeignKey("self", null=True, on_delete=models.PROTECT, related_name="built_on_by")
    baseline = models.CharField(max_length=10, choices=Baseline.choices, default=Baseline.NONE, blank=True)
    colour = models.CharField(max_length=10)
    pattern = models.CharField(max_length=10)
    position = models.PositiveIntegerField(default=0)
    components = models.JSONField(null=True)
    facets = models.JSONField(default=dict)
    shipped = models.JSONField(null=True)
    """What it said when it came with the site, by capability; null for roles that were made here."""
    shipped_lists = models.JSONField(null=True)
    """What role it built on then, and its lists of components and facets; null where that is not known."""
    start = models.JSONField(null=True)
    """The parts of the start page that its holders see, in order; null says nothing."""
    version = models.PositiveIntegerField(default=1)

    class Meta:
        ordering = ["position", "name"]

    def __str__(self) -> str:
        return self.name


class Answer(models.Model):
    """What a role says about one capability."""

    role = models.ForeignKey(Role, on_delete=models.CASCADE, related_name="answers")
    capability = IdField()
    says = models.CharField(max_length=10)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["role", "capability"], name="one_answer")]


class Given(models.Model):
    """What assignments and direct grants share: to whom, where (§3), from when, until when."""

    id = IdField(primary_key=True, default=new_id, editable=False)
    account = models.ForeignKey(Account, null=True, on_delete=models.PROTECT, related_name="+")
    group = models.ForeignKey(Group, null=True, on_delete=models.PROTECT, related_name="+")
    scope = models.JSONField(default=dict)
    starts = models.DateTimeField(null=True)
    ends = models.DateTimeField(null=True)
    given_by = IdField(null=True)
    given_at = models.DateTimeField(default=now)

    class Meta:
        abstract = True


class Assignment(Given):
    role = models.ForeignKey(Role, on_delete=models.PROTECT, related_name="assignments")


class DirectGrant(Given):
    capability = IdField()
    says = models.CharField(max_length=10)


class Delegation(models.Model):
    """Lets a role, a group or an account give some roles to the members of a group, or to anyone (§9)."""

    id = IdField(primary_key=True, default=new_id, editable=False)
    subject_kind = models.CharField(max_length=10)
    subject_id = IdField()
    roles = models.JSONField(default=list)
    scope = models.JSONField(default=dict)
    receivers = models.ForeignKey(Group, null=True, on_delete=models.PROTECT, related_name="+")
    ends = models.DateTimeField(null=True)
    made_by = IdField(null=True)
    made_at = models.DateTimeField(default=now)

    class Meta:
        ordering = ["made_at", "id"]


class Reach(models.Model):
    """The branches of one tree an account is confined to."""

    account = models.ForeignKey(Account, on_delete=models.CASCADE, related_name="reach")
    tree = models.CharField(max_length=10)
    branches = models.JSONField(default=list)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["account", "tree"], name="one_reach_a_tree")]


class Limit(models.Model):
    """Narrows actions at a node for a role, a group or an account. `actions` null means all."""

    id = IdField(primary_key=True, default=new_id, editable=False)
    node = IdField(db_index=True)
    subject_kind = models.CharField(max_length=10)
    subject_id = IdField()
    effect = models.CharField(max_length=5)
    applies = models.CharField(max_length=10)
    actions = models.JSONField(null=True)
    set_by = IdField(null=True)
    set_at = models.DateTimeField(default=now)

    class Meta:
        ordering = ["set_at", "id"]


class FieldRule(models.Model):
    """Who may see, fill and change one field of one type. No row: open."""

    type = IdField()
    field = IdField()
    mode = models.CharField(max_length=10)
    table = models.JSONField(default=dict)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["type", "field"], name="one_rule_a_field")]


class Lock(models.Model):
    """Closes a node, or one field or component of it."""

    id = IdField(primary_key=True, default=new_id, editable=False)
    node = IdField(db_index=True)
    field = IdField(null=True)
    component = IdField(null=True)
    why = models.CharField(max_length=200, blank=True)
    locked_by = IdField(null=True)
    locked_at = models.DateTimeField(default=now)


class Vocabulary(models.Model):
    """A single row: extensions switched on, kinds made here, and what a document named that is not what is here."""

    data = models.JSONField(null=True)
    extensions = models.JSONField(default=list)
    kinds = models.JSONField(default=list)
    """Kinds of content made here, and those that ship as they were changed."""


class KnownCapability(models.Model):
    """A capability that an administrator has looked at; any other is marked as new."""

    key = IdField(primary_key=True)


class SpentKey(models.Model):
    """A key that something had which is gone, and how that was called; nothing gets it again."""

    kind = models.CharField(max_length=20)
    key = IdField()
    name = models.CharField(max_length=120, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["kind", "key"], name="spent_once")]


class MarkupSet(models.Model):
    """A named list of what rich text may hold: elements with their attributes, and schemes of links.

    The capability `markup.<key>` lets it be used on a page.
    """

    key = IdField(primary_key=True)
    name = models.CharField(max_length=80, unique=True)
    elements = models.JSONField(default=dict)
    schemes = models.JSONField(default=list)
    version = models.PositiveIntegerField(default=1)

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name


class ChangeSet(models.Model):
    """Changes staged by one person, applied as one, undone as one. Each person has at most one open.

    Others are kept aside under a name until they are taken up again.
    """

    class State(models.TextChoices):
        OPEN = "open"
        KEPT = "kept"
        APPLIED = "applied"
        UNDONE = "undone"
        DROPPED = "dropped"

    id = IdField(primary_key=True, default=new_id, editable=False)
    owner = models.ForeignKey(Account, on_delete=models.PROTECT, related_name="change_sets")
    name = models.CharField(max_length=80, blank=True)
    state = models.CharField(max_length=10, choices=State.choices, default=State.OPEN)
    begun_at = models.DateTimeField(default=now)
    ended_at = models.DateTimeField(null=True)

    class Meta:
        indexes = [models.Index(fields=["owner", "state"])]


class StagedOperation(models.Model):
    """One operation of a change set, with how the part it touches stood when it was staged.

    Once applied it also has how it left the part, and the operation that takes it back.
    """

    change_set = models.ForeignKey(ChangeSet, on_delete=models.CASCADE, related_name="operations")
    position = models.PositiveIntegerField()
    part = IdField(max_length=3 * LONGEST_ID)
    data = models.JSONField()
    was = models.JSONField(null=True)
    left = models.JSONField(null=True)
    reverse = models.JSONField(default=dict)

    class Meta:
        ordering = ["position"]
        constraints = [models.UniqueConstraint(fields=["change_set", "part"], name="one_operation_a_part")]


class Review(models.Model):
    """Going through what is given: each assignment is kept or ended, with a reason, by a date."""

    class Silent(models.TextChoices):
        KEEP = "keep"
        END = "end"

    id = IdField(primary_key=True, default=new_id, editable=False)
    name = models.CharField(max_length=120)
    about = models.JSONField(default=dict)
    """What is gone through: {"group": key}, {"role": key}, {"branch": node} or nothing, which is everything."""
    reviewers = models.JSONField(default=list)
    due_at = models.DateTimeField()
    silent = models.CharField(max_length=4, choices=Silent.choices, default=Silent.KEEP)
    """What becomes of whatever nobody decided."""
    made_by = IdField(null=True)
    made_at = models.DateTimeField(default=now)
    closed_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-made_at", "-id"]


class ReviewItem(models.Model):
    """One assignment that is gone through, as it stood when the review began."""

    id = IdField(primary_key=True, default=new_id, editable=False)
    review = models.ForeignKey(Review, on_delete=models.CASCADE, related_name="items")
    assignment = IdField()
    role = IdField()
    to_kind = models.CharField(max_length=10)
    to_id = IdField()
    scope = models.JSONField(default=dict)
    ends = models.DateTimeField(null=True)
    decision = models.CharField(max_length=4, choices=Review.Silent.choices, blank=True)
    reason = models.CharField(max_length=300, blank=True)
    decided_by = IdField(null=True)
    decided_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["id"]
        constraints = [models.UniqueConstraint(fields=["review", "assignment"], name="once_in_a_review")]


class GivenWalk(models.Model):
    """Somebody was asked to try what a role can do: for that they may rehearse as themselves."""

    id = IdField(primary_key=True, default=new_id, editable=False)
    role = IdField()
    account = models.ForeignKey(Account, on_delete=models.CASCADE, related_name="+")
    word = models.CharField(max_length=500, blank=True)
    given_by = IdField(null=True)
    given_at = models.DateTimeField(default=now)

    class Meta:
        ordering = ["given_at", "id"]
        constraints = [models.UniqueConstraint(fields=["role", "account"], name="walk_given_once")]


class Use(models.Model):
    """What a role gave an account on a day: the capabilities of it that decided something."""

    written_apart = True
    account = IdField()
    role = IdField()
    day = models.DateField(db_index=True)
    capabilities = models.JSONField(default=list)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["account", "role", "day"], name="once_a_day")]


class Progress(models.Model):
    """How far something long has come that somebody waits for."""

    written_apart = True
    owner = IdField(primary_key=True)
    done = models.PositiveIntegerField()
    total = models.PositiveIntegerField()
