"""Extensions: read from manifests, switched on and off, and nothing said about them is lost."""

import pytest
from django.core.exceptions import ImproperlyConfigured

from gonfalon.access.catalogue import install, installed
from gonfalon.access.models import Answer, KnownCapability, Role
from gonfalon.access.snapshot import current
from gonfalon.content.models import Node
from gonfalon.ledger.models import By, Entry
from gonfalon.verify.documents import install as import_policy
from gonfalon.verify.documents import whole_policy
from tests.api.changes.test_change_sets import EDIT
from tests.api.support import apply, ok, refused, stage

BOARD, TIDES = "extensions/results-board", "extensions/tide-table"
RESULT = "desk/pages/result-1"


def off(asking, path=BOARD):
    return ok(asking.put(path, {"on": False}))


class TestSwitching:
    def test_each_is_told_with_what_it_brings_and_who_speaks_of_it(self, odile):
        board, tides = ok(odile.get("extensions"))
        assert (board["name"], board["on"], board["types"]) == ("Regatta results board", True, ["race results"])
        assert (board["components"], board["duties"]) == (["Results board"], ["Hear protests"])
        assert board["pages"] == Node.objects.filter(type="result").count() > 0
        assert (tides["roles"], tides["pages"]) == (0, 0)

    def test_pages_are_counted_as_far_as_they_are_seen(self, odile, ask):
        Node.objects.filter(type="result", pk__in=["result-1", "result-2"]).update(state="draft")
        apply(odile, EDIT | {"capability": "roles.define", "says": "yes"})
        every, seen = (next(e["pages"] for e in ok(ask(who).get("extensions"))) for who in ("odile", "edda"))
        assert every - seen == 2

    def test_off_it_is_on_no_board_and_nothing_may_be_said_of_it(self, odile):
        before = ok(odile.get("catalogue"))
        assert off(odile)["on"] is False
        now = ok(odile.get("catalogue"))
        assert {t["key"] for t in before["types"]} - {t["key"] for t in now["types"]} == {"result"}
        assert {d["key"] for d in before["duties"]} - {d["key"] for d in now["duties"]} == {"results.hear"}
        assert not any(c["capability"].startswith("result.") for c in ok(odile.get("roles/regatta-crew"))["cells"])
        said = EDIT | {"capability": "result.edit", "says": "all"}
        refused(odile.post("change-set/operations", {"operations": [said]}), "invalid", 422)
        refused(odile.get("roles/capability", capability="result.see"), "not-found", 404)

    def test_off_nobody_but_keyholders_sees_its_pages_and_on_again_all_is_as_it_was(self, odile, ask):
        joost, before = ask("joost"), ok(ask("joost").get(RESULT))
        address = "/site/regatta/" + Node.objects.get(pk="result-1").address
        assert ask().client.get(address).status_code == 200
        policy = whole_policy()
        off(odile)
        refused(joost.get(RESULT), "not-found", 404)
        assert ask().client.get(address).status_code == 404
        assert ok(odile.get(RESULT))["title"] == before["title"]
        ok(odile.put(BOARD, {"on": True}))
        assert ok(joost.get(RESULT)) == before
        assert whole_policy() == policy

    def test_what_is_said_meanwhile_leaves_what_was_said_about_it(self, odile):
        said = set(Answer.objects.filter(role="regatta-crew").values_list("capability", "says"))
        off(odile)
        apply(odile, EDIT | {"role": "regatta-crew", "capability": "event.remove", "says": "own"})
        assert set(Answer.objects.filter(role="regatta-crew").values_list("capability", "says")) == said | {
            ("event.remove", "own")
        }

    def test_a_role_removed_and_put_back_meanwhile_says_it_still(self, odile):
        said = set(Answer.objects.filter(role="competitor").values_list("capability", "says"))
        apply(odile, {"kind": "set-components", "role": "competitor", "components": ["text", "results"]})
        off(odile)
        apply(odile, {"kind": "set-components", "role": "competitor", "components": ["text", "table"]})
        ok(odile.post("roles/competitor/removal"))
        applied = ok(odile.post("change-set/apply"))
        assert not Role.objects.filter(pk="competitor").exists()
        ok(odile.post(f"change-sets/{applied['id']}/undo"))
        assert set(Answer.objects.filter(role="competitor").values_list("capability", "says")) == said
        assert ("result.edit", "barred") in said
        assert Role.objects.get(pk="competitor").components == ["results", "table", "text"]

    def test_an_import_meanwhile_leaves_what_was_said_about_it(self, odile):
        off(odile)
        policy = whole_policy()
        crew = policy.roles["regatta-crew"]
        assert not any(capability.startswith("result") for capability in crew.grants)
        grants = {k: v for k, v in crew.grants.items() if k != "event.move"}
        changed = type(crew)(crew.key, grants, crew.builds_on, crew.components, crew.facets)
        import_policy(type(policy)(**{**vars(policy), "roles": {**policy.roles, crew.key: changed}}), By(None))
        said = set(Answer.objects.filter(role="regatta-crew").values_list("capability", flat=True))
        assert "result.publish" in said
        assert "event.move" not in said

    def test_its_parts_of_pages_are_kept_and_not_shown(self, odile, ask):
        page = "desk/pages/results"
        off(odile)
        [text, board] = ok(odile.get(page))["components"]
        assert (board["off"], board["props"], board["facets"]) == (True, {}, {})
        assert b"Second Wind" not in ask().client.get("/site/regatta/results").content
        components = [{"id": c["id"], "kind": c["kind"], "props": c["props"]} for c in (text, board)]
        components[0]["props"]["html"] = "<p>All times are corrected.</p>"
        ok(odile.patch(page, {"components": components}, **{"If-Match": odile.get(page)["ETag"]}))
        assert Node.objects.get(pk="results").components[1]["props"]["caption"].startswith("Round the Skerrow")
        new = [*components, {"kind": "results", "props": {"caption": "More"}}]
        refused(odile.patch(page, {"components": new}, **{"If-Match": odile.get(page)["ETag"]}), "invalid", 422)

    def test_it_is_in_the_ledger_once(self, odile):
        off(odile)
        off(odile)
        [entry] = Entry.objects.filter(kind="extension.switched")
        assert entry.summary == "Switched Regatta results board off"

    def test_only_with_site_settings_and_only_those_installed(self, odile, ask):
        refused(ask("ludo").put(BOARD, {"on": False}), "not-granted")
        refused(odile.put("extensions/atlantis", {"on": True}), "not-found", 404)
        refused(odile.put(BOARD, {}), "invalid", 422)


class TestNew:
    def test_what_an_extension_brings_is_new_and_given_to_nobody(self, odile):
        new = ok(odile.get("catalogue"))["new"]
        assert {key.partition(".")[0] for key in new} == {"tide", "tides"}
        assert not any(capability in new for role in current().policy.roles.values() for capability in role.grants)

    def test_until_somebody_has_looked_at_it(self, odile):
        new = ok(odile.get("catalogue"))["new"]
        assert odile.post("catalogue/looked-at", {"capabilities": new[:3]}).status_code == 204
        assert odile.post("catalogue/looked-at", {"capabilities": new[:4]}).status_code == 204
        assert ok(odile.get("catalogue"))["new"] == new[4:]

    def test_what_is_no_capability_cannot_be_looked_at(self, odile):
        problem = refused(odile.post("catalogue/looked-at", {"capabilities": ["tide.see", "x.y"]}), "invalid", 422)
        assert problem["errors"][0]["pointer"] == "/capabilities/1"
        assert not KnownCapability.objects.filter(key="tide.see").exists()


class TestProperties:
    PAGE = "desk/pages/results"

    def protests(self, asking):
        return ok(asking.get(self.PAGE))["components"][1]["props"].get("protests")

    def test_one_that_needs_a_duty_is_shown_to_whoever_has_it(self, ask, odile):
        assert "heard on Friday" in self.protests(ask("joost"))
        assert self.protests(ask("tomasz")) is None
        assert b"heard on Friday" not in ask().client.get("/site/regatta/results").content
        assert b"Second Wind" in ask().client.get("/site/regatta/results").content

    def test_and_changed_by_nobody_else_while_theirs_keeps_it(self, ask):
        apply(ask("odile"), EDIT | {"role": "regatta-crew", "capability": "section.edit", "says": "all"})
        apply(ask("odile"), EDIT | {"role": "regatta-crew", "capability": "section.edit-live", "says": "all"})
        tomasz, tag = ask("tomasz"), {"If-Match": ask("tomasz").get(self.PAGE)["ETag"]}
        components = [
            {"id": c["id"], "kind": c["kind"], "props": c["props"]} for c in ok(tomasz.get(self.PAGE))["components"]
        ]
        for guess in ("None at all", Node.objects.get(pk="results").components[1]["props"]["protests"]):
            components[1]["props"]["protests"] = guess
            refused(tomasz.patch(self.PAGE, {"components": components}, **tag), "not-granted")
        del components[1]["props"]["protests"]
        components[1]["props"]["caption"] = "Round the Skerrow"
        ok(tomasz.patch(self.PAGE, {"components": components}, **tag))
        kept = Node.objects.get(pk="results").components[1]["props"]
        assert kept["caption"] == "Round the Skerrow"
        assert "heard on Friday" in kept["protests"]

    def test_the_ledger_tells_it_to_nobody_else_either(self, ask):
        joost, steward = ask("joost"), ask("ludo")
        apply(ask("odile"), EDIT | {"role": "regatta-crew", "capability": "section.edit", "says": "all"})
        apply(ask("odile"), EDIT | {"role": "regatta-crew", "capability": "section.edit-live", "says": "all"})

        def save(change):
            components = [
                {"id": c["id"], "kind": c["kind"], "props": c["props"]} for c in ok(joost.get(self.PAGE))["components"]
            ]
            change(components)
            ok(joost.patch(self.PAGE, {"components": components}, **{"If-Match": joost.get(self.PAGE)["ETag"]}))

        save(lambda c: c[1]["props"].update(caption="Round it", protests="All settled"))
        save(lambda c: c.append({"kind": "results", "props": {"caption": "Dinghies", "protests": "About ice cream"}}))
        save(lambda c: c.pop())
        read = str([e["changes"] for e in ok(steward.get("ledger", kind="page."))["entries"]])
        assert "Round it" in read
        assert read.count("Dinghies") == 2
        for told in ("All settled", "Friday", "ice cream"):
            assert told not in read
            assert told in str(ok(ask("odile").get("ledger", kind="page.")))


class TestManifests:
    @pytest.fixture
    def package(self, tmp_path, monkeypatch):
        monkeypatch.syspath_prepend(tmp_path)

        def write(name: str, manifest: str) -> str:
            home = tmp_path / name
            home.mkdir()
            (home / "__init__.py").touch()
            (home / "manifest.toml").write_text(manifest)
            return name

        return write

    HEAD = 'key = "lamps"\nname = "Lamps"\nversion = "1"\ndescription = "Lights."\n'
    TYPE = '[[type]]\nkey = "{key}"\nname = "Lamp"\nplural = "lamps"\ntree = "{tree}"\nunder = ["section"]\n'

    COMPONENT = (
        '[[component]]\nkey = "lamp"\nname = "Lamp"\nproperties = [{{ key = "on", name = "On", facet = "wording" }}]\n'
        "drawn = [{{ {drawn} }}]\n"
    )

    def test_one_is_read(self, package):
        there = install([package("lamps_one", self.HEAD + self.TYPE.format(key="lamp", tree="content"))])
        assert there.types["lamp"].plural == "lamps"
        assert there.extensions["lamps"].brings == ("lamp",)
        assert "lamps" not in installed().extensions

    @pytest.mark.parametrize(
        ("name", "manifest", "told"),
        [
            ("no_name", 'key = "lamps"', "name is missing"),
            ("no_toml", "key = ", "manifest.toml: "),
            ("wrong_tree", HEAD + TYPE.format(key="lamp", tree="wood"), "“wood” is none of: content, media"),
            ("no_shape", HEAD + COMPONENT.format(drawn='shape = "cube"'), "“cube” is none of: heading"),
            ("no_slot", HEAD + COMPONENT.format(drawn='shape = "line", text = "on", tone = "on"'), "has no “tone”"),
            ("no_main", HEAD + COMPONENT.format(drawn='shape = "table", caption = "on"'), "is to say “rows”"),
            ("no_property", HEAD + COMPONENT.format(drawn='shape = "line", text = "off"'), "no property “off”"),
            ("not_drawn", HEAD + COMPONENT.partition("drawn")[0].format(), "drawn is missing"),
            ("taken", HEAD + TYPE.format(key="section", tree="content"), "“section” is there already"),
        ],
    )
    def test_what_is_wrong_is_told_with_its_file(self, package, name, manifest, told):
        with pytest.raises(ImproperlyConfigured, match=told) as wrong:
            install([package(name, manifest)])
        assert name in str(wrong.value)

    def test_one_that_is_not_installed(self):
        with pytest.raises(ImproperlyConfigured, match="is the package installed"):
            install(["no_such_extension"])


def test_a_preview_counts_what_would_turn_and_writes_nothing(odile, ask):
    publish = EDIT | {"capability": "berth.publish", "says": "own"}
    told = ok(odile.post("change-set/preview", {"operations": [publish]}))
    assert ok(odile.get("change-set"))["operations"] == []
    stage(odile, publish)
    assert told.pop("breaks") == ok(odile.get("change-set/touched"))["breaks"]
    assert told == {key: ok(odile.get("change-set/impact"))[key] for key in told}
    refused(ask("ines").post("change-set/preview", {"operations": [publish]}), "not-granted")
    refused(odile.post("change-set/preview", {"operations": [publish | {"says": "yes"}]}), "invalid", 422)


def test_what_switching_would_do_is_told_before_and_is_what_it_does(odile, ask):
    told = ok(odile.get("extensions/results-board/switched"))
    assert (told["gain"], told["lose"] > 0, told["visitors_lose"]) == (0, True, True)
    before = Entry.objects.count()
    ok(odile.put("extensions/results-board", {"on": False}))
    assert Entry.objects.count() == before + 1
    back = ok(odile.get("extensions/results-board/switched"))
    assert (back["gain"], back["lose"], back["visitors_gain"]) == (told["lose"], 0, True)
    refused(odile.get("extensions/no-such/switched"), "not-found", 404)
    refused(ask("ines").get("extensions/results-board/switched"), "not-granted")
