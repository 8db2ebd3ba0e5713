"""Every view that writes something leaves one entry in the ledger, by whoever did it."""

import pyotp
import pytest

from gonfalon.access.models import Assignment, Delegation, Lock, ReviewItem
from gonfalon.access.snapshot import raise_version
from gonfalon.accounts.models import Account, Factor, Membership, Ticket
from gonfalon.accounts.sessions import begin_session
from gonfalon.accounts.tickets import issue
from gonfalon.clock import now
from gonfalon.content.models import Node, Post, Site
from gonfalon.ledger.models import Entry
from gonfalon.mail.outbox import post
from tests.api.assign.test_portrait import picture, send
from tests.api.changes.test_change_sets import EDIT
from tests.api.desk.test_media import photograph
from tests.api.desk.test_media import send as send_file
from tests.api.support import PASSWORD, Asking, apply, ok, stage
from tests.api.test_routes import methods_of, routes, view_of
from tests.api.writes import with_file_of_its_own

LOFT = "desk/pages/p3-sail-loft"
TAG = {"If-Match": '"1"'}
MARKUP = {"name": "Wide", "elements": {"p": []}, "schemes": ["https"]}
LISTING = {"title": "T", "description": "D", "hidden": False}
GOOD = "copper kettle drifting north"
NEW = {"people": [{"name": "Ada Sund", "email": "ada@post.example"}], "how": "invite"}
DEMANDS = {"roles": ["pilot"], "risky": False, "fields_asked": []}
EXPECTED = {"account": "ines", "action": "see", "node": "p3-sail-loft", "expect": "allow"}


def begin(odile):
    Node.objects.all().delete()
    Site.objects.all().delete()
    raise_version()
    return odile.post("begin", {"name": "Slack Water Club", "starters": False})


def rename_topic(odile):
    ok(odile.post("topics", {"name": "Knots"}), 201)
    return odile.patch("topics/knots", {"name": "Knots and hitches"}, **TAG)


def remove_topic(odile):
    ok(odile.post("topics", {"name": "Knots"}), 201)
    return odile.delete("topics/knots")


def merge_topic(odile):
    for name in ("Knots", "Hitches"):
        ok(odile.post("topics", {"name": name}), 201)
    return odile.post("topics/knots/merge", {"into": "hitches"})


def purge(odile):
    ok(odile.patch("kinds/berth/fields/telephone", {"retired": True}, **TAG))
    return odile.client.delete("/api/kinds/berth/fields/telephone", headers={"If-Match": '"2"'})


def bring_back(odile):
    ok(odile.post(f"{LOFT}/remove", **TAG), 204)
    return odile.post(f"{LOFT}/restore")


def replace_file(odile):
    with_file_of_its_own(odile)
    return send_file(odile, photograph(), path="desk/media/pic-sail-loft/replace", folder="", **TAG)


def empty_bin(odile):
    ok(odile.post(f"{LOFT}/remove", **TAG), 204)
    Site.objects.update(bin_days=0)
    return odile.delete("desk/bin/p3-sail-loft")


def undo(odile):
    done = apply(odile, EDIT)
    return odile.post(f"change-sets/{done['id']}/undo")


def apply_staged(odile):
    stage(odile, EDIT)
    return odile.post("change-set/apply")


def look_on(odile):
    ok(odile.post("stand-in", {"account": "ines"}), 204)
    return odile.patch("stand-in", None)


def step_out(odile):
    ok(odile.post("stand-in", {"account": "ines"}), 204)
    return odile.delete("stand-in")


def step_out_on_site(odile):
    ok(odile.post("stand-in", {"account": "ines"}), 204)
    return odile._read(odile.client.post("/step-out"))


def begin_codes(asking):
    """A secret for codes, and the code of now."""
    secret = ok(asking.post("me/factors/begun"))["secret"]
    return secret, pyotp.TOTP(secret).now()


def add_factor(odile):
    return odile.post("me/factors", {"name": "Telephone", "code": begin_codes(odile)[1]})


def remove_factor(odile):
    ok(add_factor(odile))
    return odile.delete(f"me/factors/{Factor.objects.get().id}")


def new_codes(odile):
    ok(add_factor(odile))
    return odile.post("me/factors/codes")


def factors_of_ines(odile):
    ok(add_factor(Asking("ines")))
    return odile.delete("accounts/ines/factors")


def give_factor(odile):
    secret, code = begin_codes(odile)
    ok(odile.post("me/factors", {"name": "Telephone", "code": code}))
    other = Asking(None)
    ok(other.post("session", {"email": "odile@skerrow.example", "password": PASSWORD}))
    return other.post("session/factor", {"code": pyotp.TOTP(secret).at(int(now().timestamp()) + 30)})


def after_hand_in(odile, step, body):
    page = ok(hand_in(odile))
    return odile.post(f"desk/pages/kite-day/{step}", body, **{"If-Match": f'"{page["version"]}"'})


def on_copy(odile, did):
    def send(method, way, body):
        tag = {"If-Match": odile.get(f"{LOFT}/copy")["ETag"]}
        return odile._send(method, f"{LOFT}/copy{way}", body, tag)

    saved = send("patch", "", {"title": "The loft next"})
    if did == "patch":
        return saved
    if did == "delete":
        return odile.client.delete(f"/api/{LOFT}/copy", headers={"If-Match": odile.get(f"{LOFT}/copy")["ETag"]})
    if did != "hand-in":
        ok(send("post", "/hand-in", {}))
    return send("post", f"/{did}", {"note": "Shorter"} if did in ("hand-in", "return") else {})


def to_draft(odile):
    page = ok(odile.post(f"{LOFT}/retire", **TAG))
    return odile.post(f"{LOFT}/to-draft", **{"If-Match": f'"{page["version"]}"'})


def restore(odile):
    saved = ok(odile.patch(LOFT, {"title": "Another loft"}, **TAG))
    return odile.post(f"{LOFT}/versions/1/restore", **{"If-Match": f'"{saved["version"]}"'})


def hand_in(odile):
    return odile.post("desk/pages/kite-day/hand-in", **TAG)


def moderate(odile):
    post = Post.objects.filter(state="held").first()
    return odile.patch(f"desk/pages/{post.node_id}/posts/{post.id}", {"state": "approved"})


def change_markup(odile):
    return odile.put("markup-sets/prose", MARKUP, **TAG)


def drop_markup(odile):
    ok(odile.post("markup-sets", MARKUP), 201)
    return odile.delete("markup-sets/wide")


def account_tag(odile, account="ines"):
    return {"If-Match": odile.get(f"accounts/{account}")["ETag"]}


def address_waits(account):
    return issue(Account.objects.get(pk=account), Ticket.Purpose.EMAIL, email="new@sailloft.example")


def invite_again(odile):
    made = ok(odile.post("accounts", NEW), 201)
    assert Entry.objects.first().kind == "account.invited"
    return odile.post(f"accounts/{made['people'][0]['id']}/invitation", {})


def go(odile):
    Account.objects.filter(pk="odile").update(keyholder=False)
    Assignment.objects.filter(account="odile").delete()
    Membership.objects.filter(account="odile").delete()
    raise_version()
    return odile.post("me/gone", {"current": PASSWORD})


def rename_group(odile):
    return odile.patch("groups/pilots", {"name": "Pilotage"}, **{"If-Match": odile.get("groups/pilots")["ETag"]})


def end_session(odile):
    begin_session(Account.objects.get(pk="odile"), "192.0.2.9", "")
    [other] = [row["id"] for row in ok(odile.get("me/sessions")) if not row["here"]]
    return odile.delete(f"me/sessions/{other}")


def enable(odile):
    Account.objects.filter(pk="ines").update(state="disabled")
    raise_version()
    return odile.post("accounts/ines/enable")


def grant(odile):
    way = ok(odile.get("requests/request-1"))["ways"][0]
    return odile.post("requests/request-1/grant", {"operations": way["operations"]})


def let_odile_hand_out():
    Delegation.objects.create(subject_kind="account", subject_id="odile", roles=["pilot"], receivers_id="pier-3")
    raise_version()


def hand_out(odile):
    let_odile_hand_out()
    return odile.post("handing-out", {"role": "pilot", "account": "noor"})


def handed_out(odile):
    let_odile_hand_out()
    Assignment.objects.create(id="handed", role_id="pilot", account_id="noor")
    raise_version()
    return "handed"


REVIEW = {"name": "All", "reviewers": ["odile"], "due_at": "2099-01-01T00:00:00Z"}


def decide(odile):
    item = ReviewItem.objects.filter(review="review-1").first()
    return odile.post(f"reviews/review-1/items/{item.id}", {"decision": "keep"})


def write_expectations(odile):
    tag = odile.get("expectations/sentences")["ETag"]
    return odile.put("expectations/sentences", "Visitors may not see Harbour office.", **{"If-Match": tag})


WRITES = {
    ("accounts", "post"): (lambda odile: odile.post("accounts", {**NEW, "how": "password"}), "change-set.applied"),
    ("accounts/<slug:account>", "patch"): (
        lambda odile: odile.patch("accounts/ines", {"profile": {"telephone": "7"}}, **account_tag(odile)),
        "account.changed",
    ),
    ("desk/people/<slug:account>", "patch"): (
        lambda odile: odile.patch("desk/people/ines", {"profile": {"telephone": "7"}}, **account_tag(odile)),
        "account.changed",
    ),
    ("accounts/<slug:account>/new-address", "delete"): (
        lambda odile: address_waits("ines") and odile.delete("accounts/ines/new-address"),
        "account.address-let-go",
    ),
    ("me/new-address", "delete"): (
        lambda odile: address_waits("odile") and odile.delete("me/new-address"),
        "account.address-let-go",
    ),
    ("accounts/<slug:account>/invitation", "post"): (invite_again, "account.invited"),
    ("accounts/<slug:account>/password-reset", "post"): (
        lambda odile: odile.post("accounts/ines/password-reset"),
        "account.reset-sent",
    ),
    ("accounts/<slug:account>/disable", "post"): (
        lambda odile: odile.post("accounts/ines/disable", {}),
        "change-set.applied",
    ),
    ("accounts/<slug:account>/enable", "post"): (enable, "change-set.applied"),
    ("requests", "post"): (
        lambda odile: Asking("ines").post("requests", {"action": "edit", "node": "fees"}),
        "request.made",
    ),
    ("requests/<slug:request_id>/grant", "post"): (grant, "request.granted"),
    ("requests/<slug:request_id>/decline", "post"): (
        lambda odile: odile.post("requests/request-1/decline", {}),
        "request.declined",
    ),
    ("accounts/import", "post"): (
        lambda odile: odile.post("accounts/import", {"text": "name,email\nAda,ada@post.example\n", "apply": True}),
        "account.brought-in",
    ),
    ("reviews", "post"): (lambda odile: odile.post("reviews", REVIEW), "review.begun"),
    ("reviews/<slug:review>/items/<slug:item>", "post"): (decide, "review.decided"),
    ("reviews/<slug:review>/close", "post"): (
        lambda odile: odile.post("reviews/review-1/close"),
        "review.closed",
    ),
    ("handing-out", "post"): (hand_out, "change-set.applied"),
    ("locks", "post"): (lambda odile: odile.post("locks", {"node": "fees"}), "change-set.applied"),
    ("locks/<slug:lock>", "delete"): (
        lambda odile: odile.delete(f"locks/{Lock.objects.order_by('pk').first().pk}"),
        "change-set.applied",
    ),
    ("handing-out/<slug:assignment>", "patch"): (
        lambda odile: odile.patch(f"handing-out/{handed_out(odile)}", {"ends": "2099-01-01T00:00:00Z"}),
        "change-set.applied",
    ),
    ("handing-out/<slug:assignment>", "delete"): (
        lambda odile: odile.delete(f"handing-out/{handed_out(odile)}"),
        "change-set.applied",
    ),
    ("groups", "post"): (lambda odile: odile.post("groups", {"name": "Night crew"}), "group.made"),
    ("groups/<slug:group>", "patch"): (rename_group, "group.changed"),
    ("accounts/<slug:account>/portrait", "put"): (
        lambda odile: send(odile, picture(), "/api/accounts/odile/portrait"),
        "account.portrait",
    ),
    ("accounts/<slug:account>/portrait", "delete"): (
        lambda odile: odile.delete("accounts/odile/portrait"),
        "account.portrait",
    ),
    ("accounts/<slug:account>/factors", "delete"): (factors_of_ines, "account.factors-removed"),
    ("letters/<slug:letter>/again", "post"): (
        lambda odile: odile.post(f"letters/{post('ada@post.example', 'Come', 'Hello').id}/again"),
        "letter.tried",
    ),
    ("demands", "put"): (
        lambda odile: odile.put("demands", DEMANDS, **{"If-Match": odile.get("demands")["ETag"]}),
        "demands.changed",
    ),
    ("me/factors", "post"): (add_factor, "account.factor-added"),
    ("me/factors/<slug:factor>", "delete"): (remove_factor, "account.factor-removed"),
    ("me/factors/codes", "post"): (new_codes, "account.codes-made"),
    ("session/factor", "post"): (give_factor, "account.signed-in"),
    ("me", "patch"): (
        lambda odile: odile.patch("me", {"profile": {"telephone": "7"}}, **{"If-Match": odile.get("me")["ETag"]}),
        "account.changed",
    ),
    ("me/password", "post"): (
        lambda odile: odile.post("me/password", {"current": PASSWORD, "password": GOOD}),
        "account.password-chosen",
    ),
    ("me/gone", "post"): (go, "account.taken-away"),
    ("me/sessions", "delete"): (lambda odile: odile.delete("me/sessions"), "account.signed-out"),
    ("me/sessions/<slug:session>", "delete"): (end_session, "account.signed-out"),
    ("session", "post"): (
        lambda odile: odile.post("session", {"email": "odile@skerrow.example", "password": "slack water at noon"}),
        "account.signed-in",
    ),
    ("stand-in", "post"): (lambda odile: odile.post("stand-in", {"account": "ines"}), "stand-in.begun"),
    ("stand-in", "patch"): (look_on, "stand-in.longer"),
    ("stand-in", "delete"): (step_out, "stand-in.ended"),
    ("step-out", "post"): (step_out_on_site, "stand-in.ended"),
    ("roles", "post"): (lambda odile: odile.post("roles", {"name": "Crew"}), "role.made"),
    ("roles/order", "post"): (lambda odile: odile.post("roles/order", {"roles": ["pilot"]}), "role.ordered"),
    ("roles/<slug:role>", "patch"): (lambda odile: odile.patch("roles/pilot", {"name": "P"}, **TAG), "role.changed"),
    ("change-set/apply", "post"): (apply_staged, "change-set.applied"),
    ("change-sets/<slug:change_set>/undo", "post"): (undo, "change-set.undone"),
    ("extensions/<slug:extension>", "put"): (
        lambda odile: odile.put("extensions/tide-table", {"on": False}),
        "extension.switched",
    ),
    ("markup-sets", "post"): (lambda odile: odile.post("markup-sets", MARKUP), "markup.made"),
    ("markup-sets/<slug:markup_set>", "put"): (change_markup, "markup.changed"),
    ("markup-sets/<slug:markup_set>", "delete"): (drop_markup, "markup.dropped"),
    ("desk/pages/<slug:node>", "patch"): (lambda odile: odile.patch(LOFT, {"title": "Loft"}, **TAG), "page.saved"),
    ("begin", "post"): (begin, "installation.begun"),
    ("sites", "post"): (lambda odile: odile.post("sites", {"name": "Slack Water Club"}), "site.made"),
    ("sites/order", "put"): (lambda odile: odile.put("sites/order", {"keys": ["regatta", "harbour"]}), "site.ordered"),
    ("sites/<slug:site>", "patch"): (
        lambda odile: odile.patch("sites/harbour", {"footer": "By the quay"}, **TAG),
        "site.changed",
    ),
    ("kinds", "post"): (
        lambda odile: odile.post("kinds", {"name": "Knot", "plural": "knots", "under": ["section"]}),
        "kind.made",
    ),
    ("kinds/<slug:kind>", "patch"): (
        lambda odile: odile.patch("kinds/berth", {"name": "Berth"}, **TAG),
        "kind.changed",
    ),
    ("kinds/<slug:kind>/fields", "post"): (
        lambda odile: odile.post("kinds/berth/fields", {"name": "Insurance ends", "kind": "date"}, **TAG),
        "field.added",
    ),
    ("kinds/<slug:kind>/fields", "put"): (
        lambda odile: odile.put("kinds/berth/fields", {"order": ["dues", "berth_number", "telephone", "plan"]}, **TAG),
        "field.ordered",
    ),
    ("kinds/<slug:kind>/fields/<slug:field>", "patch"): (
        lambda odile: odile.patch("kinds/berth/fields/plan", {"retired": True}, **TAG),
        "field.changed",
    ),
    ("kinds/<slug:kind>/fields/<slug:field>", "delete"): (purge, "field.purged"),
    ("topics", "post"): (lambda odile: odile.post("topics", {"name": "Knots"}), "topic.added"),
    ("topics/<slug:topic>", "patch"): (rename_topic, "topic.renamed"),
    ("topics/<slug:topic>", "delete"): (remove_topic, "topic.removed"),
    ("topics/<slug:topic>/merge", "post"): (merge_topic, "topic.merged"),
    ("desk/pages", "post"): (
        lambda odile: odile.post("desk/pages", {"parent": "events", "type": "event", "title": "Supper"}),
        "page.made",
    ),
    ("desk/media", "post"): (lambda odile: send_file(odile, photograph()), "page.made"),
    ("desk/media/<slug:node>/replace", "post"): (replace_file, "page.file"),
    ("desk/many", "post"): (
        lambda odile: odile.post("desk/many", {"nodes": ["p3-sail-loft"], "action": "retire"}),
        "page.retired",
    ),
    ("desk/pages/<slug:node>/move", "post"): (lambda odile: odile.post(f"{LOFT}/move", **TAG), "page.moved"),
    ("desk/pages/<slug:node>/hand-on", "post"): (
        lambda odile: odile.post(f"{LOFT}/hand-on", {"account": "halla"}, **TAG),
        "page.handed-on",
    ),
    ("desk/pages/<slug:node>/duplicate", "post"): (lambda odile: odile.post(f"{LOFT}/duplicate"), "page.made"),
    ("desk/pages/<slug:node>/remove", "post"): (lambda odile: odile.post(f"{LOFT}/remove", **TAG), "page.removed"),
    ("desk/pages/<slug:node>/restore", "post"): (bring_back, "page.brought-back"),
    ("desk/bin/<slug:node>", "delete"): (empty_bin, "page.emptied"),
    ("desk/pages/<slug:node>/hand-in", "post"): (hand_in, "page.handed-in"),
    ("desk/pages/<slug:node>/copy", "patch"): (lambda odile: on_copy(odile, "patch"), "page.copy-saved"),
    ("desk/pages/<slug:node>/copy", "delete"): (lambda odile: on_copy(odile, "delete"), "page.copy-discarded"),
    ("desk/pages/<slug:node>/copy/hand-in", "post"): (
        lambda odile: on_copy(odile, "hand-in"),
        "page.copy-handed-in",
    ),
    ("desk/pages/<slug:node>/copy/take-back", "post"): (
        lambda odile: on_copy(odile, "take-back"),
        "page.copy-taken-back",
    ),
    ("desk/pages/<slug:node>/copy/return", "post"): (lambda odile: on_copy(odile, "return"), "page.copy-returned"),
    ("desk/pages/<slug:node>/copy/publish", "post"): (
        lambda odile: on_copy(odile, "publish"),
        "page.copy-published",
    ),
    ("desk/pages/<slug:node>/versions/<int:number>/restore", "post"): (restore, "page.saved"),
    ("desk/pages/<slug:node>/take-back", "post"): (
        lambda odile: after_hand_in(odile, "take-back", {}),
        "page.taken-back",
    ),
    ("desk/pages/<slug:node>/return", "post"): (
        lambda odile: after_hand_in(odile, "return", {"note": "Shorter."}),
        "page.returned",
    ),
    ("desk/pages/<slug:node>/to-draft", "post"): (to_draft, "page.to-draft"),
    ("desk/pages/<slug:node>/publish", "post"): (
        lambda odile: odile.post("desk/pages/kite-day/publish", **TAG),
        "page.published",
    ),
    ("desk/pages/<slug:node>/retire", "post"): (lambda odile: odile.post(f"{LOFT}/retire", **TAG), "page.retired"),
    ("desk/pages/<slug:node>/listing", "put"): (
        lambda odile: odile.put(f"{LOFT}/listing", LISTING, **TAG),
        "listing.saved",
    ),
    ("sites/<slug:site>/listing", "put"): (
        lambda odile: odile.put("sites/harbour/listing", LISTING, **TAG),
        "listing.saved",
    ),
    ("desk/pages/<slug:node>/posts/<slug:post>", "patch"): (moderate, "post.moderated"),
    ("expectations", "post"): (lambda odile: odile.post("expectations", EXPECTED), "expectation.recorded"),
    ("expectations/<slug:expectation>", "delete"): (
        lambda odile: odile.delete("expectations/expectation-01"),
        "expectation.dropped",
    ),
    ("expectations/sentences", "put"): (write_expectations, "expectations.written"),
    ("walk-lists", "post"): (lambda odile: odile.post("walk-lists", {"role": "pilot"}), "walk-list.made"),
    ("walk-lists/<slug:walk_list>", "delete"): (
        lambda odile: odile.delete("walk-lists/walk-regatta-crew"),
        "walk-list.dropped",
    ),
    ("walk-lists/<slug:walk_list>/given", "post"): (
        lambda odile: odile.post("walk-lists/walk-tenant-editor/given", {"account": "ines"}),
        "walk-list.given",
    ),
    ("walk-lists/<slug:walk_list>/given/<slug:account>", "delete"): (
        lambda odile: odile.delete("walk-lists/walk-tenant-editor/given/anouk"),
        "walk-list.taken-back",
    ),
}
NOTHING_HAPPENS = {
    ("desk/pages/<slug:node>/preview", "post"): "nothing is written",
    ("desk/pages/<slug:node>/copy/preview", "post"): "nothing is written",
    ("desk/pages/<slug:node>/here", "put"): "it is only for the eye",
    ("accounts/address", "post"): "nothing is written",
    ("rehearsal/reads", "post"): "nothing is written",
    ("rehearsal/steps/<int:step>", "delete"): "nothing of a rehearsal is kept",
    ("accounts/letter", "post"): "nothing is written",
    ("accounts/foreseen", "post"): "nothing is written",
    ("accounts/many", "post"): "what is staged is one's own",
    ("accounts/many/preview", "post"): "nothing is written",
    ("groups/<slug:group>/ending", "post"): "what is staged is one's own",
    ("roster-views", "post"): "it is only for the eye",
    ("roster-views/<slug:view>", "delete"): "it is only for the eye",
    ("scope", "post"): "nothing is written",
    ("session/forgotten", "post"): "the worker does it, and leaves an entry where it does anything",
    ("welcome", "post"): "nothing is written",
    ("welcome/password", "post"): "nothing is written",
    ("welcome/use", "post"): "it is written by whoever chose the password: tests/api/assign/test_taking_on.py",
    ("session", "delete"): "signing out changes nothing",
    ("catalogue/looked-at", "post"): "it is only for the eye",
    ("markup-sets/risk", "post"): "nothing is written",
    ("session/factor", "put"): "it only asks",
    ("session/proof", "put"): "it only asks",
    ("session/proof", "post"): "it tells of whoever is there, and nothing happens",
    ("me/factors/begun", "post"): "nothing counts before it is confirmed",
    ("me/factors/begun", "put"): "nothing counts before it is confirmed",
    ("change-set/preview", "post"): "nothing is written",
    ("why/changes", "post"): "nothing is written",
    ("sentences", "post"): "nothing is written",
    ("reports", "post"): "it is only for its maker",
    ("reports/<slug:report>", "delete"): "it is only for its maker",
    ("limits/cells", "post"): "nothing is written",
    ("handing-out/foreseen", "post"): "nothing is written",
    ("accounts/<slug:account>/disable/foreseen", "post"): "nothing is written",
    ("change-set/preview/touched", "post"): "nothing is written",
    ("change-set", "delete"): "what is staged is one's own",
    ("change-set/operations", "post"): "what is staged is one's own",
    ("change-set/operations/<int:position>", "delete"): "what is staged is one's own",
    ("change-set/operations/<int:position>/rebase", "post"): "what is staged is one's own",
    ("change-set/put-aside", "post"): "what is staged is one's own",
    ("change-sets/<slug:change_set>/take-up", "post"): "what is staged is one's own",
    ("change-set/undo", "post"): "what is staged is one's own",
    ("roles/<slug:role>/removal", "post"): "what is staged is one's own",
}


def test_every_writing_view_is_listed():
    writing = {
        (str(route.pattern).removeprefix("api/"), method)
        for route in routes()
        for method in methods_of(view_of(route))
        if method not in ("get", "head", "options")
    }
    assert writing == WRITES.keys() | NOTHING_HAPPENS.keys()


@pytest.mark.parametrize("write", WRITES, ids=" ".join)
def test_it_leaves_one_entry_of_its_own_kind(odile, write):
    asking, kind = WRITES[write]
    before = Entry.objects.filter(kind=kind).count()
    response = asking(odile)
    assert response.status_code < 400, response.content
    entry = Entry.objects.first()
    assert (entry.kind, entry.actor) == (kind, "ines" if write == ("requests", "post") else "odile")
    assert entry.summary
    assert Entry.objects.filter(kind=kind).count() - before == (2 if asking in (invite_again, restore) else 1)
