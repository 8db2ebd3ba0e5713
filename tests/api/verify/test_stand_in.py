"""Standing in: the desk as they have it, look only, under the X-ray, with what is staged."""

from datetime import timedelta

import pytest
from django.utils.dateparse import parse_datetime

from gonfalon.access.models import ChangeSet, Delegation
from gonfalon.access.snapshot import current
from gonfalon.accounts.models import Account
from gonfalon.clock import now
from gonfalon.content.models import Node
from gonfalon.ledger.models import Entry
from tests.api.support import PASSWORD, apply, in_tree, ok, refused, stage

LOFT = "desk/pages/p3-sail-loft"
STOP = {"kind": "set-limit", "node": "n-seals", "effect": "stop", "applies": "branch", "actions": ["edit"]}


@pytest.fixture
def as_ines(odile):
    ok(odile.post("stand-in", {"account": "ines", "came_from": "/assign/ines?role=pilot"}), 204)
    return odile


def test_decisions_are_theirs_and_both_names_are_told(as_ines):
    session = ok(as_ines.get("session"))
    assert (session["actor"]["name"], session["subject"]["name"]) == ("Odile Varga", "Ines Marrow")
    assert session["places"] == ["desk"]
    assert session["standing_in"]["came_from"] == "/assign/ines?role=pilot"
    assert "edit" in ok(as_ines.get(LOFT))["may"]
    refused(as_ines.get("roles"), "not-granted")
    refused(as_ines.get("desk/pages/min-2026-10"), "not-found", 404)
    entry = Entry.objects.first()
    assert (entry.actor, entry.kind, entry.about_id) == ("odile", "stand-in.begun", "ines")


def test_every_writing_request_is_refused_with_a_reason_that_says_so(as_ines):
    tag = {"If-Match": as_ines.get(LOFT)["ETag"]}
    for response in (
        as_ines.patch(LOFT, {"title": "Mine"}, **tag),
        as_ines.post(f"{LOFT}/retire", **tag),
        as_ines.post("roles", {"name": "Mine"}),
        as_ines.post("change-set/apply"),
        as_ines.delete("expectations/expectation-01"),
        as_ines.post("stand-in", {"account": "aiko"}),
    ):
        problem = refused(response, "look-only")
        assert "until you step out" in problem["detail"]
    assert Node.objects.get(pk="p3-sail-loft").version == 1


def test_stepping_out_leads_back(as_ines):
    ok(as_ines.delete("stand-in"), 204)
    session = ok(as_ines.get("session"))
    assert session["standing_in"] is None
    assert session["subject"]["name"] == "Odile Varga"
    assert Entry.objects.first().kind == "stand-in.ended"


def test_it_ends_by_itself(as_ines):
    session = as_ines.client.session
    session["standing_in"] = session["standing_in"] | {"until": (now() - timedelta(seconds=1)).isoformat()}
    session.save()
    # The screen still shows her desk: nothing it sends may count as Odile's.
    tag = {"If-Match": '"1"'}
    refused(as_ines.patch(LOFT, {"title": "Mine"}, **tag), "stand-in-over")
    assert ok(as_ines.get("session"))["standing_in"] is None
    ok(as_ines.patch(LOFT, {"title": "Odile's now"}, **tag))


def test_it_lasts_half_an_hour(as_ines):
    until = parse_datetime(as_ines.client.session["standing_in"]["until"])
    assert timedelta(minutes=29, seconds=50) < until - now() <= timedelta(minutes=30)
    assert ok(as_ines.get("session"))["standing_in"]["until"] == until.isoformat().replace("+00:00", "Z")


def test_it_lasts_longer_by_one_word(as_ines, monkeypatch):
    before = parse_datetime(ok(as_ines.get("session"))["standing_in"]["until"])
    later = now() + timedelta(minutes=20)
    monkeypatch.setattr("gonfalon.viewpoint.session.now", lambda: later)
    ok(as_ines.patch("stand-in", None), 204)
    session = ok(as_ines.get("session"))
    assert parse_datetime(session["standing_in"]["until"]) - before >= timedelta(minutes=20)
    assert session["standing_in"]["came_from"] == "/assign/ines?role=pilot"
    ok(as_ines.delete("stand-in"), 204)
    refused(as_ines.patch("stand-in", None), "conflict", 409)


def test_everybody_is_told_who_stood_in_for_them_and_nothing_of_others(odile, ask):
    stage(odile, STOP | {"to": {"kind": "role", "id": "pilot"}})
    ok(odile.post("stand-in", {"account": "ines"}), 204)
    refused(odile.get("me/stood-in"), "look-only")
    ok(odile.delete("stand-in"), 204)
    ok(odile.post("stand-in", {"account": "ines", "staged": True, "mode": "rehearse"}), 204)
    told = [(row["by"], row["rehearsed"], row["staged"]) for row in ok(ask("ines").get("me/stood-in"))]
    assert told == [("Odile Varga", True, True), ("Odile Varga", False, False)]
    assert ok(ask("halla").get("me/stood-in")) == []


def test_it_ends_as_soon_as_the_other_may_do_what_one_may_not(ask, odile):
    bashir = ask("bashir")
    ok(bashir.post("stand-in", {"account": "tomasz"}), 204)
    assert ok(bashir.get("session"))["subject"]["name"] == "Tomasz Okafor"
    give = {"kind": "give-role", "role": "pilot", "to": {"kind": "account", "id": "tomasz"}, "scope": {}}
    apply(odile, give)
    refused(bashir.post("roles", {"name": "Mine"}), "stand-in-over")
    assert ok(bashir.get("session"))["standing_in"] is None


def test_the_refusal_names_what_only_the_other_may_do(ask, odile):
    bashir = ask("bashir")
    stop = {"kind": "set-limit", "node": "n-seals", "to": {"kind": "account", "id": "bashir"}, "effect": "stop"}
    apply(odile, stop | {"applies": "node", "actions": ["publish"]})
    assert refused(bashir.post("stand-in", {"account": "tomasz"}), "beyond")["detail"] == (
        "You may not stand in for Tomasz Okafor. They may publish “Seals on the north slip”, and you may not."
    )


def test_with_what_is_staged_it_ends_when_the_mark_goes(odile):
    ok(odile.post("stand-in", {"account": "ines", "staged": True}), 204)
    assert ok(odile.get("session"))["standing_in"]["staged"]
    Account.objects.filter(pk="tomasz").update(keyholder=True)
    Account.objects.filter(pk="odile").update(keyholder=False)
    apply_version_change()
    assert ok(odile.get("session"))["standing_in"] is None


def test_with_what_is_staged_it_stays_while_the_mark_does(odile):
    """Any other change of access leaves it: only who may do less ends it."""
    ok(odile.post("stand-in", {"account": "ines", "staged": True}), 204)
    Account.objects.filter(pk="tomasz").update(keyholder=True)
    apply_version_change()
    assert ok(odile.get("session"))["standing_in"]["staged"]


def test_what_somebody_may_hand_out_is_told_as_theirs_and_not_as_ones_own(odile):
    """Odile may give everything; standing in she is told what Joost may, and nothing once he may nothing (§9)."""
    ok(odile.post("stand-in", {"account": "joost"}), 204)
    assert [role["key"] for role in ok(odile.get("handing-out"))["roles"]] == ["regatta-crew"]
    assert "hand-out" in ok(odile.get("session"))["places"]
    ok(odile.delete("stand-in"), 204)
    Delegation.objects.all().delete()
    apply_version_change()
    ok(odile.post("stand-in", {"account": "joost"}), 204)
    assert "hand-out" not in ok(odile.get("session"))["places"]


def test_it_ends_when_the_account_is_disabled(as_ines):
    Account.objects.filter(pk="ines").update(state="disabled")
    apply_version_change()
    assert ok(as_ines.get("session"))["standing_in"] is None


def apply_version_change():
    from gonfalon.access.snapshot import raise_version

    raise_version()


@pytest.mark.parametrize(
    ("actor", "subject", "reason"),
    [
        ("bashir", "odile", "beyond"),
        ("bashir", "ludo", "beyond"),
        ("odile", "agnes", "inactive"),
        ("ines", "aiko", "not-granted"),
    ],
)
def test_never_for_someone_who_can_do_more(ask, actor, subject, reason):
    asking = ask(actor)
    refused(asking.post("stand-in", {"account": subject}), reason)
    assert ok(asking.get("session"))["standing_in"] is None


@pytest.mark.parametrize("came_from", ["//elsewhere.example", "https://elsewhere.example", "/\\elsewhere"])
def test_the_way_back_leads_nowhere_else(odile, came_from):
    problem = refused(odile.post("stand-in", {"account": "ines", "came_from": came_from}), "invalid", 422)
    assert problem["errors"][0]["pointer"] == "/came_from"


def test_no_such_account(odile):
    refused(odile.post("stand-in", {"account": "nobody"}), "invalid", 422)


class TestXray:
    def test_the_tree_tells_what_is_hidden_and_why(self, as_ines):
        rows = in_tree(as_ines, of="xray")
        assert rows["min-2026-10"]["closed"] == {"seen": False, "reason": "barred"}
        assert rows["p5-chandlery"]["closed"] == {"seen": True, "reason": "out-of-extent"}
        assert rows["p3-sail-loft"]["closed"] is None
        assert rows.keys() == {n.id for n in Node.objects.all() if current().catalogue.type(n.type).tree == "content"}

    def test_a_hidden_node_is_found_by_words_and_the_way_to_it_told(self, as_ines):
        rows = {row["id"]: row for row in ok(as_ines.get("xray/found", words="minutes of october"))}
        assert rows["min-2026-10"]["closed"]["reason"] == "barred"
        way = {row["id"] for row in ok(as_ines.get("xray/way/min-2026-10"))}
        assert {"min-2026-10", "min-2026-11", "harbour-office", "notices"} <= way
        refused(as_ines.get("desk/way/min-2026-10"), "not-found", 404)

    def test_media_too_where_they_have_none(self, odile):
        ok(odile.post("stand-in", {"account": "aiko"}), 204)
        assert ok(odile.get("xray/children", tree="media"))
        refused(odile.get("desk/children", tree="media"), "not-granted")

    def test_a_page_tells_what_is_closed_on_it(self, as_ines):
        shown = ok(as_ines.get("xray/pages/p3-sail-loft"))
        ghosts = {(g["kind"], g["key"]): g["reason"] for g in shown["ghosts"]}
        assert ghosts["action", "publish"] == "not-granted"
        assert ghosts["facet", "p3-sail-loft-heading.layout"] == "facet"
        assert ghosts["facet", "p3-sail-loft-banner.wording"] == "locked"
        assert ghosts["component", "table"] == "component"

    def test_it_gives_names_but_no_values(self, odile, as_ines):
        ok(as_ines.delete("stand-in"), 204)
        rule = {"kind": "set-field-rule", "type": "berth", "field": "dues", "mode": "table"}
        apply(odile, rule | {"table": {"duty-editor": ["see-all"]}})
        ok(odile.post("stand-in", {"account": "ines"}), 204)
        answer = odile.get("xray/pages/p3-sail-loft")
        assert {"kind": "field", "key": "dues", "name": "Annual dues", "reason": "field"} in answer.data_read["ghosts"]
        assert b"2180" not in answer.content

    def test_it_shows_nothing_the_actor_may_not_see_either(self, ask):
        ludo = ask("ludo")
        ok(ludo.post("stand-in", {"account": "kwame"}), 204)
        rows = in_tree(ludo, of="xray")
        assert not rows["r-night"]["closed"]["seen"]  # a draft that Ludo sees and Kwame does not
        assert "min-2026-10" not in rows  # closed to both
        office = rows["harbour-office"]  # known to Ludo by name alone: what stands in it he may see
        assert (office["context"], office["closed"], office["type"]) == (True, None, None)
        refused(ludo.get("xray/way/min-2026-10"), "not-found", 404)
        refused(ludo.get("xray/pages/min-2026-10"), "not-found", 404)

    def test_only_while_standing_in(self, odile):
        for path in ("children", "children/events", "way/events", "found"):
            refused(odile.get(f"xray/{path}"), "not-standing-in", 409)


def test_the_crossbar_has_figures_for_open_places_only(odile, ines):
    figures = ok(odile.get("crossbar"))
    assert (figures["roles"], figures["accounts"], figures["limits"]) == (14, 86, 10)
    assert (figures["holding"], figures["expectations"]) == (11, 12)
    assert set(ok(ines.get("crossbar")).values()) == {None}


def test_with_what_is_staged_the_desk_is_as_it_would_be_and_nothing_is_applied(odile):
    stage(odile, {"kind": "set-answer", "role": "tenant-editor", "capability": "berth.publish", "says": "own"})
    before = current().policy
    ok(odile.post("stand-in", {"account": "ines", "staged": True}), 204)
    assert ok(odile.get("session"))["standing_in"]["staged"] is True
    assert "publish" in ok(odile.get(LOFT))["may"]
    why = ok(odile.get("why", account="ines", action="publish", node="p3-sail-loft"))
    assert why["allow"] is True
    refused(odile.post(f"{LOFT}/publish"), "look-only")
    assert "with what was staged" in Entry.objects.first().summary
    ok(odile.delete("stand-in"), 204)
    assert current().policy == before
    ok(odile.post("stand-in", {"account": "ines"}), 204)
    assert "publish" not in ok(odile.get(LOFT))["may"]


class TestWithWhatIsStaged:
    """§7: the other's answers are those under what is staged, one's own those in force."""

    PILOT = {"kind": "give-role", "role": "pilot", "scope": {}}
    TOMASZ, BASHIR = ({"to": {"kind": "account", "id": id}} for id in ("tomasz", "bashir"))

    def staged(self, odile, *operations):
        stage(odile, *operations)
        ChangeSet.objects.filter(owner="odile", state="open").update(owner="bashir")

    def test_not_where_they_could_then_do_more(self, ask, odile):
        self.staged(odile, self.PILOT | self.TOMASZ)
        bashir = ask("bashir")
        problem = refused(bashir.post("stand-in", {"account": "tomasz", "staged": True}), "beyond")
        assert problem["detail"].startswith("You may not stand in for Tomasz Okafor. They may ")
        ok(bashir.post("stand-in", {"account": "tomasz"}), 204)

    def test_what_one_would_be_given_too_counts_for_nothing(self, ask, odile):
        self.staged(odile, self.PILOT | self.TOMASZ, self.PILOT | self.BASHIR)
        refused(ask("bashir").post("stand-in", {"account": "tomasz", "staged": True}), "beyond")

    def test_for_whoever_may_do_no_more_than_oneself_and_for_as_long(self, ask, odile):
        self.staged(odile, STOP | self.TOMASZ)
        bashir = ask("bashir")
        ok(bashir.post("stand-in", {"account": "tomasz", "staged": True}), 204)
        assert "edit" not in ok(bashir.get("desk/pages/n-seals"))["may"]
        assert ok(bashir.get("session"))["subject"]["name"] == "Tomasz Okafor"
        apply(odile, STOP | self.BASHIR | {"node": "notices", "actions": ["see"]})
        refused(bashir.post("roles", {"name": "Mine"}), "stand-in-over")

    def test_it_ends_when_what_is_staged_gives_them_more(self, ask, odile):
        self.staged(odile, STOP | self.TOMASZ)
        bashir = ask("bashir")
        ok(bashir.post("stand-in", {"account": "tomasz", "staged": True}), 204)
        ChangeSet.objects.filter(owner="bashir", state="open").delete()
        self.staged(odile, self.PILOT | self.TOMASZ)
        assert ok(bashir.get("session"))["standing_in"] is None

    def test_nobody_who_would_be_disabled(self, ask, odile):
        self.staged(odile, {"kind": "set-state", "account": "tomasz", "state": "disabled"})
        refused(ask("bashir").post("stand-in", {"account": "tomasz", "staged": True}), "inactive")


def test_a_duty_on_one_site_counts(ask, odile):
    """Sitewide capabilities are compared for each site (§7)."""
    only = {"capability": "site.settings", "says": "yes", "scope": {"sites": ["regatta"]}}
    apply(odile, {"kind": "give-capability", "to": {"kind": "account", "id": "tomasz"}, **only})
    problem = refused(ask("bashir").post("stand-in", {"account": "tomasz"}), "beyond")
    assert "settings" in problem["detail"]


def test_without_the_roster_nobody_learns_who_there_is_by_what_is_staged_either(ask, odile):
    apply(odile, {"kind": "set-answer", "role": "pilot", "capability": "impersonate.start", "says": "yes"})
    asked = [ask("gwenda").post("stand-in", {"account": id, "staged": True}).content for id in ("ines", "nobody")]
    assert asked[0] == asked[1]


class TestForWhoseEyes:
    """What a screen writes says for whose eyes it was drawn."""

    def save(self, asking, eyes):
        tag = {"If-Match": asking.get(LOFT)["ETag"]}
        return asking.patch(LOFT, {"title": "Loft"}, **tag, **{"Drawn-For": eyes})

    def eyes(self, asking):
        return ok(asking.get("session"))["eyes"]

    def test_what_was_drawn_before_standing_in_began_changes_nothing(self, odile):
        mine = self.eyes(odile)
        ok(odile.post("stand-in", {"account": "ines"}), 204)
        assert self.eyes(odile) != mine
        refused(self.save(odile, mine), "drawn-for-another", 409)
        refused(self.save(odile, self.eyes(odile)), "look-only")

    def test_what_was_drawn_while_standing_in_does_not_count_as_ones_own(self, as_ines):
        hers = self.eyes(as_ines)
        ok(as_ines.delete("stand-in"), 204)
        refused(self.save(as_ines, hers), "drawn-for-another", 409)
        assert Node.objects.get(pk="p3-sail-loft").title != "Loft"
        ok(self.save(as_ines, self.eyes(as_ines)))

    def test_with_what_is_staged_they_are_others(self, odile):
        ok(odile.post("stand-in", {"account": "ines"}), 204)
        plain = self.eyes(odile)
        ok(odile.delete("stand-in"), 204)
        ok(odile.post("stand-in", {"account": "ines", "staged": True}), 204)
        assert self.eyes(odile) != plain

    def test_stepping_out_and_signing_out_are_meant_anyhow(self, as_ines):
        for path in ("stand-in", "session"):
            response = as_ines.client.delete(f"/api/{path}", headers={"Drawn-For": "somebody-else"})
            assert response.status_code == 204
        signing_in = {"email": "ines@sailloft.example", "password": PASSWORD}
        ok(as_ines.post("session", signing_in, **{"Drawn-For": "somebody-else"}))
