"""Pages are made, copied, moved, removed and brought back by whoever may, and stay one tree."""

import pytest
from django.core.files.base import ContentFile
from django.core.files.storage import default_storage

from gonfalon.access.snapshot import current
from gonfalon.accounts.models import Account
from gonfalon.content import branches
from gonfalon.content.models import Node, Removed, Site
from gonfalon.content.nodes import raise_version
from gonfalon.core import load_policy
from gonfalon.core.document.errors import PolicyError
from gonfalon.core.document.writer import write_policy
from gonfalon.ledger.models import By
from gonfalon.verify.documents import install, whole_policy
from gonfalon.work import NODES, unit
from tests.api.support import apply, in_tree, ok, refused


def tag(asking, node):
    return {"If-Match": asking.get(f"desk/pages/{node}")["ETag"]}


def make(asking, **said):
    said = {"parent": "events", "type": "event", "title": "Slack water supper"} | said
    return asking.post("desk/pages", said)


def remove(asking, node):
    return asking.post(f"desk/pages/{node}/remove", **tag(asking, node))


def order(parent):
    return [row.id for row in Node.objects.get_children(Node.objects.get(pk=parent))]


def sound():
    """Nothing of the tree is torn."""
    assert Node.objects.find_problems() == ([], [], [], [], [])


class TestMaking:
    def test_what_may_be_made_is_offered_with_the_fields_to_fill(self, ask):
        offered = {kind["type"]: kind for kind in ok(ask("aiko").get("desk/pages/season-events/new"))}
        assert set(offered) == {"event"}
        assert {field["key"] for field in offered["event"]["fields"]} >= {"starts", "place"}
        assert "budget" not in {field["key"] for field in offered["event"]["fields"]}
        assert ok(ask("aiko").get("desk/pages/events/new")) == []

    @pytest.mark.parametrize(("under", "first"), [("events", "event"), ("moorings", "section"), ("races", "event")])
    def test_what_most_stands_there_is_offered_first(self, odile, under, first):
        assert ok(odile.get(f"desk/pages/{under}/new"))[0]["type"] == first

    def test_a_new_page_is_a_draft_of_ones_own_at_the_end(self, ask):
        page = ok(make(ask("aiko"), parent="season-events", values={"place": "The old quay"}), 201)
        assert (page["state"], page["author"], page["version"]) == ("draft", "Aiko Lindqvist", 1)
        above = Node.objects.get(pk="season-events")
        assert page["address"] == f"{above.address}/slack-water-supper"
        assert {f["key"]: f["value"] for f in page["fields"]}["place"] == "The old quay"
        assert order("season-events")[-1] == page["id"]
        assert [v["number"] for v in ok(ask("odile").get(f"desk/pages/{page['id']}/versions"))] == [1]
        sound()

    def test_two_of_one_title_have_two_addresses(self, odile):
        first, second = (ok(make(odile), 201)["address"] for _ in range(2))
        assert (first, second) == ("events/slack-water-supper", "events/slack-water-supper-2")

    def test_the_server_refuses_what_is_not_offered(self, ask):
        refused(make(ask("aiko")), "out-of-scope")
        refused(make(ask("arvo")), "not-granted")

    @pytest.mark.parametrize(
        ("said", "pointer"),
        [
            ({"type": "berth-post"}, "/type"),
            ({"type": "home"}, "/type"),
            ({"type": "folder"}, "/type"),
            ({"parent": "no-such-page"}, "/parent"),
            ({"title": "  "}, "/title"),
            ({"topics": ["no-such-topic"]}, "/topics"),
            ({"values": {"capacity": "many"}}, "/values/capacity"),
            ({"values": {"nonsense": 1}}, "/values/nonsense"),
        ],
    )
    def test_what_is_wrong_is_named(self, odile, said, pointer):
        problem = refused(make(odile, **said), "invalid", 422)
        assert problem["errors"][0]["pointer"] == pointer

    def test_a_parent_out_of_sight_is_as_good_as_not_there(self, ask):
        told = [refused(make(ask("aiko"), parent=p), "invalid", 422)["errors"] for p in ("minutes", "no-such-page")]
        assert told[0] == told[1]

    def test_a_field_that_may_not_be_filled_is_refused(self, ask):
        refused(make(ask("aiko"), parent="season-events", values={"budget": 900}), "field")


class TestCopying:
    def test_a_copy_stands_behind_as_a_draft_of_ones_own(self, odile):
        copy = ok(odile.post("desk/pages/p3-sail-loft/duplicate"), 201)
        source = Node.objects.get(pk="p3-sail-loft")
        row = Node.objects.get(pk=copy["id"])
        assert (copy["title"], copy["state"], copy["author"]) == (f"Copy of {source.title}", "draft", "Odile Varga")
        assert row.values == source.values
        assert [c["props"] for c in row.components] == [c["props"] for c in source.components]
        assert not {c["id"] for c in row.components} & {c["id"] for c in source.components}
        siblings = order("pier-3-branch")
        assert siblings.index(row.id) == siblings.index("p3-sail-loft") + 1

    def test_what_its_maker_may_not_see_or_fill_is_left_out(self, ask):
        copy = ok(ask("aiko").post("desk/pages/swim/duplicate"), 201)
        assert Node.objects.get(pk="swim").values["budget"] == 640
        assert set(Node.objects.get(pk=copy["id"]).values) == {"starts", "place", "capacity"}

    def test_pictures_out_of_sight_are_left_out_too(self, odile, ask):
        Node.objects.filter(pk="swim").update(
            components=[{"id": "c1", "kind": "picture", "props": {"picture": "pic-sail-loft", "caption": "A sail"}}]
        )
        stop = {"kind": "set-limit", "node": "pic-sail-loft", "to": {"kind": "account", "id": "aiko"}, "effect": "stop"}
        apply(odile, stop | {"applies": "node", "actions": ["see"]})
        copy = ok(ask("aiko").post("desk/pages/swim/duplicate"), 201)
        assert [c["props"] for c in Node.objects.get(pk=copy["id"]).components] == [{"caption": "A sail"}]

    def test_a_page_beneath_that_its_maker_may_not_see_stays_behind_with_all_beneath_it(self, odile, ask):
        gives = {"kind": "give-role", "role": "harbour-lead", "to": {"kind": "account", "id": "aiko"}, "scope": {}}
        stop = {"kind": "set-limit", "node": "season-events", "to": {"kind": "account", "id": "aiko"}, "effect": "bar"}
        apply(odile, gives, stop | {"applies": "branch", "actions": ["see"]})
        copy = ok(ask("aiko").post("desk/pages/events/duplicate", {"beneath": True}), 201)
        titles = {row.title for row in Node.objects.get_descendants(Node.objects.get(pk=copy["id"]))}
        assert Node.objects.get(pk="season-events").title not in titles
        assert Node.objects.get(pk="swim").title not in titles
        assert Node.objects.get(pk="tide-talk").title in titles
        sound()

    def test_with_what_is_beneath(self, odile):
        beneath = Node.objects.get(pk="pier-3-branch").numchild
        copy = ok(odile.post("desk/pages/pier-3-branch/duplicate", {"beneath": True}), 201)
        assert Node.objects.get(pk=copy["id"]).numchild == beneath > 3
        sound()

    def test_whoever_may_not_make_may_not_copy(self, ask):
        refused(ask("ines").post("desk/pages/p3-sail-loft/duplicate"), "not-granted")


class TestMoving:
    def move(self, asking, node, **to):
        return asking.post(f"desk/pages/{node}/move", to, **tag(asking, node))

    def test_a_page_is_put_elsewhere_among_its_siblings(self, odile):
        was = order("events")
        ok(self.move(odile, was[-1], before=was[0]))
        assert order("events") == [was[-1], *was[:-1]]
        ok(self.move(odile, was[-1]))
        assert order("events") == was
        sound()

    def test_a_branch_takes_what_is_beneath_and_its_addresses_along(self, odile):
        moved = ok(self.move(odile, "pier-3-branch", to="events"))
        assert moved["parent"] == "events"
        assert moved["address"].startswith("events/")
        for row in Node.objects.get_children(Node.objects.get(pk="pier-3-branch")):
            assert row.address == f"{moved['address']}/{row.slug}"
        assert odile.client.get(f"/site/harbour/{moved['address']}").status_code == 200
        sound()

    def test_to_another_site(self, odile):
        ok(self.move(odile, "open-day", to="races"))
        assert Node.objects.get(pk="open-day").site_id == "regatta"

    def test_moving_asks_for_the_new_place_too(self, ask, odile):
        gives = {"kind": "give-capability", "to": {"kind": "account", "id": "arvo"}, "says": "all", "scope": {}}
        apply(odile, gives | {"capability": "event.move"}, gives | {"capability": "event.see-draft"})
        ok(self.move(ask("arvo"), "open-day", before="tide-talk"))
        refused(self.move(ask("arvo"), "open-day", to="races"), "not-granted")

    @pytest.mark.parametrize(
        ("node", "to", "pointer"),
        [
            ("events", {"to": "open-day"}, "/to"),
            ("events", {"to": "no-such-page"}, "/to"),
            ("open-day", {"to": "harbour-pictures"}, "/to"),
            ("open-day", {"before": "open-day"}, "/before"),
            ("open-day", {"before": "notices"}, "/before"),
        ],
    )
    def test_what_cannot_be_is_named(self, odile, node, to, pointer):
        problem = refused(self.move(odile, node, **to), "invalid", 422)
        assert problem["errors"][0]["pointer"] == pointer
        sound()

    def test_a_page_changed_meanwhile_is_not_moved(self, odile):
        seen = tag(odile, "open-day")
        ok(self.move(odile, "open-day"))
        assert odile.post("desk/pages/open-day/move", {"to": "races"}, **seen).status_code == 412

    def test_whoever_may_not_move_is_refused(self, ask):
        refused(self.move(ask("ines"), "p3-sail-loft"), "not-granted")


def test_pages_with_long_titles_stand_as_deep_as_a_tree_goes_or_are_refused_in_words(odile):
    parent, addresses, title = "events", [], "A very long way to go " * 9
    for n in range(60):
        made = make(odile, parent=parent, type="section", title=f"{title[:190]} {n}")
        if made.status_code != 201:
            break
        parent = made.data_read["id"]
        addresses.append(made.data_read["address"])
    assert len(addresses) > 20
    assert refused(made, "invalid", 422)["errors"][0]["pointer"] == "/parent"
    assert len(addresses[-1]) <= 2000
    assert odile.client.get(f"/site/harbour/{addresses[-1]}").status_code in (200, 404)
    # a branch that goes beneath another would have longer addresses still
    above = ok(make(odile, type="section", title=title[:190]), 201)["id"]
    above = ok(make(odile, parent=above, type="section", title=title[:190]), 201)["id"]
    top = Node.objects.get(address=addresses[0])
    problem = refused(odile.post(f"desk/pages/{top.pk}/move", {"to": above}, **tag(odile, top.pk)), "invalid", 422)
    assert problem["errors"][0]["pointer"] == "/to"
    assert Node.objects.get(pk=parent).address == addresses[-1]
    lowest = ok(make(odile, parent="events", type="section", title=title[:190]), 201)["id"]
    problem = refused(odile.post(f"desk/pages/{lowest}/move", {"to": parent}, **tag(odile, lowest)), "invalid", 422)
    assert "2000 characters" in problem["detail"]


class TestHandingOn:
    def hand_on(self, asking, node, to):
        return asking.post(f"desk/pages/{node}/hand-on", {"account": to}, **tag(asking, node))

    def test_somebody_else_becomes_the_author(self, odile, ask):
        assert ok(self.hand_on(odile, "p3-sail-loft", "greta"))["author"] == "Greta Oyelaran"
        assert "edit" in ok(ask("greta").get("desk/pages/p3-sail-loft"))["may"]
        assert "edit" not in ok(ask("ines").get("desk/pages/p3-sail-loft"))["may"]

    def test_what_is_given_as_own_goes_with_it_at_once(self, odile, ask):
        def edits(who):
            [row] = [one for one in ok(ask(who).get("desk/found", id="p3-sail-loft")) if one["id"] == "p3-sail-loft"]
            return row["may_edit"]

        assert (edits("ines"), edits("noor")) == (True, False)
        ok(self.hand_on(odile, "p3-sail-loft", "noor"))
        assert (edits("ines"), edits("noor")) == (False, True)

    def test_nobody_makes_themselves_the_author_of_what_others_wrote(self, ask):
        assert not ok(ask("tomasz").get("desk/pages/lantern-walk"))["may_hand_on"]
        refused(self.hand_on(ask("tomasz"), "lantern-walk", "tomasz"), "not-granted")

    def may_also(self, odile, account, *duties):
        to = {"to": {"kind": "account", "id": account}, "says": "yes", "scope": {}}
        apply(odile, *({"kind": "give-capability", "capability": duty, **to} for duty in duties))

    def test_what_others_wrote_takes_editing_it_and_giving_roles(self, odile, ask):
        self.may_also(odile, "ines", "accounts.disable", "roster.see")
        everything = {"to": {"kind": "account", "id": "ines"}, "scope": {}, "says": "all"}
        apply(odile, {"kind": "give-capability", "capability": "section.edit", **everything})
        apply(odile, {"kind": "give-capability", "capability": "section.edit-live", **everything})
        assert not ok(ask("ines").get("desk/pages/fees"))["may_hand_on"]
        refused(self.hand_on(ask("ines"), "fees", "ines"), "not-granted")
        self.may_also(odile, "ines", "roles.assign")
        assert ok(ask("ines").get("desk/pages/fees"))["may_hand_on"]
        assert ok(self.hand_on(ask("ines"), "fees", "ines"))["author"] == "Ines Marrow"

    def test_of_whoever_is_disabled_it_takes_disabling_and_giving_roles_alone(self, odile, ask):
        self.may_also(odile, "ines", "accounts.disable", "roster.see")
        Account.objects.filter(pk="tomasz").update(state="disabled")
        row = Node.objects.get(pk="fees")
        row.author_id = "tomasz"
        row.save()
        raise_version()
        apply(odile, {"kind": "set-state", "account": "noor", "state": "disabled"})
        refused(self.hand_on(ask("ines"), "fees", "ines"), "not-granted")
        self.may_also(odile, "ines", "roles.assign")
        assert "edit" not in ok(ask("ines").get("desk/pages/fees"))["may"]
        assert ok(self.hand_on(ask("ines"), "fees", "greta"))["author"] == "Greta Oyelaran"

    def test_only_to_somebody_active_whom_one_may_know_of(self, odile, ask):
        for to in ("agnes", "no-such-person"):
            assert refused(self.hand_on(odile, "open-day", to), "invalid", 422)["errors"][0]["pointer"] == "/account"
        told = [self.hand_on(ask("ines"), "p3-sail-loft", to).data_read for to in ("greta", "no-such-person")]
        assert told[0] == told[1]


class TestBin:
    def test_removing_tells_what_goes_with_it_and_what_leads_to_it(self, odile):
        assert ok(odile.get("desk/pages/pier-3-branch/remove"))["beneath"] > 3
        told = ok(odile.get("desk/pages/pic-sail-loft/remove"))
        assert "Pier 3, Sail loft" in told["linked_from"]

    def test_what_is_removed_is_nowhere_but_in_the_bin(self, odile):
        branch = [row.id for row in Node.objects.filter(path__startswith=Node.objects.get(pk="events").path)]
        assert remove(odile, "events").status_code == 204
        assert not set(in_tree(odile)) & set(branch)
        assert odile.get("desk/pages/events").status_code == 404
        assert odile.get("desk/pages/open-day").status_code == 404
        assert odile.client.get("/site/harbour/events").status_code == 404
        assert "open-day" not in odile.get("find", words="Open day").content.decode()
        [entry] = ok(odile.get("desk/bin"))
        assert (entry["title"], entry["beneath"], entry["removed_by"]) == ("Events", len(branch) - 1, "Odile Varga")
        sound()

    def test_it_comes_back_where_it_stood_as_it_was(self, odile):
        was, rows = order("home-harbour"), list(Node.objects.values_list("path", "id", "address", "title"))
        remove(odile, "events")
        ok(odile.post("desk/pages/events/restore"))
        assert order("home-harbour") == was
        assert sorted(r[1:] for r in Node.objects.values_list("path", "id", "address", "title")) == sorted(
            r[1:] for r in rows
        )
        assert not Removed.objects.exists()
        sound()

    def test_or_elsewhere(self, odile):
        remove(odile, "open-day")
        back = ok(odile.post("desk/pages/open-day/restore", {"to": "races"}))
        assert (back["parent"], back["site"]) == ("races", "regatta")
        sound()

    def test_where_it_would_stand_too_deep_it_stays_in_the_bin(self, odile, monkeypatch):
        remove(odile, "events")
        monkeypatch.setattr("gonfalon.content.branches.DEEPEST", 5)
        problem = refused(odile.post("desk/pages/events/restore", {"to": "pier-3-branch"}), "invalid", 422)
        assert problem["errors"][0]["pointer"] == "/to"
        assert Removed.objects.filter(pk="events").exists()
        ok(odile.post("desk/pages/events/restore"))
        sound()

    def test_where_its_place_is_gone_one_says_where(self, odile):
        remove(odile, "open-day")
        remove(odile, "events")
        problem = refused(odile.post("desk/pages/open-day/restore"), "invalid", 422)
        assert problem["errors"][0]["pointer"] == "/to"
        ok(odile.post("desk/pages/open-day/restore", {"to": "races"}))
        ok(odile.post("desk/pages/events/restore"))
        sound()

    def test_only_what_one_may_bring_back_is_listed(self, odile, ask):
        remove(odile, "events")
        assert ok(ask("aiko").get("desk/bin")) == []
        refused(ask("aiko").post("desk/pages/events/restore"), "not-granted")
        remove(odile, "minutes")
        assert ask("aiko").post("desk/pages/minutes/restore").status_code == 404

    def test_what_one_would_not_see_beneath_is_not_counted(self, odile, ask):
        gives = {"kind": "give-capability", "to": {"kind": "account", "id": "arvo"}, "says": "all", "scope": {}}
        apply(odile, gives | {"capability": "section.restore"})
        remove(odile, "events")
        whole, seen = (ok(asking.get("desk/bin"))[0]["beneath"] for asking in (odile, ask("arvo")))
        drafts = Node.everywhere.filter(removed_with="events", state__in=("draft", "review")).count()
        assert (whole - seen, drafts > 0) == (drafts, True)

    def test_removing_asks_about_all_that_is_beneath(self, odile, ask):
        gives = {"kind": "give-capability", "to": {"kind": "account", "id": "paolo"}, "says": "all", "scope": {}}
        apply(odile, gives | {"capability": "section.remove"}, gives | {"capability": "section.edit"})
        refused(remove(ask("paolo"), "events"), "not-granted")
        assert Node.objects.filter(pk="events").exists()

    def test_it_is_emptied_for_good_once_its_time_is_up(self, odile):
        remove(odile, "events")
        refused(odile.delete("desk/bin/events"), "kept")
        Site.objects.update(bin_days=0)
        assert odile.delete("desk/bin/events").status_code == 204
        assert not Node.everywhere.filter(pk__in=["events", "open-day"]).exists()
        assert odile.post("desk/pages/events/restore").status_code == 404
        sound()

    def test_a_file_goes_only_once_its_page_has_gone(self, odile):
        """Where emptying is rolled back, the picture is brought back with its file."""
        name = default_storage.save("files/loft.webp", ContentFile(b"x"))
        Node.objects.filter(pk="pic-sail-loft").update(file=name)
        remove(odile, "pic-sail-loft")
        Site.objects.update(bin_days=0)

        @unit(NODES)
        def empty_and_fail():
            assert branches.empty(Removed.objects.get(pk="pic-sail-loft"), By("odile"))
            raise ConnectionError

        with pytest.raises(ConnectionError):
            empty_and_fail()
        assert default_storage.exists(name)
        assert [one["id"] for one in ok(odile.get("desk/bin"))] == ["pic-sail-loft"]
        assert odile.delete("desk/bin/pic-sail-loft").status_code == 204
        assert not default_storage.exists(name)

    def test_media_in_it_are_closed_to_whom_media_are(self, odile, ask):
        remove(odile, "pic-sail-loft")
        refused(ask("arvo").post("desk/pages/pic-sail-loft/restore"), "not-granted")
        assert "pic-sail-loft" not in ask("arvo").get("desk/bin").content.decode()

    def test_a_home_page_stays(self, odile):
        refused(remove(odile, "home-harbour"), "invalid", 422)

    def test_a_document_leaves_out_what_is_in_the_bin_and_brings_none_of_it(self, odile):
        limit = {"kind": "set-limit", "node": "events", "to": {"kind": "role", "id": "pilot"}, "effect": "stop"}
        about = {"kind": "give-role", "role": "pilot", "to": {"kind": "account", "id": "ines"}}
        before = write_policy(whole_policy())
        apply(odile, limit | {"applies": "branch", "actions": ["edit"]}, about | {"scope": {"branches": ["open-day"]}})
        remove(odile, "events")
        document = write_policy(whole_policy())
        assert not {"events", "open-day"} & {node["id"] for node in document["nodes"]}
        assert "events" not in {one["node"] for one in document["limits"]}
        assert install(load_policy(document), By("odile")) is None, "nothing differs"
        with pytest.raises(PolicyError, match="in the bin"):
            install(load_policy(before), By("odile"))
        ok(odile.post("desk/pages/events/restore"))
        assert current().policy.limits.keys() > set(document["limits"] and [one["id"] for one in document["limits"]])

    def test_a_limit_on_what_is_removed_harms_nobody(self, odile):
        limit = {"kind": "set-limit", "node": "events", "to": {"kind": "role", "id": "pilot"}, "effect": "stop"}
        apply(odile, limit | {"applies": "branch", "actions": ["edit"]})
        remove(odile, "events")
        for path in ("limits", "desk/children", "change-set/impact", "crossbar", "accounts/arvo"):
            ok(odile.get(path))
        ok(odile.post("desk/pages/events/restore"))
