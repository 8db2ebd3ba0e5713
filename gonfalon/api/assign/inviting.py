"""Letters to those who are taken on: what an invitation would say, sent again, or a link for a new password."""

from drf_spectacular.utils import OpenApiResponse, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.people import invitation, invite, send_reset, shares_mailbox
from gonfalon.accounts.models import Account
from gonfalon.api.guard import GuardedView, May
from gonfalon.api.names import AddressField, NameField
from gonfalon.api.people import count_letters
from gonfalon.api.problems import Conflict, NotFound
from gonfalon.inputs import Input
from gonfalon.viewpoint.viewpoint import Viewpoint
from gonfalon.work import POLICY, RowLock


class LetterInput(Input):
    name = NameField(max_length=120)
    message = serializers.CharField(max_length=2000, allow_blank=True, default="")


class LetterShape(serializers.Serializer):
    """An invitation as it would be sent."""

    subject = serializers.CharField()
    text = serializers.CharField()


class AddressShape(serializers.Serializer):
    """Whether an address can be had, and whether its mail arrives where that of another account does."""

    taken = serializers.BooleanField()
    shares = serializers.BooleanField()


class MessageInput(Input):
    message = serializers.CharField(max_length=2000, allow_blank=True, default="")


class LetterView(GuardedView):
    doors = {"post": May("accounts.invite")}
    reads = frozenset({"post"})

    @extend_schema(request=LetterInput, responses=LetterShape, operation_id="invitation_letter")
    def post(self, request: Request) -> Response:
        """What the invitation would say. Nothing is made or sent."""
        given = LetterInput(data=request.data)
        given.is_valid(raise_exception=True)
        host = self.session.actor.name if self.session.actor else ""
        subject, text = invitation(given.validated_data["name"], host, given.validated_data["message"])
        return Response({"subject": subject, "text": text})


class AddressInput(Input):
    email = AddressField()


class AddressView(GuardedView):
    doors = {"post": May("accounts.invite")}
    locks = {"post": (POLICY.shared,)}

    @extend_schema(request=AddressInput, responses=AddressShape, operation_id="address")
    def post(self, request: Request) -> Response:
        """Whether an account could be made for an address, asked while it is typed."""
        given = AddressInput(data=request.data)
        given.is_valid(raise_exception=True)
        email = given.validated_data["email"]
        taken = Account.objects.filter(email__iexact=email).exists()
        return Response({"taken": taken, "shares": not taken and shares_mailbox(email) is not None})


class InvitationView(GuardedView):
    doors = {"post": May("accounts.invite")}
    locks = {"post": (POLICY.shared, RowLock("accounts.Account", "account"))}

    @extend_schema(request=MessageInput, responses={204: OpenApiResponse()}, operation_id="invite_again")
    def post(self, request: Request, account: str) -> Response:
        """Send the invitation again; the link sent before is worth nothing any more."""
        given = MessageInput(data=request.data)
        given.is_valid(raise_exception=True)
        row = account_known(account, self.viewpoint)
        if row.state != Account.State.INVITED:
            raise Conflict("Only whoever has not yet chosen a password can be invited.")
        count_letters(row.email, self.session.by)
        invite(row, self.session.by, given.validated_data["message"])
        return Response(status=204)


class ResetView(GuardedView):
    doors = {"post": May("accounts.invite")}
    locks = {"post": (POLICY.shared, RowLock("accounts.Account", "account"))}

    @extend_schema(request=None, responses={204: OpenApiResponse()}, operation_id="reset_password")
    def post(self, request: Request, account: str) -> Response:
        """Send the account a link for a new password, to its own address."""
        row = account_known(account, self.viewpoint)
        if row.state != Account.State.ACTIVE:
            raise Conflict("Only an active account can be sent a link for a new password.")
        count_letters(row.email, self.session.by)
        send_reset(row, self.session.by)
        return Response(status=204)


def account_known(id: str, viewpoint: Viewpoint) -> Account:
    """An account that whoever asks may know of. Raises NotFound."""
    row = Account.objects.filter(pk=id).first() if id in viewpoint.sight.people else None
    if row is None:
        raise NotFound("account")
    return row
