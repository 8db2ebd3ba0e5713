"""Expectations: recorded while standing in, proved, dropped."""

import pytest

from gonfalon.ledger.models import Entry
from tests.api.support import apply, ok, refused


@pytest.fixture
def as_ines(odile):
    ok(odile.post("stand-in", {"account": "ines", "came_from": "/assign/ines?role=pilot"}), 204)
    return odile


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
        assert self.standing(odile)[id]["sentence"] == "Ines Marrow may not see Minutes of October."
        assert self.standing(ask("ludo"))[id]["sentence"] == "Ines Marrow may not see a page out of sight."

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
        assert (told["holds"], told["sentence"]) == (True, "Ines Marrow may not see Minutes of October.")

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
