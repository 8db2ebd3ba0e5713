"""Operating an installation: the keyholder command, the checks, and what trouble says."""

import json
import os
import socket
import stat
import subprocess
import sys
from io import StringIO

import pytest
from django.core.checks import CheckMessage
from django.core.management import CommandError, call_command

from gonfalon.access.management.commands import keyholder
from gonfalon.access.models import FieldRule, Limit, PolicyVersion, Role
from gonfalon.accounts.models import Account
from gonfalon.ledger.models import Entry
from gonfalon.verify.checks import installation_is_a_policy
from tests.api.support import ok
from tools import install
from tools.console import Trouble, run
from tools.processes import free_port, require_free
from tools.serving import secrets_of


def make_keyholder(address, **more):
    out = StringIO()
    call_command("keyholder", address, stdout=out, **more)
    return out.getvalue()


@pytest.fixture
def typed(monkeypatch):
    """`typed("a", "b")` types these at a terminal, one after the other."""

    def types(*words):
        each = iter(words)
        monkeypatch.setattr("sys.stdin.isatty", lambda: True, raising=False)
        monkeypatch.setattr(keyholder, "getpass", lambda _: next(each))

    return types


class TestKeyholder:
    def test_an_account_becomes_one_and_counts_at_once(self, ask):
        tomasz = ask("tomasz")
        assert "define" not in ok(tomasz.get("session"))["places"]
        version = PolicyVersion.objects.get().number
        assert "Tomasz Okafor" in make_keyholder("TOMASZ@skerrow.example")
        assert PolicyVersion.objects.get().number == version + 1
        assert "define" in ok(tomasz.get("session"))["places"]
        assert Entry.objects.first().kind == "account.keyholder"

    def test_a_disabled_one_is_active_again(self):
        make_keyholder("agnes@skerrow.example")
        assert Account.objects.get(pk="agnes").is_active

    def test_a_new_one_is_asked_for_a_password_twice(self, typed):
        typed("the tide waits for nobody", "the tide waits for nobody")
        make_keyholder("new@skerrow.example", name="New Keyholder")
        made = Account.objects.get(email="new@skerrow.example")
        assert made.keyholder
        assert made.check_password("the tide waits for nobody")

    def test_two_that_differ_and_a_weak_one_are_refused_with_the_reason(self, typed):
        typed("the tide waits for nobody", "the tide waits for somebody", "harbour", "harbour")
        for reason in ("not the same", "too short"):
            with pytest.raises(CommandError, match=reason):
                make_keyholder("new@skerrow.example")
        assert not Account.objects.filter(email="new@skerrow.example").exists()

    def test_one_that_there_is_keeps_the_password_or_is_given_another(self, typed):
        before = Account.objects.get(pk="tomasz").password
        make_keyholder("tomasz@skerrow.example")
        assert Account.objects.get(pk="tomasz").password == before
        typed("the tide waits for nobody", "the tide waits for nobody")
        make_keyholder("tomasz@skerrow.example", new_password=True)
        assert Account.objects.get(pk="tomasz").check_password("the tide waits for nobody")

    def test_without_a_terminal_it_is_a_line_on_standard_input(self, monkeypatch):
        monkeypatch.setattr("sys.stdin", StringIO("the tide waits for nobody\n"))
        make_keyholder("new@skerrow.example")
        assert Account.objects.get(email="new@skerrow.example").check_password("the tide waits for nobody")
        monkeypatch.setattr("sys.stdin", StringIO(""))
        with pytest.raises(CommandError, match="no terminal"):
            make_keyholder("other@skerrow.example")


MEANT = ("/roles/cafe-tenant/", "/roles/competitor/", "/roles/season-intern/")
"""Roles of the harbour that somebody made too wide or too narrow, for one to find."""


def warned() -> list[CheckMessage]:
    """What is told of the harbour but for what it has for one to find."""
    told = installation_is_a_policy(databases=["default"])
    return [message for message in told if not message.msg.startswith(MEANT)]


class TestChecks:
    def test_the_harbour_passes(self):
        assert warned() == []

    def test_no_keyholder_is_warned_of(self):
        Account.objects.filter(keyholder=True).update(state="disabled")
        [warning] = warned()
        assert warning.id == "gonfalon.W001"

    def test_a_missing_baseline_role_is_told(self):
        Role.objects.filter(pk="signed-in").update(baseline="")
        [error] = warned()
        assert (error.id, "signed-in" in error.msg) == ("gonfalon.W002", True)

    def test_what_the_rules_cannot_read_is_an_error_at_its_place(self):
        Limit.objects.filter(pk="limit-1").update(node="sunk")
        FieldRule.objects.create(type="berth", field="depth", mode="author")
        errors = installation_is_a_policy(databases=["default"])
        assert {error.id for error in errors} == {"gonfalon.W003"}
        assert any("there is no node “sunk”" in error.msg for error in errors)
        assert any("/fields/berth.depth" in error.msg for error in errors)

    def test_what_can_hardly_be_meant_is_a_warning(self):
        Limit.objects.filter(pk="limit-10").update(subject_id="odile")
        [warning] = warned()
        assert (warning.id, "keyholder" in warning.msg) == ("gonfalon.W001", True)

    def test_without_a_database_nothing_is_asked(self):
        assert installation_is_a_policy() == []


class TestTrouble:
    def test_a_taken_port_says_what_to_do(self):
        with socket.socket() as taken:
            taken.bind(("127.0.0.1", 0))
            taken.listen()
            port = taken.getsockname()[1]
            with pytest.raises(Trouble, match=f"Port {port} is taken. Choose another: PORT={port + 1} make demo"):
                require_free(port)
        require_free(free_port())

    def test_a_failing_command_is_told_with_its_last_words(self):
        with pytest.raises(Trouble, match=r"Looking failed. Is it there\?\n\n.*no-such-file"):
            run("Looking", ["ls", "no-such-file"], advice="Is it there?")

    def test_missing_packages_are_named_where_one_is_not_root(self, monkeypatch):
        monkeypatch.setattr(install.os, "geteuid", lambda: 1000)
        with pytest.raises(Trouble, match="As root, run: apt-get install the-package"):
            install.debian({"no-such-program": "the-package"})

    def test_secrets_are_made_once_and_kept_to_their_owner(self, tmp_path):
        made = secrets_of(tmp_path)
        assert secrets_of(tmp_path) == made
        assert len(made["secret_key"]) > 50
        file = tmp_path / "secrets.json"
        assert stat.S_IMODE(file.stat().st_mode) == 0o600
        assert json.loads(file.read_text()) == made


class TestTls:
    def settings_with(self, **env):
        names = ["SESSION_COOKIE_SECURE", "CSRF_COOKIE_SECURE", "SECURE_SSL_REDIRECT", "SECURE_HSTS_SECONDS"]
        names += ["SECURE_PROXY_SSL_HEADER", "SESSION_COOKIE_HTTPONLY", "SESSION_COOKIE_SAMESITE", "PROXIES"]
        code = (
            f"import json; from django.conf import settings; print(json.dumps([getattr(settings, n) for n in {names}]))"
        )
        env = os.environ | {"DJANGO_SETTINGS_MODULE": "gonfalon.server.settings"} | env
        done = subprocess.run([sys.executable, "-c", code], env=env, capture_output=True, text=True, check=True)
        return dict(zip(names, json.loads(done.stdout), strict=True))

    def test_cookies_travel_by_tls_alone_and_browsers_are_told_to_stay_there(self):
        with_tls, without = self.settings_with(GONFALON_TLS="yes"), self.settings_with(GONFALON_TLS="no")
        for name in ("SESSION_COOKIE_SECURE", "CSRF_COOKIE_SECURE", "SECURE_SSL_REDIRECT"):
            assert (with_tls[name], without[name]) == (True, False)
        assert (with_tls["SECURE_HSTS_SECONDS"] >= 31_536_000, without["SECURE_HSTS_SECONDS"]) == (True, 0)
        assert with_tls["SECURE_PROXY_SSL_HEADER"] == ["HTTP_X_FORWARDED_PROTO", "https"]
        assert without["SECURE_PROXY_SSL_HEADER"] is None
        for settings in (with_tls, without):
            assert (settings["SESSION_COOKIE_HTTPONLY"], settings["SESSION_COOKIE_SAMESITE"]) == (True, "Lax")

    def test_the_cookie_that_is_set_says_so(self, client, settings):
        settings.SESSION_COOKIE_SECURE = settings.CSRF_COOKIE_SECURE = True
        client.get("/api/session", secure=True)
        assert client.cookies["csrftoken"]["secure"]

    def test_proxies_are_trusted_only_as_many_as_one_says(self):
        assert [self.settings_with(**env)["PROXIES"] for env in ({}, {"GONFALON_PROXIES": "2"})] == [0, 2]
