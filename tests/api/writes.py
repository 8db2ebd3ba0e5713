"""One request that is kept, for every address that writes: for tests of what holds of all of them.

for write in WRITES:
    send = write.ready(asking)      # all that comes before it is done
    response = send()
"""

import base64
from collections.abc import Callable
from dataclasses import dataclass
from datetime import timedelta
from typing import Any

import pyotp
from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test.client import BOUNDARY, MULTIPART_CONTENT, encode_multipart

from gonfalon.access.models import Assignment, ReviewItem
from gonfalon.access.snapshot import raise_version
from gonfalon.accounts.models import Account, Membership, SignIn, Ticket
from gonfalon.accounts.tickets import issue
from gonfalon.clock import now
from gonfalon.content.models import Node, Removed
from gonfalon.mail.models import Letter
from gonfalon.verify.models import Expectation
from tests.api.support import PASSWORD, Asking, ok

Sender = Callable[[], Any]
Before = Callable[[Asking], Any]


@dataclass(frozen=True)
class Write:
    """`path` and `body` may hold what `before` gave, as {made}.

    `tag` names where the version is read for If-Match, if `version` does not say it.
    """

    name: str
    method: str
    path: str
    body: Any = None
    before: Before = lambda asking: None
    tag: str = ""
    version: int = 0
    account: str = "odile"

    def ready(self, asking: Asking) -> Sender:
        made = self.before(asking)
        path = self.path.format(made=made)
        body = self.body(made) if callable(self.body) else self.body
        headers = {"If-Match": asking.get(self.tag.format(made=made))["ETag"]} if self.tag else {}
        headers |= {"If-Match": f'"{self.version}"'} if self.version else {}
        if isinstance(body, bytes):
            return lambda: asking._read(
                asking.client.generic(
                    self.method.upper(), f"/api/{path}", body, content_type=MULTIPART_CONTENT, headers=headers
                )
            )
        if self.method == "delete":
            return lambda: asking._read(asking.client.delete(f"/api/{path}", headers=headers))
        return lambda: asking._send(self.method, path, body, headers)


ANSWER = {"kind": "set-answer", "role": "pilot", "capability": "event.see", "says": "all"}
PICTURE = base64.b64decode(
    "iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg=="
)
PORTRAIT = encode_multipart(BOUNDARY, {"picture": SimpleUploadedFile("me.png", PICTURE)})
FILE = encode_multipart(BOUNDARY, {"file": SimpleUploadedFile("sail.png", PICTURE)})
FILE_IN_FOLDER = encode_multipart(
    BOUNDARY, {"file": SimpleUploadedFile("sail.png", PICTURE), "folder": "pier-pictures"}
)
LATER = (now() + timedelta(days=30)).isoformat()
LISTING = {"title": "Listed", "description": "", "hidden": False}
MARKUP = {"name": "Wide", "elements": {"p": ["class"], "a": ["href"]}, "schemes": ["https"]}
LOFT = "desk/pages/p3-sail-loft"


def with_file_of_its_own(asking: Asking) -> None:
    """What is replaced goes for good, and would be missed by other tests."""
    name = default_storage.save("files/loft.png", ContentFile(PICTURE))
    Node.objects.filter(pk="pic-sail-loft").update(file=name)


def staged(asking: Asking) -> None:
    ok(asking.post("change-set/operations", {"operations": [ANSWER]}))


def a_report(asking: Asking) -> str:
    return ok(asking.post("reports", {"about": "role", "id": "pilot"}), 201)["id"]


def address_waits(account: str) -> Before:
    return lambda asking: issue(Account.objects.get(pk=account), Ticket.Purpose.EMAIL, email="new@sailloft.example")


def kept(asking: Asking) -> str:
    staged(asking)
    return ok(asking.post("change-set/put-aside", {"name": "Later"}))["kept"][0]["id"]


def applied(asking: Asking) -> str:
    staged(asking)
    return ok(asking.post("change-set/apply"))["id"]


def kind(asking: Asking) -> str:
    return ok(asking.post("kinds", {"name": "Leaflet", "plural": "leaflets", "under": ["section"]}), 201)["key"]


def with_field(asking: Asking) -> str:
    key = kind(asking)
    tag = {"If-Match": '"1"'}
    ok(asking.post(f"kinds/{key}/fields", {"name": "Depth", "kind": "number"}, **tag), 201)
    return key


def with_retired_field(asking: Asking) -> str:
    key = with_field(asking)
    ok(asking.patch(f"kinds/{key}/fields/depth", {"retired": True}, **{"If-Match": '"2"'}))
    return key


def in_bin(asking: Asking) -> str:
    tag = asking.get("desk/pages/winter-rates")["ETag"]
    ok(asking.post("desk/pages/winter-rates/remove", **{"If-Match": tag}), 204)
    return "winter-rates"


def long_in_bin(asking: Asking) -> str:
    node = in_bin(asking)
    Removed.objects.filter(pk=node).update(at=now() - timedelta(days=400))
    return node


def published(asking: Asking) -> str:
    Node.objects.filter(pk="p3-sail-loft").update(state="published")
    return "p3-sail-loft"


def set_for_markup(asking: Asking) -> str:
    return ok(asking.post("markup-sets", MARKUP), 201)["key"]


def with_letter(asking: Asking) -> str:
    invited(asking)
    letter = Letter.objects.latest("pk")
    Letter.objects.filter(pk=letter.pk).update(state="failed")
    return letter.pk


def invited(asking: Asking) -> str:
    new = {"people": [{"name": "Pia Holm", "email": "pia@skerrow.example"}]}
    return ok(asking.post("accounts", new), 201)["people"][0]["id"]


def reads_only(asking: Asking) -> None:
    """Nothing is given to Viggo any more: he may not open the desk."""
    Assignment.objects.filter(account="viggo").delete()
    Membership.objects.filter(account="viggo").delete()
    raise_version()


def disabled(asking: Asking) -> None:
    ok(asking.post("accounts/ines/disable"))


def begun_codes(asking: Asking) -> str:
    return ok(asking.post("me/factors/begun"))["secret"]


def with_codes(asking: Asking) -> str:
    secret = begun_codes(asking)
    added = ok(asking.post("me/factors", {"name": "Telephone", "code": pyotp.TOTP(secret).now()}))
    return added["factors"][0]["id"]


def half_way(asking: Asking) -> str:
    secret = begun_codes(asking)
    codes = ok(asking.post("me/factors", {"name": "Telephone", "code": pyotp.TOTP(secret).now()}))["codes"]
    asking.client.cookies.clear()
    ok(asking.post("session", {"email": "odile@skerrow.example", "password": PASSWORD}))
    return codes[0]


def elsewhere(asking: Asking) -> str:
    Asking("odile")
    return SignIn.objects.filter(account="odile").latest("began_at").pk


def outside(asking: Asking) -> None:
    asking.client.cookies.clear()


def invitation(asking: Asking) -> str:
    account = Account.objects.get(pk="ines")
    return issue(account, Ticket.Purpose.PASSWORD)


def handed_out(asking: Asking) -> str:
    given = {"role": "regatta-crew", "account": "noor", "scope": {"sites": ["regatta"]}}
    ok(Asking("joost").post("handing-out", receiver(given)))
    return Assignment.objects.order_by("-given_at").first().pk


def receiver(given: dict[str, Any]) -> dict[str, Any]:
    rows = ok(Asking("joost").get("handing-out"))
    return given | {"account": rows["people"][0]["id"], "ends": LATER}


def working_copy(asking: Asking) -> None:
    ok(asking.patch(f"{LOFT}/copy", {"title": "The loft next"}, **{"If-Match": asking.get(f"{LOFT}/copy")["ETag"]}))


def handed_in_copy(asking: Asking) -> None:
    working_copy(asking)
    ok(asking.post(f"{LOFT}/copy/hand-in", **{"If-Match": asking.get(f"{LOFT}/copy")["ETag"]}))


def ways(asking: Asking) -> dict[str, Any]:
    found = ok(asking.get("requests/request-1"))["ways"]
    return {"operations": found[0]["operations"]}


def nobody_here(asking: Asking) -> None:
    from gonfalon.content.models import Post, Site, Version
    from gonfalon.verify.models import AccessRequest

    for model in (Post, Version, AccessRequest, Expectation, Removed):
        model.objects.all().delete()
    Node.everywhere.all().delete()
    Site.objects.all().delete()
    raise_version()


WRITES = [
    Write("take_on", "post", "accounts",
          {"people": [{"name": "Pia", "email": "pia@skerrow.example"}], "groups": ["pilots"],
           "roles": [{"role": "pilot", "scope": {}}]}),
    Write("import_accounts", "post", "accounts/import",
          {"text": "name,email\nPia Holm,pia@skerrow.example\n", "apply": True, "invite": True}),
    Write("stage_many", "post", "accounts/many", {"accounts": ["ines"], "action": "give-role", "role": "pilot"}),
    Write("let_address_go", "delete", "accounts/ines/new-address", before=address_waits("ines")),
    Write("let_own_address_go", "delete", "me/new-address", before=address_waits("odile")),
    Write("change_account", "patch", "accounts/ines", {"name": "Ines Marrow-Holm"}, tag="accounts/ines"),
    Write("change_profile", "patch", "desk/people/ines", {"profile": {"work": "Sails"}}, tag="desk/people/ines"),
    Write("address", "post", "accounts/address", {"email": "pia@skerrow.example"}),
    Write("disable_account", "post", "accounts/ines/disable",
          {"pages_to": "noor", "roles_to": "noor", "reviews_to": None}),
    Write("enable_account", "post", "accounts/ines/enable", before=disabled),
    Write("remove_factors_of", "delete", "accounts/odile/factors", before=with_codes),
    Write("invite_again", "post", "accounts/{made}/invitation", {}, invited),
    Write("reset_password", "post", "accounts/ines/password-reset"),
    Write("set_portrait", "put", "accounts/odile/portrait", PORTRAIT),
    Write("remove_portrait", "delete", "accounts/odile/portrait"),
    Write("begin", "post", "begin", {"name": "Slack Water Club"}, nobody_here),
    Write("look_at", "post", "catalogue/looked-at", {"capabilities": ["event.see"]}),
    Write("discard", "delete", "change-set", before=staged),
    Write("apply", "post", "change-set/apply", before=staged),
    Write("stage", "post", "change-set/operations", {"operations": [ANSWER]}),
    Write("unstage", "delete", "change-set/operations/1", before=staged),
    Write("rebase", "post", "change-set/operations/1/rebase", before=staged),
    Write("put_aside", "post", "change-set/put-aside", {"name": "Later"}, staged),
    Write("undo_last", "post", "change-set/undo", before=staged),
    Write("take_up", "post", "change-sets/{made}/take-up", before=kept),
    Write("undo_applied", "post", "change-sets/{made}/undo", before=applied),
    Write("set_demands", "put", "demands", {"roles": ["pilot"], "risky": False, "fields_asked": []}, tag="demands"),
    Write("empty_bin", "delete", "desk/bin/{made}", before=long_in_bin),
    Write("many_pages", "post", "desk/many", {"nodes": ["n-regatta-course"], "action": "publish"}),
    Write("bring_in", "post", "desk/media", FILE_IN_FOLDER),
    Write("replace_file", "post", "desk/media/pic-sail-loft/replace", FILE, with_file_of_its_own,
          tag="desk/pages/pic-sail-loft"),
    Write("make_page", "post", "desk/pages", {"parent": "events", "type": "event", "title": "Supper"}),
    Write("save_page", "patch", LOFT, {"title": "The loft", "values": {"telephone": "0550"}}, tag=LOFT),
    Write("save_working_copy", "patch", f"{LOFT}/copy", {"title": "The loft next"}, tag=f"{LOFT}/copy"),
    Write("be_here", "put", f"{LOFT}/here", {"working": False}),
    Write("discard_working_copy", "delete", f"{LOFT}/copy", before=working_copy, tag=f"{LOFT}/copy"),
    Write("hand_in_working_copy", "post", f"{LOFT}/copy/hand-in", {"note": "Look"}, working_copy, tag=f"{LOFT}/copy"),
    Write("take_back_working_copy", "post", f"{LOFT}/copy/take-back", before=handed_in_copy, tag=f"{LOFT}/copy"),
    Write("return_working_copy", "post", f"{LOFT}/copy/return", {"note": "Shorter"}, handed_in_copy,
          tag=f"{LOFT}/copy"),
    Write("publish_working_copy", "post", f"{LOFT}/copy/publish", before=handed_in_copy, tag=f"{LOFT}/copy"),
    Write("duplicate_page", "post", f"{LOFT}/duplicate", {}),
    Write("hand_in", "post", "desk/pages/{made}/hand-in", {"note": "Have a look"},
          lambda asking: Node.objects.filter(pk="p3-sail-loft").update(state="draft") and "p3-sail-loft", tag=LOFT),
    Write("hand_on_page", "post", f"{LOFT}/hand-on", {"account": "noor"}, tag=LOFT),
    Write("save_page_listing", "put", f"{LOFT}/listing", LISTING, tag=f"{LOFT}/listing"),
    Write("move_page", "post", f"{LOFT}/move", {"to": "moorings"}, tag=LOFT),
    Write("moderate", "patch", "desk/pages/{made}", {"state": "approved"},
          lambda asking: posted()),
    Write("publish", "post", "desk/pages/n-regatta-course/publish", tag="desk/pages/n-regatta-course"),
    Write("remove_page", "post", f"{LOFT}/remove", tag=LOFT),
    Write("bring_back", "post", "desk/pages/{made}/restore", {}, in_bin),
    Write("retire", "post", f"{LOFT}/retire", before=published, tag=LOFT),
    Write("return_page", "post", "desk/pages/n-regatta-course/return", {"note": "Shorter"},
          tag="desk/pages/n-regatta-course"),
    Write("take_back", "post", "desk/pages/n-regatta-course/take-back", tag="desk/pages/n-regatta-course"),
    Write("to_draft", "post", "desk/pages/n-old-cable/to-draft", tag="desk/pages/n-old-cable"),
    Write("restore_version", "post", f"{LOFT}/versions/1/restore", tag=LOFT),
    Write("record_expectation", "post", "expectations",
          {"account": "ines", "action": "edit", "node": "p3-sail-loft", "expect": "allow", "note": "hers"}),
    Write("drop_expectation", "delete", "expectations/expectation-01"),
    Write("write_expectations", "put", "expectations/sentences", "The season:\nVisitors may not see Harbour office.\n",
          tag="expectations/sentences"),
    Write("ask_for_report", "post", "reports", {"about": "branch", "id": "fees"}),
    Write("drop_report", "delete", "reports/{made}", before=a_report),
    Write("make_walk_list", "post", "walk-lists", {"role": "pilot"}),
    Write("drop_walk_list", "delete", "walk-lists/walk-regatta-crew"),
    Write("give_walk_list", "post", "walk-lists/walk-tenant-editor/given", {"account": "ines", "word": "Please try."}),
    Write("take_walk_list_back", "delete", "walk-lists/walk-tenant-editor/given/anouk"),
    Write("switch_extension", "put", "extensions/tide-table", {"on": False}),
    Write("make_group", "post", "groups", {"name": "Night crew"}),
    Write("rename_group", "patch", "groups/pier-3", {"name": "Pier three"}, tag="groups/pier-3"),
    Write("stage_group_ending", "post", "groups/pier-3/ending"),
    Write("hand_out", "post", "handing-out", lambda made: made,
          lambda asking: receiver({"role": "regatta-crew", "scope": {"sites": ["regatta"]}}), account="joost"),
    Write("change_handed_out", "patch", "handing-out/{made}", {"ends": (now() + timedelta(days=9)).isoformat()},
          handed_out, account="joost"),
    Write("take_back_2", "delete", "handing-out/{made}", before=handed_out, account="joost"),
    Write("lock", "post", "locks", {"node": "fees", "why": "Being counted."}),
    Write("open_lock", "delete", "locks/{made}",
          before=lambda asking: ok(asking.post("locks", {"node": "fees"}), 201)["id"]),
    Write("make_kind", "post", "kinds", {"name": "Leaflet", "plural": "leaflets", "under": ["section"]}),
    Write("change_kind", "patch", "kinds/{made}", {"name": "Flyer"}, kind, version=1),
    Write("add_field", "post", "kinds/{made}/fields", {"name": "Depth", "kind": "number"}, kind, version=1),
    Write("order_fields", "put", "kinds/{made}/fields", {"order": ["depth"]}, with_field, version=2),
    Write("change_field", "patch", "kinds/{made}/fields/depth", {"name": "Draught"}, with_field, version=2),
    Write("purge_field", "delete", "kinds/{made}/fields/depth", before=with_retired_field, version=3),
    Write("send_again", "post", "letters/{made}/again", before=with_letter),
    Write("make_markup_set", "post", "markup-sets", MARKUP),
    Write("change_markup_set", "put", "markup-sets/{made}", MARKUP | {"schemes": ["mailto"]}, set_for_markup,
          tag="markup-sets/{made}"),
    Write("drop_markup_set", "delete", "markup-sets/{made}", before=set_for_markup),
    Write("change_me", "patch", "me", {"name": "Odile V."}, tag="me"),
    Write("add_factor", "post", "me/factors", lambda secret: {"name": "T", "code": pyotp.TOTP(secret).now()},
          begun_codes),
    Write("begin_codes", "post", "me/factors/begun"),
    Write("begin_passkey", "put", "me/factors/begun"),
    Write("new_recovery_codes", "post", "me/factors/codes", before=with_codes),
    Write("remove_factor", "delete", "me/factors/{made}", before=with_codes),
    Write("take_own_away", "post", "me/gone", {"current": PASSWORD}, before=reads_only, account="viggo"),
    Write("change_password", "post", "me/password", {"current": PASSWORD, "password": "ebb at a quarter past"}),
    Write("end_other_sessions", "delete", "me/sessions", before=elsewhere),
    Write("end_session", "delete", "me/sessions/{made}", before=elsewhere),
    Write("ask_for_access", "post", "requests", {"action": "edit", "node": "fees", "word": "Please"}, account="ines"),
    Write("decline", "post", "requests/request-1/decline", {"word": "Not now"}),
    Write("grant", "post", "requests/request-1/grant", lambda made: made, ways),
    Write("begin_review", "post", "reviews", {"name": "Spring", "reviewers": ["halla"], "due_at": LATER}),
    Write("close_review", "post", "reviews/review-1/close"),
    Write("decide_in_review", "post", "reviews/review-1/items/{made}", {"decision": "end", "reason": "Left"},
          lambda asking: ReviewItem.objects.filter(decision="").first().pk, account="halla"),
    Write("make_role", "post", "roles", {"name": "Crew", "copy_of": "pilot", "with_limits": True}),
    Write("order_roles", "post", "roles/order", {"roles": ["pilot"]}),
    Write("change_role", "patch", "roles/pilot", {"name": "Pilots all"}, tag="roles/pilot"),
    Write("stage_removal", "post", "roles/pilot/removal", {"hand_to": "tenant-editor"}),
    Write("keep_view", "post", "roster-views", {"name": "Mine", "query": "show=look"}),
    Write("drop_view", "delete", "roster-views/{made}",
          before=lambda asking: ok(asking.post("roster-views", {"name": "Mine", "query": "show=look"}), 201)["id"]),
    Write("sign_in", "post", "session", {"email": "odile@skerrow.example", "password": PASSWORD}, outside),
    Write("sign_out", "delete", "session"),
    Write("give_factor", "post", "session/factor", lambda code: {"recovery": code}, half_way),
    Write("forgotten", "post", "session/forgotten", {"email": "odile@skerrow.example"}, outside),
    Write("prove", "post", "session/proof", {"password": PASSWORD}),
    Write("make_site", "post", "sites", {"name": "Slack Water Club"}),
    Write("order_sites", "put", "sites/order", {"keys": ["regatta", "harbour"]}),
    Write("change_site", "patch", "sites/harbour", {"tagline": "By the sea"}, tag="sites/harbour"),
    Write("save_site_listing", "put", "sites/harbour/listing", LISTING, tag="sites/harbour/listing"),
    Write("stand_in", "post", "stand-in", {"account": "ines"}),
    Write("stand_in_on", "patch", "stand-in", before=lambda asking: asking.post("stand-in", {"account": "ines"})),
    Write("step_out", "delete", "stand-in", before=lambda asking: asking.post("stand-in", {"account": "ines"})),
    Write("add_topic", "post", "topics", {"name": "Slack water"}),
    Write("rename_topic", "patch", "topics/tides", {"name": "Slack water"}, tag="topics/tides"),
    Write("remove_topic", "delete", "topics/tides"),
    Write("merge_topic", "post", "topics/tides/merge", {"into": "season"}),
    Write("use_welcome", "post", "welcome/use",
          lambda secret: {"secret": secret, "password": "ebb at a quarter past"}, invitation),
]  # fmt: skip


def posted() -> str:
    from gonfalon.content.models import Post

    post = Post.objects.filter(state="held").first()
    return f"{post.node_id}/posts/{post.pk}"
