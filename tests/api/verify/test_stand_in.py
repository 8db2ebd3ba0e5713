"""Standing in: the desk as they have it, look only, the X-ray, why, and expectations."""

from datetime import timedelta

import pytest
from django.utils.dateparse import parse_datetime

from gonfalon.access.models import ChangeSet, PolicyChange
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


class TestAtAnotherMoment:
    """Aiko holds Season intern for a few weeks yet; Kwame holds nothing."""

    def seen(self, odile, account, at, path="session"):
        ok(odile.post("stand-in", {"account": account, "at": at.isoformat()}), 204)
        told = ok(odile.get(path))
        ok(odile.delete("stand-in"), 204)
        return told

    def test_what_ends_by_then_is_over(self, odile):
        assert "desk" in self.seen(odile, "aiko", now() + timedelta(days=1))["places"]
        later = self.seen(odile, "aiko", now() + timedelta(days=60))
        assert later["places"] == []
        assert later["subject"]["roles"] == []
        assert later["standing_in"]["at"] is not None

    def test_what_one_is_told_beside_it_is_what_one_may_know_now(self, odile, ask):
        before = now()
        stop = STOP | {"node": "crab-race", "actions": ["see"], "to": {"kind": "role", "id": "site-steward"}}
        for moment in (None, before.isoformat()):
            ludo = ask("ludo")
            ok(ludo.post("stand-in", {"account": "kwame", "at": moment}), 204)
            shown = {row["id"] for row in ok(ludo.get("xray/found?id=crab-race"))}
            assert ("crab-race" in shown) == (moment is None)
            ok(ludo.delete("stand-in"), 204)
            if moment is None:
                apply(odile, stop)

    def test_longer_is_counted_from_now(self, odile):
        ok(odile.post("stand-in", {"account": "aiko", "at": (now() + timedelta(days=60)).isoformat()}), 204)
        ok(odile.patch("stand-in", None), 204)
        until = parse_datetime(ok(odile.get("session"))["standing_in"]["until"])
        assert until - now() <= timedelta(minutes=30)

    def test_what_begins_by_then_is_there(self, odile):
        starts = now() + timedelta(days=7)
        give = {"kind": "give-role", "role": "picture-desk", "to": {"kind": "account", "id": "kwame"}}
        apply(odile, give | {"scope": {}, "starts": starts.isoformat()})
        assert self.seen(odile, "kwame", now() + timedelta(days=6))["places"] == []
        assert self.seen(odile, "kwame", starts + timedelta(hours=1))["places"] == ["desk"]

    def test_a_moment_that_is_past_is_as_it_was_then_over_the_pages_of_now(self, odile):
        before = now()
        apply(odile, {"kind": "set-answer", "role": "tenant-editor", "capability": "desk.open", "says": "barred"})
        assert self.seen(odile, "ines", now() + timedelta(days=1))["places"] == []
        assert self.seen(odile, "ines", before)["places"] == ["desk"]
        assert self.seen(odile, "ines", before, LOFT)["title"] == "Pier 3, Sail loft"

    def test_with_what_is_staged_it_is_a_moment_to_come(self, odile):
        body = {"account": "ines", "staged": True}
        past, later = (now() + timedelta(days=days) for days in (-1, 60))
        wrong = refused(odile.post("stand-in", body | {"at": past.isoformat()}), "invalid", 422)
        assert wrong["errors"][0]["pointer"] == "/at"
        stage(odile, {"kind": "set-answer", "role": "tenant-editor", "capability": "ledger.read", "says": "yes"})
        ok(odile.post("stand-in", body | {"at": later.isoformat()}), 204)
        assert ok(odile.get("session"))["places"] == ["desk", "ledger"]

    def test_nothing_is_known_of_a_moment_before_all_that_is_kept(self, odile):
        PolicyChange.objects.update_or_create(version=current().version, defaults={"at": now(), "changes": None})
        problem = refused(odile.post("stand-in", {"account": "ines", "at": "2001-01-01T00:00:00Z"}), "invalid", 422)
        [error] = problem["errors"]
        assert error["pointer"] == "/at"
        assert error["message"].startswith("The policy is known from ")
        for wrong in ("yesterday", "2026-13-40", 7):
            refused(odile.post("stand-in", {"account": "ines", "at": wrong}), "invalid", 422)

    def test_whoever_came_later_was_not_here_then(self, odile):
        before = now()
        new = {"name": "Pia Holm", "email": "pia@skerrow.example", "how": "password"}
        made = ok(odile.post("accounts", new), 201)
        body = {"account": made["id"], "at": before.isoformat()}
        problem = refused(odile.post("stand-in", body), "invalid", 422)
        assert problem["errors"] == [{"pointer": "/at", "message": "Pia Holm was not here then."}]

    def test_whoever_stands_in_is_as_they_are_now(self, odile, ask):
        """Ludo may do nothing more by choosing a moment at which the other could do more."""
        give = {"kind": "give-role", "role": "harbour-lead", "to": {"kind": "account", "id": "kwame"}, "scope": {}}
        starts = now() + timedelta(days=7)
        apply(odile, give | {"starts": starts.isoformat()})
        ludo = ask("ludo")
        ok(ludo.post("stand-in", {"account": "kwame"}), 204)
        ok(ludo.delete("stand-in"), 204)
        later = (starts + timedelta(days=1)).isoformat()
        refused(ludo.post("stand-in", {"account": "kwame", "at": later}), "beyond")


def test_everybody_is_told_who_stood_in_for_them_and_nothing_of_others(odile, ask):
    stage(odile, STOP | {"to": {"kind": "role", "id": "pilot"}})
    ok(odile.post("stand-in", {"account": "ines"}), 204)
    refused(odile.get("me/stood-in"), "look-only")
    ok(odile.delete("stand-in"), 204)
    ok(odile.post("stand-in", {"account": "ines", "staged": True}), 204)
    told = [(row["by"], row["staged"]) for row in ok(ask("ines").get("me/stood-in"))]
    assert told == [("Odile Varga", True), ("Odile Varga", False)]
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


class TestWhy:
    def test_the_trail_in_words_with_the_roles_that_spoke(self, as_ines):
        why = ok(as_ines.get("why", action="publish", node="p3-sail-loft"))
        assert (why["allow"], why["reason"]) == (False, "not-granted")
        assert why["title"] == "Why can’t Ines publish this page?"
        assert why["steps"][0]["role"]["key"] == "tenant-editor"
        assert why["steps"][0]["text"] == "Tenant editor says publish berth pages is withheld."

    @pytest.mark.parametrize(
        ("node", "action", "text"),
        [
            ("p3-sail-loft", "edit", "Tenant editor, held through Tenants everywhere, gives edit berth pages (own)."),
            ("p5-chandlery", "edit", "Tenant editor gives edit berth pages, but only what one wrote oneself."),
            ("min-2026-10", "see", "A limit on Harbour office bars it for Tenants."),
            (
                "open-day",
                "edit",
                "Regatta crew gives edit events, but is held through Race office only on the site Skerrow Regatta.",
            ),
            ("n-seals", "remove", "Tenant editor bars it, and a bar beats every grant."),
        ],
    )
    def test_each_reason_has_its_sentence(self, as_ines, node, action, text):
        assert text in [s["text"] for s in ok(as_ines.get("why", action=action, node=node))["steps"]]

    def test_parts_and_duties_too(self, as_ines):
        facet = ok(as_ines.get("why", action="change-facet", node="p3-sail-loft", component="heading", facet="layout"))
        assert facet["title"] == "Why can’t Ines change the layout of this heading?"
        assert facet["steps"][-1]["text"] == "Tenant editor keeps the layout of a heading closed."
        lock = ok(
            as_ines.get(
                "why",
                action="change-facet",
                node="p3-sail-loft",
                component="banner",
                facet="wording",
                component_id="p3-sail-loft-banner",
            )
        )
        assert lock["steps"][-1]["text"] == "It is locked by Odile Varga: the same on every berth page."
        assert ok(as_ines.get("why", action="roles.define"))["reason"] == "not-granted"

    def test_about_making_something_it_asks_about_that_and_not_about_the_section(self, odile):
        asked = {"action": "create", "node": "events", "account": "ines"}
        event = ok(odile.get("why", type="event", **asked))
        assert (event["allow"], event["title"]) == (True, "Why can Ines make events here?")
        notice = ok(odile.get("why", type="notice", **asked))
        assert (notice["reason"], notice["title"]) == ("not-granted", "Why can’t Ines make notices to mariners here?")
        wrong = refused(odile.get("why", **asked), "invalid", 422)
        assert wrong["errors"] == [{"pointer": "/type", "message": "Say what kind of page would be made."}]

    def test_of_a_role_it_names_the_role(self, odile):
        why = ok(odile.get("why", role="tenant-editor", action="publish", node="p3-sail-loft"))
        assert why["title"] == "Why can’t a holder of Tenant editor publish this page?"
        assert why["steps"][-1]["text"] == "Nothing else gives it to a holder of Tenant editor."

    def test_of_any_account_without_standing_in(self, odile):
        why = ok(odile.get("why", account="renzo", action="publish", node="n-seals"))
        assert why["reason"] == "not-granted"
        keyholder = ok(odile.get("why", action="edit", node="n-seals"))
        assert keyholder["steps"][0]["text"] == "Odile Varga is a keyholder, and a keyholder may do everything."

    def test_what_cannot_be_asked_is_named(self, odile):
        assert refused(odile.get("why", action="sink"), "invalid", 422)["errors"][0]["pointer"] == "/action"
        assert refused(odile.get("why", action="edit"), "invalid", 422)["errors"][0]["pointer"] == "/node"
        refused(odile.get("why", action="edit", node="atlantis"), "not-found", 404)
        for whom in ("role", "account"):
            wrong = refused(odile.get("why", action="edit", node="n-seals", **{whom: "nobody"}), "invalid", 422)
            assert wrong["errors"][0]["pointer"] == f"/{whom}"

    def test_it_tells_a_tenant_nothing(self, ines):
        refused(ines.get("why", action="edit", node="p3-sail-loft"), "not-granted")


class TestExpectations:
    def standing(self, asking):
        return {e["id"]: e for e in ok(asking.get("expectations"))}

    def test_one_is_broken_on_purpose_and_says_by_whom(self, odile):
        standing = self.standing(odile)
        assert [id for id, e in standing.items() if not e["holds"]] == ["expectation-01"]
        against = standing["expectation-01"]["against"]
        assert (against["name"], against["reason"]) == ("Edda Nwosu", "allowed")
        assert standing["expectation-04"]["asked"] > 500

    def test_recorded_while_standing_in_it_stands_and_breaks_when_something_is_given(self, as_ines):
        body = {"account": "ines", "action": "edit", "node": "winter-rates", "expect": "deny"}
        made = ok(as_ines.post("expectations", body), 201)
        assert made["holds"]
        assert Entry.objects.first().standing_for == "ines"
        ok(as_ines.delete("stand-in"), 204)
        give = {"kind": "give-role", "role": "site-steward", "to": {"kind": "account", "id": "ines"}}
        apply(as_ines, give | {"scope": {"branches": ["fees"]}})
        broken = self.standing(as_ines)[made["id"]]
        assert not broken["holds"]
        assert broken["against"]["reason"] == "allowed"

    def test_a_bar_breaks_what_was_expected_to_be_allowed(self, odile):
        assert self.standing(odile)["expectation-02"]["holds"]
        apply(odile, {"kind": "set-answer", "role": "regatta-crew", "capability": "berth.edit", "says": "barred"})
        assert self.standing(odile)["expectation-02"]["holds"]  # held on the regatta site only
        apply(odile, {"kind": "set-answer", "role": "tenant-editor", "capability": "berth.edit", "says": "barred"})
        assert self.standing(odile)["expectation-02"]["against"]["reason"] == "barred"

    def test_names_out_of_sight_are_not_told(self, ask, odile):
        minutes = {"account": "ines", "action": "see", "node": "min-2026-10", "expect": "deny"}
        id = ok(odile.post("expectations", minutes), 201)["id"]
        assert self.standing(odile)[id]["object"] == "Minutes of October"
        assert self.standing(ask("ludo"))[id]["object"] == "a page out of sight"

    def test_a_page_out_of_sight_is_as_good_as_not_there_for_whoever_records(self, ask, odile):
        apply(
            odile,
            {"kind": "set-answer", "role": "tenant-editor", "capability": "expectations.keep", "says": "yes"},
        )

        def told(place, node):
            asked = {"account": "ines", "action": "see", place: node, "expect": "deny"}
            return str(refused(ask("ines").post("expectations", asked), "invalid", 422)).replace(node, "…")

        for place in ("node", "branch"):
            assert told(place, "min-2026-10") == told(place, "atlantis")

    def test_what_is_hidden_from_whom_one_stands_in_for_can_be_expected_to_stay_so(self, odile):
        ok(odile.post("stand-in", {"account": "ines"}), 204)
        minutes = {"account": "ines", "action": "see", "node": "min-2026-10", "expect": "deny"}
        told = ok(odile.post("expectations", minutes), 201)
        assert (told["holds"], told["object"]) == (True, "Minutes of October")

    def test_one_can_be_dropped(self, odile):
        ok(odile.delete("expectations/expectation-01"), 204)
        assert "expectation-01" not in self.standing(odile)
        refused(odile.delete("expectations/expectation-01"), "not-found", 404)

    @pytest.mark.parametrize(
        ("change", "pointer"),
        [
            ({"account": "nobody"}, "/account"),
            ({"holders_of": "pilot"}, "/account"),
            ({"action": "sink"}, "/action"),
            ({"node": "atlantis"}, "/node"),
            ({"action": "roles.define"}, "/node"),
            ({"action": "see-field", "field": "depth"}, "/field"),
            ({"expect": "maybe"}, "/expect"),
        ],
    )
    def test_bad_input_names_the_field(self, odile, change, pointer):
        body = {"account": "ines", "action": "edit", "node": "fees", "expect": "deny"} | change
        problem = refused(odile.post("expectations", body), "invalid", 422)
        assert problem["errors"][0]["pointer"] == pointer

    def test_asking_costs_a_fixed_number_of_queries(self, odile, django_assert_max_num_queries):
        odile.get("expectations")
        with django_assert_max_num_queries(12):
            odile.get("expectations")


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
