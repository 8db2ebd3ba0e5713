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
    telephone = models.CharField(max_length=40, blank=True)
    state = models.CharField(max_length=10, choices=State.choices, default=State.ACTIVE, db_index=True)
    keyholder = models.BooleanField(default=False)
    last_seen = models.DateTimeField(null=True)
    created_at = models.DateTimeField(default=now)
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

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name


class Membership(models.Model):
    account = models.ForeignKey(Account, on_delete=models.CASCADE)
    group = models.ForeignKey(Group, on_delete=models.CASCADE)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["account", "group"], name="once_in_a_group")]


class Guesses(models.Model):
    """Wrong passwords given lately for one address, to slow down whoever goes on guessing."""

    email = models.CharField(primary_key=True, max_length=254)
    count = models.PositiveIntegerField(default=0)
    last_at = models.DateTimeField()
