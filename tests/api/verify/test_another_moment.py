"""Standing in at another moment: to come under what is in force, past under what was, over the pages of now."""

from datetime import timedelta

from django.utils.dateparse import parse_datetime

from gonfalon.access.models import PolicyChange
from gonfalon.access.snapshot import current
from gonfalon.clock import now
from tests.api.support import apply, ok, refused, stage
from tests.api.verify.test_stand_in import LOFT, STOP


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
        new = {"people": [{"name": "Pia Holm", "email": "pia@skerrow.example"}], "how": "password"}
        [made] = ok(odile.post("accounts", new), 201)["people"]
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
