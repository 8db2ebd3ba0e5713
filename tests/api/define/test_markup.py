"""Markup sets: what they let through, how risky that is, and which one a text is cleaned to."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gonfalon.access.markup import PLAIN, PROSE, Markup, best, clean, faults, lost, risk_of
from gonfalon.access.models import MarkupSet
from gonfalon.access.risks import risks_of
from gonfalon.access.snapshot import current
from gonfalon.content.models import Node
from gonfalon.core.decide.grants import RoleResolver
from tests.api.changes.test_change_sets import EDIT
from tests.api.support import apply, ok, refused, stage

TABLE = "<table><tbody><tr><td>1</td></tr></tbody></table>"
SET = {"name": "Letters", "elements": {"p": [], "strong": []}, "schemes": ["mailto"]}
SETS = [PLAIN, PROSE, Markup({"p": ["style"], "script": [], "iframe": ["src"], "a": ["href", "rel"]}, ["https"])]


class TestCleaning:
    @given(st.text(max_size=200), st.sampled_from(SETS))
    def test_twice_is_once(self, text, markup):
        once = clean(text, markup)
        assert clean(once, markup) == once

    @given(st.lists(st.sampled_from(["<p>", "<script>", "<a href=x:y onclick=z>", "</p>", "<td>", "hi", "<b"])))
    def test_what_a_set_does_not_name_never_comes_through(self, pieces):
        assert not lost(clean("".join(pieces), PROSE), "") or set(lost(clean("".join(pieces), PROSE), "")) <= {
            *PROSE.elements,
            "href",
        }

    def test_the_set_that_leaves_most_is_taken(self):
        tables = Markup({"p": (), **dict.fromkeys(("table", "tbody", "tr", "td"), ())}, ())
        assert best(TABLE, [PROSE, tables]) == TABLE
        assert best("<p><strong>x</strong></p>", [PROSE, tables]) == "<p><strong>x</strong></p>"
        assert best("<p><strong>x</strong></p>", []) == "<p>x</p>"

    def test_what_was_taken_is_named(self):
        assert lost('<p style="x"><b onclick="y">z</b></p>', "<p>z</p>") == ["b", "onclick", "style"]
        assert lost('<a href="x" target="_blank">', '<a href="x">') == []

    def test_scripts_go_with_what_is_in_them_unless_let_through(self):
        assert clean("<p>a<script>b()</script></p>", PROSE) == "<p>a</p>"
        assert clean("<script>b()</script>", SETS[2]) == "<script>b()</script>"


class TestRisk:
    @pytest.mark.parametrize(
        ("elements", "schemes", "told"),
        [
            ({"p": []}, [], ""),
            ({"a": ["href"]}, ["mailto"], ""),
            ({"a": ["href"]}, ["https"], "links to other sites"),
            ({"p": ["style"]}, [], "styles"),
            ({"iframe": []}, [], "frames"),
            ({"form": []}, [], "forms"),
            ({"p": ["onclick"]}, [], "scripts"),
            ({"script": []}, [], "scripts"),
            ({"a": ["href"]}, ["javascript"], "scripts"),
        ],
    )
    def test_is_computed_from_what_comes_through(self, elements, schemes, told):
        risk = risk_of(Markup(elements, schemes))
        assert (told in risk) if told else risk == ""

    def test_rises_when_the_set_is_changed(self, odile):
        before = [d["risk"] for d in ok(odile.get("catalogue"))["duties"] if d["key"] == "markup.tables"]
        row = MarkupSet.objects.get(pk="tables")
        wider = {"name": row.name, "elements": {**row.elements, "iframe": ["src"]}, "schemes": row.schemes}
        assert "frames" in ok(odile.post("markup-sets/risk", wider))["risk"]
        assert MarkupSet.objects.get(pk="tables").elements == row.elements
        ok(odile.put("markup-sets/tables", wider, **{"If-Match": '"1"'}))
        [now] = [d["risk"] for d in ok(odile.get("catalogue"))["duties"] if d["key"] == "markup.tables"]
        assert "frames" not in before[0]
        assert "frames" in now

    def test_giving_one_is_told_in_the_impact(self, odile):
        stage(odile, EDIT | {"capability": "markup.free", "says": "yes"})
        [risk] = ok(odile.get("change-set/touched"))["risks"]
        assert risk["what"] == "use the markup set Free markup"
        assert "frames" in risk["why"]

    def test_together_with_site_settings_and_hidden_fields(self, odile):
        apply(odile, *(EDIT | {"capability": c, "says": "yes"} for c in ("markup.free", "site.settings")))
        table = {"tenant-editor": ["see-all"]}
        apply(odile, {"kind": "set-field-rule", "type": "event", "field": "budget", "mode": "table", "table": table})
        whys = {r.why for r in risks_of("tenant-editor", RoleResolver(current().policy), current().catalogue)}
        assert "Holders can widen the markup set that they may use themselves." in whys
        assert "This field is hidden from everyone whose roles do not show it." in whys


class TestUse:
    PAGE = "desk/pages/quay-cinema"

    def save(self, asking, html):
        page = ok(asking.get(self.PAGE))
        text = next(c for c in page["components"] if c["kind"] == "text")
        parts = [{"id": c["id"], "kind": c["kind"], "props": c["props"]} for c in page["components"]]
        parts[page["components"].index(text)]["props"] = {"html": html}
        tag = {"If-Match": asking.get(self.PAGE)["ETag"]}
        saved = ok(asking.patch(self.PAGE, {"components": parts}, **tag))
        return next(c["props"]["html"] for c in saved["components"] if c["kind"] == "text"), saved["taken_off"]

    def test_what_is_pasted_is_cleaned_to_the_best_set_one_may_use_there(self, odile, ask):
        pasted = f"<p>Now</p>{TABLE}<iframe src=https://x.example></iframe>"
        assert self.save(ask("tomasz"), pasted) == (f"<p>Now</p>{TABLE}", ["iframe", "src"])
        assert self.save(ask("ciaran"), pasted) == ("<p>Now</p>1", ["iframe", "src", "table", "tbody", "td", "tr"])
        assert self.save(odile, "<div style=x>Now</div>") == ('<div style="x">Now</div>', [])

    def test_a_text_that_is_not_changed_is_left_as_it_was(self, ask):
        kept, _ = self.save(ask("tomasz"), TABLE)
        ok(ask("ciaran").patch(self.PAGE, {"title": "Cinema"}, **{"If-Match": ask("ciaran").get(self.PAGE)["ETag"]}))
        assert self.save(ask("ciaran"), kept)[0] == TABLE
        assert TABLE in str(Node.objects.get(pk="quay-cinema").components)

    def test_a_page_tells_which_one_may_use(self, ask):
        assert ok(ask("tomasz").get(self.PAGE))["markup"] == ["Prose", "Tables and figures"]
        assert ok(ask("ciaran").get(self.PAGE))["markup"] == ["Prose"]


class TestKeeping:
    def test_one_is_made_given_to_nobody_and_new(self, odile):
        made = ok(odile.post("markup-sets", SET), 201)
        assert (made["key"], made["risk"], made["roles"]) == ("letters", "", [])
        assert "markup.letters" in ok(odile.get("catalogue"))["new"]
        apply(odile, EDIT | {"capability": "markup.letters", "says": "yes"})
        assert ok(odile.get("markup-sets/letters"))["roles"] == ["tenant-editor"]

    def test_one_in_use_is_not_dropped(self, odile):
        problem = refused(odile.delete("markup-sets/prose"), "conflict", 409)
        assert "Signed in" in problem["detail"]
        ok(odile.post("markup-sets", SET), 201)
        assert odile.delete("markup-sets/letters").status_code == 204
        refused(odile.get("markup-sets/letters"), "not-found", 404)

    def test_changing_over_somebody_elses_change_is_noticed(self, odile):
        ok(odile.put("markup-sets/prose", SET, **{"If-Match": '"1"'}))
        problem = refused(
            odile.put("markup-sets/prose", SET | {"name": "x"}, **{"If-Match": '"1"'}), "changed-meanwhile", 412
        )
        assert problem["theirs"]["name"] == "Letters"

    @pytest.mark.parametrize(
        ("change", "pointer"),
        [
            ({"name": " "}, "/name"),
            ({"name": "prose"}, "/name"),
            ({"elements": {}}, "/elements"),
            ({"elements": {"P": []}}, "/elements"),
            ({"elements": {"body": []}}, "/elements"),
            ({"elements": {"p": ["on click"]}}, "/elements"),
            ({"schemes": ["https:"]}, "/schemes"),
        ],
    )
    def test_bad_input_names_the_field(self, odile, change, pointer):
        problem = refused(odile.post("markup-sets", SET | change), "invalid", 422)
        assert problem["errors"][0]["pointer"] == pointer

    def test_only_with_site_settings(self, ask):
        refused(ask("ludo").post("markup-sets", SET), "not-granted")
        assert len(ok(ask("ludo").get("markup-sets"))) == 3


def test_faults_are_none_in_what_ships():
    for row in MarkupSet.objects.all():
        assert list(faults(row.elements, row.schemes)) == []
