"""People and the groups they are in (§1). Accounts are disabled, never deleted."""

from typing import ClassVar

from django.contrib.auth.base_user import AbstractBaseUser, BaseUserManager
from django.db import models

from gonfalon.clock import new_id, now
from gonfalon.ids import IdField


class AccountManager(BaseUserManager["Account"]):
    def get_by_natural_key(self, username: str | None) -> "Account":
        return self.get(email__iexact=username)


class Account(AbstractBaseUser):
    """Someone who can sign in with their e-mail address. The keyholder may do everything."""

    class State(models.TextChoices):
        ACTIVE = "active"
        INVITED = "invited"
        DISABLED = "disabled"

    id = IdField(primary_key=True, default=new_id, editable=False)
    email = models.EmailField(unique=True)
    name = models.CharField(max_length=120, db_index=True)
    language = models.CharField(max_length=10, default="en")
    profile = models.JSONField(default=dict)
    """What the fields of their profile hold, by field."""
    state = models.CharField(max_length=10, choices=State.choices, default=State.ACTIVE, db_index=True)
    keyholder = models.BooleanField(default=False)
    password_given = models.BooleanField(default=False)
    """Whether somebody else chose the password: its owner changes it at the first sign-in."""
    disabled_at = models.DateTimeField(null=True)
    """When it was last disabled: a sign-in that was under way then comes to nothing."""
    portrait = models.ImageField(upload_to="portraits/", blank=True)
    last_seen = models.DateTimeField(null=True)
    created_at = models.DateTimeField(default=now)
    version = models.PositiveIntegerField(default=1)
    groups: models.ManyToManyField = models.ManyToManyField("Group", through="Membership", related_name="members")

    USERNAME_FIELD = "email"
    REQUIRED_FIELDS: ClassVar[list[str]] = ["name"]
    objects = AccountManager()

    class Meta:
        ordering = ["name", "id"]

    @property
    def is_active(self) -> bool:  # type: ignore[override]
        return self.state == self.State.ACTIVE

    def __str__(self) -> str:
        return self.name


class Group(models.Model):
    """A team. Members of a group are members of every group above it."""

    key = IdField(primary_key=True)
    name = models.CharField(max_length=120)
    parent = models.ForeignKey("self", null=True, on_delete=models.PROTECT, related_name="children")
    version = models.PositiveIntegerField(default=1)

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name


class Membership(models.Model):
    account = models.ForeignKey(Account, on_delete=models.CASCADE)
    group = models.ForeignKey(Group, on_delete=models.CASCADE)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["account", "group"], name="once_in_a_group")]


class SignIn(models.Model):
    """One signing in, until it ends: by signing out, from the list of one's own, or because the account is disabled."""

    id = IdField(primary_key=True, default=new_id, editable=False)
    account = models.ForeignKey(Account, on_delete=models.CASCADE, related_name="sign_ins")
    client = models.CharField(max_length=60, blank=True)
    agent = models.CharField(max_length=300, blank=True)
    began_at = models.DateTimeField(default=now)
    used_at = models.DateTimeField(default=now)
    proved_at = models.DateTimeField(default=now)
    """When whoever is there last showed that it is them."""
    arrived = models.BooleanField(default=True)
    """Whether they had all that was asked of them; whatever is asked later is asked at their next visit."""
    ended_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-used_at"]


class Factor(models.Model):
    """A second factor: what somebody signs in with besides the password."""

    class Kind(models.TextChoices):
        CODE = "code"
        PASSKEY = "passkey"

    id = IdField(primary_key=True, default=new_id, editable=False)
    account = models.ForeignKey(Account, on_delete=models.CASCADE, related_name="factors")
    kind = models.CharField(max_length=10, choices=Kind.choices)
    name = models.CharField(max_length=60)
    secret = models.TextField()
    """What codes are made from, in base32; the public key of a passkey, in base64url."""
    credential = models.CharField(max_length=1400, blank=True, db_collation="utf8mb4_nopad_bin")
    """How a passkey calls itself, in base64url."""
    counter = models.PositiveBigIntegerField(default=0)
    """The step of the last code, the count of the passkey: neither comes twice."""
    made_at = models.DateTimeField(default=now)
    used_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["made_at", "id"]


class RecoveryCode(models.Model):
    """Signs in once in place of a second factor that was lost. Only a digest of it is kept."""

    digest = models.CharField(primary_key=True, max_length=64)
    account = models.ForeignKey(Account, on_delete=models.CASCADE, related_name="recovery_codes")


class Ticket(models.Model):
    """A link, by mail or printed on the first start, that does one thing once. Only a digest of its secret is kept."""

    class Purpose(models.TextChoices):
        INVITATION = "invitation"
        PASSWORD = "password"
        EMAIL = "email"
        FIRST = "first"

    digest = models.CharField(primary_key=True, max_length=64)
    purpose = models.CharField(max_length=10, choices=Purpose.choices)
    account = models.ForeignKey(Account, on_delete=models.CASCADE, related_name="tickets")
    email = models.EmailField(blank=True)
    """The address to confirm, for that purpose."""
    made_by = IdField(null=True)
    made_at = models.DateTimeField(default=now)
    ends_at = models.DateTimeField()
    used_at = models.DateTimeField(null=True)

    class Meta:
        indexes = [models.Index(fields=["account", "purpose"])]


class KeptView(models.Model):
    """Filters, columns and order of the roster that somebody kept under a name, as the address has them."""

    id = IdField(primary_key=True, default=new_id, editable=False)
    owner = models.ForeignKey(Account, on_delete=models.CASCADE, related_name="+")
    name = models.CharField(max_length=60)
    query = models.CharField(max_length=1000, blank=True)

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["owner", "name"], name="one_view_a_name")]


class Guesses(models.Model):
    """Wrong passwords given lately for one address, by one client, or both, to slow down whoever goes on guessing."""

    written_apart = True
    key = models.CharField(primary_key=True, max_length=64)
    count = models.PositiveIntegerField(default=0)
    last_at = models.DateTimeField(db_index=True)


class KnownClient(models.Model):
    """From where somebody has signed in: others cannot keep them out there by guessing."""

    account = models.ForeignKey(Account, on_delete=models.CASCADE)
    client = models.CharField(max_length=60)
    last_at = models.DateTimeField(db_index=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["account", "client"], name="once_a_client")]


class ProfileVersion(models.Model):
    """What an account's profile said as of one version of the account, for the ledger to tell from."""

    account = models.ForeignKey(Account, on_delete=models.CASCADE, related_name="+")
    number = models.PositiveIntegerField()
    data = models.JSONField(default=dict)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["account", "number"], name="one_profile_a_version")]
