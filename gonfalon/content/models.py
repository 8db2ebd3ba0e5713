"""Sites, the tree of nodes, and every version of what was saved."""

from functools import partial

from django.core.files.base import ContentFile
from django.db import models
from treebeard.mp_tree import MP_Node, MP_NodeManager

from gonfalon.accounts.models import Account
from gonfalon.clock import new_id, now
from gonfalon.ids import IdField
from gonfalon.work import after_rollback

BIN = "!"
"""Begins the paths of what lies in the bin: no path in a tree begins so."""


class ContentVersion(models.Model):
    """A single row, raised with every change to any node; whole-tree arrays are kept by it."""

    number = models.PositiveBigIntegerField(default=0)
    whole = models.PositiveBigIntegerField(default=0)
    """The number from which on each node says in which it changed last, whatever of it did."""
    places = models.PositiveBigIntegerField(default=0)
    """The number from which on none came, went or was put elsewhere."""


LONGEST_SLUG = 80
LONGEST_ADDRESS = 2000
"""Plain letters, so that an index over all of it fits."""


class Site(models.Model):
    key = IdField(primary_key=True)
    name = models.CharField(max_length=120)
    position = models.PositiveIntegerField(default=0)
    hosts = models.JSONField(default=list)
    """The names under which it answers besides /site/KEY/."""
    language = models.CharField(max_length=5, default="en")
    bin_days = models.PositiveIntegerField(default=30)
    """For how long what was removed can be brought back, at least."""
    version = models.PositiveIntegerField(default=1)
    tagline = models.CharField(max_length=200, blank=True)
    footer = models.CharField(max_length=200, blank=True)
    """The line beneath every page; its name where there is none."""
    listing = models.JSONField(default=dict)
    listing_version = models.PositiveIntegerField(default=1)

    class Meta:
        ordering = ["position", "key"]


class Topic(models.Model):
    key = IdField(primary_key=True)
    name = models.CharField(max_length=80)
    version = models.PositiveIntegerField(default=1)

    class Meta:
        ordering = ["name"]


class InTree(MP_NodeManager):
    """The nodes of the trees: what is in the bin is not among them."""

    def get_queryset(self) -> models.QuerySet["Node"]:
        nodes: models.QuerySet[Node] = super().get_queryset().filter(removed_with=None)
        return nodes


class Node(MP_Node):
    """A page, a folder or a file. `values` holds its fields, `components` its parts in order."""

    class State(models.TextChoices):
        DRAFT = "draft"
        REVIEW = "review"
        PUBLISHED = "published"
        RETIRED = "retired"

    id = IdField(primary_key=True, default=new_id, editable=False)
    type = IdField()
    site = models.ForeignKey(Site, on_delete=models.PROTECT, related_name="+")
    slug = models.CharField(max_length=LONGEST_SLUG, blank=True)
    address = models.CharField(max_length=LONGEST_ADDRESS, blank=True, db_collation="ascii_general_ci")
    title = models.CharField(max_length=200)
    author = models.ForeignKey(Account, null=True, on_delete=models.PROTECT, related_name="+")
    state = models.CharField(max_length=10, choices=State.choices, default=State.DRAFT)
    note = models.CharField(max_length=500, blank=True)
    """What was said when it was returned, until it moves on."""
    topics = models.JSONField(default=list)
    values = models.JSONField(default=dict)
    components = models.JSONField(default=list)
    listing = models.JSONField(default=dict)
    """What it says to search engines, where that is not what the page itself says."""
    listing_version = models.PositiveIntegerField(default=1)
    file = models.FileField(null=True, upload_to="files/")
    file_bytes = models.PositiveIntegerField(default=0)
    file_width = models.PositiveIntegerField(default=0)
    """Pixels; 0 for what is no picture, or was never looked into."""
    file_height = models.PositiveIntegerField(default=0)
    version = models.PositiveIntegerField(default=1)
    changed_in = models.PositiveBigIntegerField(default=0, db_index=True)
    """The content version in which its title, state, site or address changed last."""
    saved_at = models.DateTimeField(default=now)
    saved_by = models.ForeignKey(Account, null=True, on_delete=models.PROTECT, related_name="+")
    removed_with = IdField(null=True, db_index=True)
    """The node it was removed with, itself if it was removed by itself; None for what is in a tree."""

    objects = InTree()
    everywhere: models.Manager["Node"] = models.Manager()

    class Meta:
        indexes = [models.Index(fields=["site", "address"])]

    def __str__(self) -> str:
        return self.title


def on_branch(path: str) -> models.Q:
    """The node at a path and all beneath it: as a range, which the index of paths answers."""
    return models.Q(path__range=(path, path + "Z" * Node.steplen))


class Rendition(models.Model):
    """A picture in another size, with the proportions that it has."""

    node = models.ForeignKey(Node, on_delete=models.CASCADE, related_name="renditions")
    width = models.PositiveIntegerField()
    file = models.FileField(upload_to="sizes/")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["node", "width"], name="one_rendition_a_width")]

    def keep(self, content: ContentFile[bytes]) -> None:
        """Write the file and the row, the file only as long as the unit is kept."""
        self.file.save(f"{new_id()}.webp", content, save=False)
        after_rollback(partial(self.file.storage.delete, str(self.file.name)))
        self.save()


class Removed(models.Model):
    """A branch in the bin: where it stood, who put it there and when."""

    node = models.OneToOneField(Node, primary_key=True, on_delete=models.CASCADE, related_name="+")
    above = models.JSONField()
    """The ids of the nodes above it, from the root down."""
    before = IdField(null=True)
    """The sibling that came next."""
    by = IdField(null=True)
    at = models.DateTimeField()

    class Meta:
        ordering = ["-at", "node"]


class Saved(models.Model):
    """What something was after one save, or after those of one sitting."""

    number = models.PositiveIntegerField()
    at = models.DateTimeField()
    by = IdField(null=True)
    data = models.JSONField()
    sitting = models.BooleanField(default=False)
    """Whether saves that follow by the same hand go on with it."""

    class Meta:
        abstract = True
        ordering = ["-number"]


class Version(Saved):
    """What a node was after one save."""

    node = models.ForeignKey(Node, on_delete=models.CASCADE, related_name="versions")

    class Meta(Saved.Meta):
        constraints = [models.UniqueConstraint(fields=["node", "number"], name="one_version_a_number")]


class WorkingCopy(models.Model):
    """What a public page is to become next, beside it: one a page (§4)."""

    class State(models.TextChoices):
        DRAFT = "draft"
        REVIEW = "review"

    node = models.OneToOneField(Node, primary_key=True, on_delete=models.CASCADE, related_name="working_copy")
    key = IdField()
    """Another one for each that is begun, so that no save is taken for one of a copy that was discarded."""
    base = models.PositiveIntegerField()
    """The version of the page that it was begun from."""
    version = models.PositiveIntegerField(default=0)
    state = models.CharField(max_length=10, choices=State.choices, default=State.DRAFT)
    note = models.CharField(max_length=500, blank=True)
    title = models.CharField(max_length=200)
    topics = models.JSONField(default=list)
    values = models.JSONField(default=dict)
    components = models.JSONField(default=list)
    writer = models.ForeignKey(Account, null=True, on_delete=models.PROTECT, related_name="+")
    """Who last changed what it says; it is theirs until somebody else goes on with it."""
    saved_at = models.DateTimeField(default=now)
    saved_by = models.ForeignKey(Account, null=True, on_delete=models.PROTECT, related_name="+")


class CopyVersion(Saved):
    """What a working copy was after one save; gone with it."""

    copy = models.ForeignKey(WorkingCopy, on_delete=models.CASCADE, related_name="versions")

    class Meta(Saved.Meta):
        constraints = [models.UniqueConstraint(fields=["copy", "number"], name="one_copy_version_a_number")]


class Present(models.Model):
    """Somebody has a page open on the desk, or had a moment ago."""

    written_apart = True
    node = IdField()
    account = IdField()
    working = models.BooleanField()
    """Whether it is the working copy of the page."""
    at = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["node", "account"], name="once_a_page")]
        indexes = [models.Index(fields=["account", "at"])]


class Post(models.Model):
    """Something said under a page. Held until someone who moderates discussion there approves it."""

    class State(models.TextChoices):
        HELD = "held"
        APPROVED = "approved"
        REJECTED = "rejected"

    id = IdField(primary_key=True, default=new_id, editable=False)
    node = models.ForeignKey(Node, on_delete=models.CASCADE, related_name="posts")
    author = models.ForeignKey(Account, on_delete=models.PROTECT, related_name="+")
    text = models.CharField(max_length=2000)
    state = models.CharField(max_length=10, choices=State.choices, default=State.HELD)
    at = models.DateTimeField()

    class Meta:
        ordering = ["at", "id"]
