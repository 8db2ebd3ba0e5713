"""Roles, their boards, and editing what marks them."""

from gonfalon.access.models import Role
from gonfalon.ledger.models import Entry
from tests.api.support import apply, ok, refused, stage


def cell(board, capability):
    return next(c for c in board["cells"] if c["capability"] == capability)


def test_a_role_is_made_from_a_name_alone(odile):
    role = ok(odile.post("roles", {"name": "  Gallery   tenant "}), 201)
    assert (role["key"], role["name"], role["holders"]) == ("gallery-tenant", "Gallery tenant", 0)
    board = ok(odile.get("roles/gallery-tenant"))
    assert all(c["said"] is None for c in board["cells"])
    assert Entry.objects.first().summary == "Made the role Gallery tenant"


def test_its_cloth_is_worn_by_no_other_role(odile):
    made = ok(odile.post("roles", {"name": "Gallery tenant"}), 201)
    worn = [(r["cloth"]["colour"], r["cloth"]["pattern"]) for r in ok(odile.get("roles"))]
    assert worn.count((made["cloth"]["colour"], made["cloth"]["pattern"])) == 1


def test_names_without_letters_still_find_a_key(odile):
    assert ok(odile.post("roles", {"name": "港"}), 201)["key"] == "role"
    assert ok(odile.post("roles", {"name": "湾"}), 201)["key"] == "role-2"


def test_a_name_that_is_missing_or_taken_is_named(odile):
    assert refused(odile.post("roles", {"name": " "}), "invalid", 422)["errors"][0]["pointer"] == "/name"
    taken = refused(odile.post("roles", {"name": "tenant EDITOR"}), "invalid", 422)
    assert taken["errors"] == [{"pointer": "/name", "message": "Another role is called tenant EDITOR already."}]


def test_the_board_shows_where_an_answer_comes_from(odile):
    board = ok(odile.get("roles/duty-editor"))
    own, built_on = cell(board, "notice.edit"), cell(board, "notice.create")
    assert (own["said"], built_on["said"]) == ("all", None)
    assert (built_on["inherited"], built_on["inherited_from"]) == ("all", "notice-writer")
    assert (cell(board, "event.see")["baseline"], cell(board, "event.see")["baseline_from"]) == ("all", "everyone")


def test_the_board_shows_what_one_staged_oneself_and_nobody_else(odile, ask):
    stage(odile, {"kind": "set-answer", "role": "tenant-editor", "capability": "event.edit", "says": "team"})
    mine = cell(ok(odile.get("roles/tenant-editor")), "event.edit")
    theirs = cell(ok(ask("ludo").get("roles/tenant-editor")), "event.edit")
    assert (mine["said"], mine["staged"]) == ("team", True)
    assert (theirs["said"], theirs["staged"]) == ("own", False)


def test_a_change_below_flows_to_the_roles_that_build_on_it(odile):
    apply(odile, {"kind": "set-answer", "role": "notice-writer", "capability": "result.see-draft", "says": "all"})
    assert cell(ok(odile.get("roles/harbour-lead")), "result.history")["said"] == "all"
    assert cell(ok(odile.get("roles/duty-editor")), "result.see-draft")["inherited"] == "all"


def test_what_surrounds_a_cell(odile):
    around = ok(odile.get("roles/duty-editor/cell", capability="article.edit"))
    assert {"role": "site-steward", "says": "all"} in around["also"]
    assert any("Shipyard museum" in text for text in around["narrowed"])
    assert "Tomasz Okafor" in {holder["name"] for holder in around["holders"]}


def test_the_expectations_that_rest_on_a_cell(odile):
    def resting(role, capability):
        told = ok(odile.get(f"roles/{role}/cell/expectations", capability=capability))
        shown = [(one["sentence"], one["holds"]) for one in told["shown"]]
        return told["expectations"], told["holding"], shown

    publish = [
        ("Ines Marrow may not publish Pier 3, Sail loft", True),
        ("Holders of Tenant editor may not publish berth pages in Moorings", True),
    ]
    assert resting("tenant-editor", "berth.publish") == (2, 2, publish)
    broken = ('Edda Nwosu may not edit "Open day" (open-day)', False)
    holding = ("Aiko Lindqvist may edit Night of lanterns", True)
    assert resting("signed-in", "event.edit") == (2, 1, [broken, holding])
    assert resting("season-intern", "event.edit") == (1, 1, [holding])
    assert resting("pilot", "event.edit") == (0, 0, [])


def test_expectations_are_told_beside_a_cell_to_whoever_may_read_them(odile, ines):
    def give(*duties):
        said = [{"kind": "set-answer", "role": "tenant-editor", "capability": duty, "says": "yes"} for duty in duties]
        apply(odile, *said)

    give("roles.define")
    ok(ines.get("roles/tenant-editor/cell", capability="event.edit"))
    refused(ines.get("roles/tenant-editor/cell/expectations", capability="event.edit"), "not-granted")
    refused(ines.get("expectations"), "not-granted")
    give("expectations.keep")
    assert ok(ines.get("roles/tenant-editor/cell/expectations", capability="event.edit"))["expectations"] == 1


def test_a_barred_cell_is_rested_on_too(odile):
    question = {"holders_of": "tenant-editor", "action": "remove", "branch": "notices", "types": ["notice"]}
    ok(odile.post("expectations", {**question, "expect": "deny"}), 201)
    assert cell(ok(odile.get("roles/tenant-editor")), "notice.remove")["said"] == "barred"
    assert ok(odile.get("roles/tenant-editor/cell/expectations", capability="notice.remove"))["holding"] == 1


def test_no_such_role_or_capability(odile):
    refused(odile.get("roles/pilot/cell/expectations", capability="ship.sink"), "not-found", 404)
    refused(odile.get("roles/nobody/cell/expectations", capability="event.edit"), "not-found", 404)
    refused(odile.get("roles/nobody"), "not-found", 404)
    refused(odile.get("roles/pilot/cell", capability="ship.sink"), "not-found", 404)


def test_a_role_is_changed_only_from_the_version_one_saw(odile):
    seen = odile.get("roles/pilot")["ETag"]
    refused(odile.patch("roles/pilot", {"name": "Sea pilot"}), "precondition-required", 428)
    ok(odile.patch("roles/pilot", {"name": "Sea pilot"}, **{"If-Match": seen}))
    problem = refused(odile.patch("roles/pilot", {"name": "Old pilot"}, **{"If-Match": seen}), "changed-meanwhile", 412)
    assert problem["theirs"]["name"] == "Sea pilot"
    assert Role.objects.get(pk="pilot").name == "Sea pilot"


def test_defining_needs_its_duty(ask):
    bashir = ask("bashir")
    refused(bashir.post("roles", {"name": "Mine"}), "not-granted")
    refused(bashir.get("roles/pilot"), "not-granted")
    assert not Role.objects.filter(name="Mine").exists()


def test_a_board_tells_all_that_is_risky_about_a_role_staged_or_not(odile):
    assert ok(odile.get("roles/tenant-editor"))["risks"] == []
    stage(odile, *({"kind": "set-answer", "role": "tenant-editor", "capability": c, "says": "yes"} for c in BOTH))
    told = [risk["what"] for risk in ok(odile.get("roles/tenant-editor"))["risks"]]
    assert told[-1] == "define roles and give roles to accounts and groups"
    assert len(told) == 3


BOTH = ("roles.define", "roles.assign")


def counts(asking, role, capability, word=None):
    """What a cell of a board comes to if it says a word."""
    board = ok(asking.get(f"roles/{role}"))
    cell = next(cell for cell in board["cells"] if cell["capability"] == capability)
    return board["outcomes"][cell["outcomes"]][word or ""]


def test_a_bar_of_the_baseline_is_seen_on_every_board(odile):
    assert counts(odile, "duty-editor", "event.publish", "all")["given"]
    apply(odile, {"kind": "set-answer", "role": "signed-in", "capability": "event.publish", "says": "barred"})
    barred = {"says": "barred", "given": False, "source": "baseline", "by": "signed-in", "form": "barred"}
    assert counts(odile, "duty-editor", "event.publish", "all") == barred
    assert counts(odile, "everyone", "event.publish")["form"] == "nothing", "visitors have nothing of every account's"
    across = {row["role"]: row for row in ok(odile.get("roles/capability", capability="event.publish"))}
    assert across["duty-editor"]["outcomes"]["all"] == barred


def test_every_form_of_an_outcome_has_a_sentence(odile):
    sentences = ok(odile.get("catalogue"))["sentences"]
    forms = {
        outcome["form"]
        for role in ("everyone", "signed-in", "tenant-editor", "duty-editor")
        for outcomes in ok(odile.get(f"roles/{role}"))["outcomes"]
        for outcome in outcomes.values()
    }
    assert forms == set(sentences)


class TestBeside:
    def test_it_is_told_where_it_is_narrowed_and_given_and_which_fields_it_has(self, odile):
        beside = ok(odile.get("roles/season-intern/beside"))
        assert "Harbour office: bar everything, here and beneath" in beside["limits"]
        assert beside["given"] == ["On Summer season"]
        pilots = ok(odile.get("roles/pilot/beside"))["fields_said"]
        assert "Change hazard level of all notices to mariners" in pilots

    def test_what_is_staged_counts(self, odile):
        scope = {"branches": ["moorings"]}
        stage(
            odile,
            {"kind": "give-role", "role": "season-intern", "to": {"kind": "account", "id": "ines"}, "scope": scope},
        )
        assert "On Moorings" in ok(odile.get("roles/season-intern/beside"))["given"]

    def test_fields_are_for_those_who_set_limits_and_places_for_those_who_see_people(self, lone):
        told = ok(lone("roles.define").get("roles/season-intern/beside"))
        assert (told["fields_said"], told["given"]) == (None, None)
        assert told["limits"] == ["A page out of sight: bar everything, here and beneath"]
        refused(lone("roles.define").get("roles/no-such-thing/beside"), "not-found", 404)
