"""Why an answer is what it is: told as far as whoever asks may know."""

import pytest

from tests.api.support import ok, refused


@pytest.fixture
def as_ines(odile):
    ok(odile.post("stand-in", {"account": "ines", "came_from": "/assign/ines?role=pilot"}), 204)
    return odile


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


@pytest.mark.parametrize(
    "asked",
    [
        {"account": "ines", "action": "retire", "node": "p3-sail-loft"},
        {"role": "season-intern", "action": "create", "type": "event", "node": "events"},
        {"account": "tomasz", "action": "see-field", "profile": "ines", "field": "telephone"},
        {"account": "ines", "action": "change-facet", "node": "p3-sail-loft", "component": "text", "facet": "wording"},
        {"account": "tomasz", "action": "roles.define"},
    ],
    ids=str,
)
def test_an_answer_can_be_expected_as_it_was_asked(odile, asked):
    why = ok(odile.get("why", **asked))
    expect = "allow" if why["allow"] else "deny"
    kept = ok(odile.post("expectations", {**why["asked"], "expect": expect}), 201)
    assert (kept["holds"], kept["question"]) == (True, why["asked"])
