"""Kinds of content are data: made, given fields, changed and narrowed by whoever defines kinds."""

import pytest

from gonfalon.access.models import KnownCapability
from gonfalon.access.snapshot import current
from gonfalon.content.models import Node, Version
from tests.api.support import apply, ok, refused

LOFT = "desk/pages/p3-sail-loft"


def kind(asking, key):
    return next(row for row in ok(asking.get("kinds")) if row["key"] == key)


def tag(asking, key):
    return {"If-Match": f'"{kind(asking, key)["version"]}"'}


def field(asking, **said):
    said = {"name": "Insurance ends", "kind": "date"} | said
    return asking.post("kinds/berth/fields", said, **tag(asking, "berth"))


def save(asking, **values):
    return asking.patch(LOFT, {"values": values}, **{"If-Match": asking.get(LOFT)["ETag"]})


def value(asking, key):
    return {f["key"]: f["value"] for f in ok(asking.get(LOFT))["fields"]}.get(key)


@pytest.fixture
def knot(odile):
    return ok(odile.post("kinds", {"name": "Knot", "plural": "knots", "under": ["section"]}), 201)


class TestKinds:
    def test_a_new_kind_is_given_to_nobody_and_marked_new(self, knot, odile, ask):
        assert (knot["key"], knot["fields"], knot["ships"], knot["pages"]) == ("knot", [], False, 0)
        catalogue = ok(odile.get("catalogue"))
        assert {"knot.see", "knot.create"} <= set(catalogue["new"])
        assert not KnownCapability.objects.filter(key="knot.see").exists()
        assert "knot" not in {k["type"] for k in ok(ask("tomasz").get("desk/pages/events/new"))}
        page = ok(odile.post("desk/pages", {"parent": "events", "type": "knot", "title": "Bowline"}), 201)
        assert ask("tomasz").get(f"desk/pages/{page['id']}").status_code == 404

    def test_and_is_like_any_other_once_it_is_given(self, knot, odile, ask):
        answers = {
            "see": "all",
            "see-draft": "own",
            "create": "all",
            "edit": "own",
            "publish": "own",
            "edit-live": "own",
        }
        for verb, says in answers.items():
            answer = {"kind": "set-answer", "role": "notice-writer", "capability": f"knot.{verb}", "says": says}
            apply(odile, answer)
        paolo = ask("paolo")
        page = ok(paolo.post("desk/pages", {"parent": "events", "type": "knot", "title": "Bowline"}), 201)
        ok(paolo.post(f"desk/pages/{page['id']}/publish", **{"If-Match": '"1"'}))
        assert ok(odile.get(f"desk/pages/{page['id']}"))["type"] == "knot"
        assert kind(odile, "knot")["pages"] == 1

    def test_it_is_given_as_the_kind_most_like_it(self, odile, ask):
        policy = current().policy
        new = {"name": "Knot", "plural": "knots", "under": ["section"], "like": "event"}
        ok(odile.post("kinds", new), 201)
        for role in policy.roles:
            now = current().policy.roles[role].grants
            said = {key.partition(".")[2]: says for key, says in now.items() if key.startswith("event.")}
            assert {key.partition(".")[2]: says for key, says in now.items() if key.startswith("knot.")} == said
        made = ok(odile.post("desk/pages", {"parent": "notices", "type": "knot", "title": "Bowline"}), 201)
        step = odile.post(f"desk/pages/{made['id']}/publish", **{"If-Match": '"1"'})
        assert ok(step)["state"] == "published"
        refused(odile.post("kinds", new | {"name": "Bend", "like": "picture"}), "invalid", 422)
        refused(odile.post("kinds", new | {"name": "Bend", "like": "nothing"}), "invalid", 422)

    def test_publishing_several_leaves_out_what_nobody_would_see_and_tells_which(self, knot, odile):
        titles = ("Bowline", "Clove hitch")
        new = [ok(odile.post("desk/pages", {"parent": "events", "type": "knot", "title": t}), 201) for t in titles]
        knots = [page["id"] for page in new]
        asked = {"nodes": [*knots, "open-day"], "action": "publish"}
        told = ok(odile.post("desk/many", asked))
        assert [(one["done"], one["unseen"]) for one in told["pages"]] == [(False, True), (False, True), (True, False)]
        assert "see knots" in told["pages"][0]["why"]
        assert [ok(odile.get(f"desk/pages/{id}"))["state"] for id in knots] == ["draft", "draft"]
        told = ok(odile.post("desk/many", {"nodes": knots[:1], "action": "publish", "although_unseen": True}))
        assert (told["done"], told["pages"][0]["unseen"]) == (1, False)
        apply(odile, {"kind": "set-answer", "role": "notice-writer", "capability": "knot.see", "says": "all"})
        assert ok(odile.post("desk/many", asked | {"nodes": knots[1:], "together": True}))["done"] == 1

    def test_of_a_kind_called_like_an_area_of_duties_only_what_can_be_done_with_pages_is_taken_over(self, odile):
        """“roles.define” is a duty and no capability of the kind Roles; “roles-of-honour” is another kind."""
        for name in ("Roles", "Roles of honour"):
            ok(odile.post("kinds", {"name": name, "plural": name.lower(), "under": ["section"]}), 201)
        says = {"kind": "set-answer", "role": "harbour-lead", "says": "yes", "capability": "roles.define"}
        seen = {"kind": "set-answer", "role": "harbour-lead", "says": "all", "capability": "roles-of-honour.see"}
        apply(odile, says, seen)
        new = ok(odile.post("kinds", {"name": "Knot", "plural": "knots", "under": ["section"], "like": "roles"}), 201)
        assert not any(key.startswith(f"{new['key']}.") for key in current().policy.roles["harbour-lead"].grants)

    def test_publishing_what_nobody_would_see_says_so_first(self, knot, odile):
        page = ok(odile.post("desk/pages", {"parent": "events", "type": "knot", "title": "Bowline"}), 201)
        address, first = f"desk/pages/{page['id']}", {"If-Match": '"1"'}
        problem = refused(odile.post(f"{address}/publish", **first), "unseen", 409)
        assert "see knots" in problem["detail"]
        assert ok(odile.get(address))["state"] == "draft"
        assert ok(odile.post(f"{address}/publish", {"although_unseen": True}, **first))["state"] == "published"
        ok(odile.post(f"{address}/retire", **{"If-Match": '"2"'}))
        apply(odile, {"kind": "set-answer", "role": "notice-writer", "capability": "knot.see", "says": "all"})
        ok(odile.post(f"{address}/publish", **{"If-Match": '"3"'}))

    def test_only_whoever_defines_roles_gives_it(self, odile, ask):
        grant = {"kind": "give-capability", "capability": "kinds.define", "says": "yes", "scope": {}}
        apply(odile, grant | {"to": {"kind": "account", "id": "bashir"}})
        new = {"name": "Knot", "plural": "knots", "under": ["section"]}
        assert ask("bashir").post("kinds", new | {"like": "event"}).status_code == 403
        ok(ask("bashir").post("kinds", new), 201)

    def test_names_are_its_own_and_it_stands_in_one_tree(self, knot, odile):
        for said, pointer in (
            ({"name": " KNOT ", "plural": "x"}, "/name"),
            ({"name": "", "plural": "x"}, "/name"),
            ({"name": "Hitch", "plural": "hitches", "under": ["nowhere"]}, "/under"),
            ({"name": "Hitch", "plural": "hitches", "under": ["folder"]}, "/under"),
            ({"name": "Hitch", "plural": "hitches", "components": ["nothing"]}, "/components"),
        ):
            problem = refused(odile.post("kinds", said), "invalid", 422)
            assert problem["errors"][0]["pointer"] == pointer

    def test_two_people_at_once(self, knot, odile):
        seen = tag(odile, "knot")
        ok(odile.patch("kinds/knot", {"plural": "knots and hitches"}, **seen))
        theirs = odile.patch("kinds/knot", {"plural": "bends"}, **seen)
        assert theirs.status_code == 412
        assert theirs.data_read["theirs"]["plural"] == "knots and hitches"

    def test_its_pages_are_built_of_what_it_takes(self, odile):
        ok(odile.patch("kinds/berth", {"components": ["heading", "text"]}, **tag(odile, "berth")))
        assert {part["kind"] for part in ok(odile.get(LOFT))["insertable"]} == {"heading", "text"}
        page = ok(odile.get(LOFT))
        kept = [{"id": c["id"], "kind": c["kind"]} for c in page["components"]]
        seen = {"If-Match": odile.get(LOFT)["ETag"]}
        problem = odile.patch(LOFT, {"components": [*kept, {"kind": "table", "props": {}}]}, **seen)
        assert problem.status_code == 422
        ok(odile.patch(LOFT, {"components": kept[::-1]}, **seen))

    def test_only_whoever_defines_kinds(self, knot, lone, ask):
        refused(ask("ines").post("kinds", {"name": "X", "plural": "x"}), "not-granted")
        assert lone("kinds.define").post("kinds", {"name": "Bend", "plural": "bends"}).status_code == 201

    def test_one_that_ships_is_changed_too(self, odile):
        ok(odile.post("kinds/section/fields", {"name": "Colour", "kind": "text"}, **tag(odile, "section")), 201)
        assert kind(odile, "section")["ships"]
        assert "colour" in {f["key"] for f in ok(odile.get("desk/pages/events"))["fields"]}

    def test_one_of_an_extension_is_not(self, odile):
        assert odile.patch("kinds/result", {"name": "X"}, **{"If-Match": '"1"'}).status_code == 404

    def test_of_a_retired_one_nothing_new_is_made_and_what_there_is_stays(self, odile, ask):
        told = ok(odile.patch("kinds/event", {"retired": True}, **tag(odile, "event")))
        assert (told["retired"], told["pages"]) == (True, 23)
        assert "event" not in {k["type"] for k in ok(odile.get("desk/pages/events/new"))}
        make = {"parent": "events", "type": "event", "title": "Kite day"}
        problem = refused(odile.post("desk/pages", make), "invalid", 422)
        assert problem["errors"][0]["message"] == "Nothing new is made of events: the kind is retired."
        refused(odile.post("desk/pages/open-day/duplicate"), "invalid", 422)
        refused(odile.post("desk/pages/season-events/duplicate", {"beneath": True}), "invalid", 422)
        assert not Node.objects.filter(title__startswith="Copy of").exists()
        refused(ask("halla").post("desk/pages", make), "not-granted")
        open_day = "desk/pages/open-day"
        ok(odile.patch(open_day, {"title": "Open doors"}, **{"If-Match": odile.get(open_day)["ETag"]}))
        ok(odile.post(f"{open_day}/move", {"to": "races"}, **{"If-Match": odile.get(open_day)["ETag"]}))
        ok(odile.patch("kinds/event", {"retired": False}, **tag(odile, "event")))
        ok(odile.post("desk/pages", make), 201)

    @pytest.mark.parametrize("key", ["home", "folder", "account"])
    def test_what_every_site_and_account_needs_is_not_retired(self, odile, key):
        problem = refused(odile.patch(f"kinds/{key}", {"retired": True}, **tag(odile, key)), "invalid", 422)
        assert problem["errors"][0]["pointer"] == "/retired"
        assert not kind(odile, key)["retired"]


class TestFields:
    @pytest.mark.parametrize(
        ("said", "good", "kept", "bad"),
        [
            ({"kind": "date"}, "2027-04-01", "2027-04-01", "soon"),
            ({"kind": "moment"}, "2027-04-01T18:30", "2027-04-01T18:30", "2027-04-01T99:00"),
            ({"kind": "yes"}, True, True, "perhaps"),
            ({"kind": "choice", "choices": ["16 A", "32 A"]}, "16 A", "16 A", "64 A"),
            ({"kind": "choices", "choices": ["ebb", "flood"]}, ["flood", "ebb"], ["ebb", "flood"], ["slack"]),
            ({"kind": "link"}, "https://quay.example", "https://quay.example", "javascript:x"),
            ({"kind": "document"}, "doc-tariff", "doc-tariff", "pic-sail-loft"),
            ({"kind": "reference"}, "events", "events", "pic-sail-loft"),
            ({"kind": "text"}, "Old quay", "Old quay", "x" * 201),
            ({"kind": "number"}, "12.5", 12.5, {"a": 1}),
        ],
    )
    def test_each_sort_is_read_checked_and_shown(self, odile, said, good, kept, bad):
        if said["kind"] == "document":
            good = kept = Node.objects.filter(type="document").first().id
        ok(field(odile, **said), 201)
        page = ok(save(odile, insurance_ends=good))
        assert {f["key"]: f["value"] for f in page["fields"]}["insurance_ends"] == kept
        problem = refused(save(odile, insurance_ends=bad), "invalid", 422)
        assert problem["errors"][0]["pointer"] == "/values/insurance_ends"
        assert odile.client.get(f"/site/harbour/{page['address']}").status_code == 200

    def test_who_sees_and_fills_it_is_said_at_once(self, odile, ask, lone):
        rule = {"mode": "table", "table": {"duty-editor": ["see-all", "change-all"]}}
        ok(field(odile, rule=rule), 201)
        assert value(ask("ines"), "insurance_ends") is None
        assert "insurance_ends" not in {f["key"] for f in ok(ask("ines").get(LOFT))["fields"]}
        assert "insurance_ends" in {f["key"] for f in ok(ask("tomasz").get(LOFT))["fields"]}
        refused(field(lone("kinds.define", "roles.define"), name="Another", rule=rule), "not-granted")
        problem = field(odile, name="Third", rule={"mode": "table", "table": {"nobody": ["see-all"]}})
        assert refused(problem, "invalid", 422)["errors"][0]["pointer"] == "/rule/table"

    def test_a_required_one_is_asked_for_when_handing_in_and_not_before(self, odile, ask):
        ok(odile.patch("kinds/event/fields/place", {"required": True}, **tag(odile, "event")))
        aiko = ask("aiko")
        page = ok(aiko.post("desk/pages", {"parent": "season-events", "type": "event", "title": "Supper"}), 201)
        path = f"desk/pages/{page['id']}"
        ok(aiko.patch(path, {"title": "Late supper"}, **{"If-Match": '"1"'}))
        problem = refused(aiko.post(f"{path}/hand-in", **{"If-Match": '"2"'}), "invalid", 422)
        assert problem["errors"] == [{"pointer": "/values/place", "message": "Place is needed first."}]
        ok(aiko.patch(path, {"values": {"place": "Quay"}}, **{"If-Match": '"2"'}))
        ok(aiko.post(f"{path}/hand-in", **{"If-Match": '"3"'}))

    def test_a_retired_one_keeps_its_values_until_it_is_purged(self, odile):
        was = value(odile, "telephone")
        assert was
        ok(odile.patch("kinds/berth/fields/telephone", {"retired": True}, **tag(odile, "berth")))
        assert "telephone" not in {f["key"] for f in ok(odile.get(LOFT))["fields"]}
        refused(save(odile, telephone="1"), "invalid", 422)
        ok(odile.patch("kinds/berth/fields/telephone", {"retired": False}, **tag(odile, "berth")))
        assert value(odile, "telephone") == was

    def test_purging_takes_it_out_of_every_version_and_only_when_retired(self, odile):
        ok(save(odile, telephone="0550 1"))
        address = "/api/kinds/berth/fields/telephone"
        seen = {"If-Match": f'"{kind(odile, "berth")["version"]}"'}
        assert odile.client.delete(address, headers=seen).status_code == 404
        ok(odile.patch("kinds/berth/fields/telephone", {"retired": True}, **tag(odile, "berth")))
        assert odile.client.delete(address, headers=tag(odile, "berth")).status_code == 200
        assert "telephone" not in Node.objects.get(pk="p3-sail-loft").values
        assert not Version.objects.filter(node__type="berth", data__values__telephone__isnull=False).exists()
        assert ok(field(odile, name="Telephone", kind="text"), 201)["fields"][-1]["key"] == "telephone_2"

    @pytest.mark.parametrize(
        ("name", "key"), [("Contains", "contains"), ("a__b", "a_b"), ("2027", "2027"), ("港", "role")]
    )
    def test_whatever_it_is_called_it_is_filled_in_and_purged(self, odile, name, key):
        assert ok(field(odile, name=name, kind="text"), 201)["fields"][-1]["key"] == key
        ok(save(odile, **{key: "here"}))
        ok(odile.patch(f"kinds/berth/fields/{key}", {"retired": True}, **tag(odile, "berth")))
        purged = odile.client.delete(f"/api/kinds/berth/fields/{key}", headers=tag(odile, "berth"))
        assert purged.status_code == 200
        assert key not in Node.objects.get(pk="p3-sail-loft").values
        assert not Version.objects.filter(node="p3-sail-loft", data__values__has_key=key).exists()

    def test_they_are_put_in_an_order(self, odile):
        order = ["plan", "dues", "telephone", "berth_number"]
        ok(odile.put("kinds/berth/fields", {"order": order}, **tag(odile, "berth")))
        assert [f["key"] for f in ok(odile.get(LOFT))["fields"]] == order
        assert odile.put("kinds/berth/fields", {"order": order[:2]}, **tag(odile, "berth")).status_code == 422

    @pytest.mark.parametrize(
        ("said", "pointer"),
        [
            ({"name": " "}, "/name"),
            ({"name": "telephone"}, "/name"),
            ({"kind": "spell"}, "/kind"),
            ({"kind": "choice"}, "/choices"),
        ],
    )
    def test_what_is_wrong_is_named(self, odile, said, pointer):
        problem = refused(field(odile, **said), "invalid", 422)
        assert problem["errors"][0]["pointer"] == pointer

    def test_a_profile_holds_no_pictures(self, odile):
        problem = odile.post("kinds/account/fields", {"name": "Boat", "kind": "picture"}, **tag(odile, "account"))
        assert refused(problem, "invalid", 422)["errors"][0]["pointer"] == "/kind"
        ok(odile.post("kinds/account/fields", {"name": "Boat", "kind": "text"}, **tag(odile, "account")), 201)
        assert "boat" in {f["key"] for f in ok(odile.get("accounts/ines"))["who"]["profile"]}


def test_what_one_process_made_is_gone_with_its_transaction(odile):
    """The test before this one made a kind; after its rollback no request knows of it."""
    ok(odile.get("catalogue"))
    assert "knot" not in current().catalogue.every_type
