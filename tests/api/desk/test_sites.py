"""Sites are made, put in order and set up; an installation begins with a first one."""

import pytest
from django.core.management import CommandError, call_command
from django.test import Client

from gonfalon.access.models import Role
from gonfalon.accounts.models import Account
from gonfalon.content.models import Node, Site
from tests.api.support import Asking, apply, ok, refused

TAG = {"If-Match": '"1"'}


def test_a_new_site_has_a_home_page_that_visitors_read_and_a_folder(odile):
    made = ok(odile.post("sites", {"name": "Slack Water Club", "tagline": "We wait"}), 201)
    assert (made["key"], made["tagline"]) == ("slack-water-club", "We wait")
    assert Client().get("/site/slack-water-club/").status_code == 200
    assert {row.type for row in Node.objects.filter(site="slack-water-club")} == {"home", "folder"}
    assert [site["key"] for site in ok(odile.get("sites"))][-1] == "slack-water-club"
    ok(odile.post("desk/pages", {"parent": made["home"], "type": "section", "title": "News"}), 201)
    assert Node.objects.find_problems() == ([], [], [], [], [])


def test_what_is_new_is_named_in_scopes_at_once(odile, ask):
    """The policy knows of a site, and of a topic, as soon as it is made: scopes name it, and duties there count."""
    give = {"kind": "give-capability", "capability": "site.settings", "says": "yes"}
    ok(odile.get("session"))
    ok(odile.post("sites", {"name": "Slack Water Club"}), 201)
    role = {"kind": "give-role", "role": "pilot", "to": {"kind": "account", "id": "ines"}}
    apply(odile, role | {"scope": {"sites": ["slack-water-club"]}})
    ok(odile.post("topics", {"name": "Knots"}), 201)
    apply(odile, role | {"scope": {"topics": ["knots"]}})
    apply(odile, give | {"to": {"kind": "account", "id": "tomasz"}, "scope": {"sites": ["slack-water-club"]}})
    refused(ask("bashir").post("stand-in", {"account": "tomasz"}), "beyond")


@pytest.mark.parametrize(
    ("said", "pointer"),
    [
        ({"name": " "}, "/name"),
        ({"name": "Skerrow Regatta"}, "/name"),
        ({"hosts": ["quay.example:80"]}, "/hosts/0"),
        ({"hosts": ["http://quay.example"]}, "/hosts/0"),
        ({"hosts": ["races.example", "localhost"]}, "/hosts/1"),
        ({"hosts": ["desk.localhost"]}, "/hosts/0"),
        ({"hosts": ["127.0.0.1"]}, "/hosts/0"),
        ({"hosts": ["127.4.5.6"]}, "/hosts/0"),
        ({"hosts": ["0.0.0.0"]}, "/hosts/0"),
        ({"language": "xx"}, "/language"),
        ({"bin_days": -1}, "/bin_days"),
    ],
)
def test_what_is_wrong_is_named(odile, said, pointer):
    problem = refused(odile.patch("sites/harbour", said, **TAG), "invalid", 422)
    assert problem["errors"][0]["pointer"] == pointer


def test_settings_are_changed_by_whoever_has_the_duty_for_that_site(odile, ask):
    ok(odile.patch("sites/harbour", {"name": "The harbour", "footer": "By the quay", "bin_days": 7}, **TAG))
    assert b"By the quay" in Client().get("/site/harbour/").content
    assert odile.patch("sites/harbour", {"name": "Again"}, **TAG).status_code == 412
    refused(ask("ines").patch("sites/harbour", {"name": "Mine"}, **TAG), "not-granted")


def test_a_site_never_takes_the_name_of_the_desk(odile, settings):
    settings.HOST = "desk.quay.example"
    refused(odile.patch("sites/harbour", {"hosts": ["Desk.Quay.example"]}, **TAG), "invalid", 422)


def test_a_site_answers_under_its_host_names(odile, settings):
    settings.ALLOWED_HOSTS = ["*"]
    ok(odile.patch("sites/regatta", {"hosts": ["Races.Example", "races.example"]}, **TAG))
    here = Client(headers={"host": "races.example:8080"})
    assert here.get("/").content == Client().get("/site/regatta/").content
    assert here.get("/races").status_code == 200
    assert here.get("/site/harbour/").status_code == 200
    assert here.get("/api/session").status_code == 404, "nothing but the site answers there"
    problem = refused(odile.patch("sites/harbour", {"hosts": ["races.example"]}, **TAG), "invalid", 422)
    assert problem["errors"][0]["pointer"] == "/hosts"


def test_they_are_put_in_an_order(odile):
    assert odile.put("sites/order", {"keys": ["regatta", "harbour"]}).status_code == 204
    assert [site["key"] for site in ok(odile.get("sites"))] == ["regatta", "harbour"]
    for keys in (["regatta"], ["regatta", "regatta"], ["regatta", "none"]):
        assert odile.put("sites/order", {"keys": keys}).status_code == 422


@pytest.fixture
def empty(nothing_here):
    """An installation before its first site, with a keyholder."""
    for baseline in ("everyone", "signed-in"):
        Role.objects.create(key=baseline, name=baseline, baseline=baseline)
    Account.objects.create(id="ada", email="ada@post.example", name="Ada Sund", keyholder=True, state="active")
    return Asking("ada")


class TestBeginning:
    def test_from_nothing_to_a_page_that_a_visitor_reads(self, empty):
        assert ok(empty.get("begin")) == {"begun": False}
        made = ok(empty.post("begin", {"name": "Slack Water Club"}), 201)
        assert b"Slack Water Club" in Client().get(f"/site/{made['key']}/").content
        page = ok(empty.post("desk/pages", {"parent": made["home"], "type": "section", "title": "News"}), 201)
        assert Client().get(f"/site/{made['key']}/news").status_code == 404
        ok(empty.post(f"desk/pages/{page['id']}/publish", **TAG))
        assert b"News" in Client().get(f"/site/{made['key']}/news").content
        assert Role.objects.filter(name="Contributor of drafts").exists()
        assert ok(empty.get("begin")) == {"begun": True}
        refused(empty.post("begin", {"name": "Another"}), "conflict", 409)

    def test_visitors_may_be_left_outside(self, empty):
        made = ok(empty.post("begin", {"name": "Slack Water Club", "visitors": False, "starters": False}), 201)
        assert Client().get(f"/site/{made['key']}/").status_code == 404
        assert empty.client.get(f"/site/{made['key']}/").status_code == 200

    def test_a_command_does_the_same(self, empty, capsys):
        call_command("begin", "Slack Water Club")
        assert "/site/slack-water-club/" in capsys.readouterr().out
        assert Client().get("/site/slack-water-club/").status_code == 200
        with pytest.raises(CommandError):
            call_command("begin", "Another")

    def test_only_a_keyholder_begins(self, odile, lone):
        Node.objects.all().delete()
        Site.objects.all().delete()
        refused(lone("site.settings").post("begin", {"name": "Mine"}), "conflict", 409)
