"""The served application and a real browser. Every test begins with the untouched harbour."""

import itertools
import os
import subprocess
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, expect, sync_playwright

from tools.console import RUN, run
from tools.install import PYTHON
from tools.processes import free_port
from tools.screenshots import CHROMIUM, SIZE, fill_in_sign_in
from tools.serving import served

expect.set_options(timeout=20_000)
ODILE, INES = "odile@skerrow.example", "ines@sailloft.example"
_versions = itertools.count(1_000, 1_000)


class Harbour:
    """The database behind the served application, and putting it back as it was."""

    def __init__(self, dump: Path) -> None:
        self.dump = dump
        with dump.open("wb") as out:
            subprocess.run(["mariadb-dump", *_server(), "gonfalon"], env=_environment(), stdout=out, check=True)

    def restore(self) -> None:
        """Servers keep what they read by version, so each restored harbour has versions of its own."""
        with self.dump.open("rb") as dump:
            subprocess.run(["mariadb", *_server(), "gonfalon"], env=_environment(), stdin=dump, check=True)
        version = next(_versions)
        raised = (
            f"UPDATE access_policyversion SET number={version};"
            f"UPDATE content_contentversion SET number={version}, whole={version}"
        )
        subprocess.run(["mariadb", *_server(), "gonfalon", "-e", raised], env=_environment(), check=True)


def _server() -> list[str]:
    return ["--no-defaults", "--host=127.0.0.1", f"--port={os.environ['GONFALON_DB_PORT']}", "--user=gonfalon"]


def _environment() -> dict[str, str]:
    return os.environ | {"MYSQL_PWD": os.environ["GONFALON_DB_PASSWORD"]}


def _anew() -> None:
    """An empty database, whatever an earlier run left in it."""
    statements = "DROP DATABASE gonfalon; CREATE DATABASE gonfalon CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci"
    subprocess.run(["mariadb", *_server(), "-e", statements], env=_environment(), check=True)


@pytest.fixture(scope="package")
def harbour(tmp_path_factory) -> Harbour:
    env = dict(os.environ)
    _anew()
    run("Preparing the database", [str(PYTHON), "manage.py", "migrate", "-v0"], env=env)
    run("Loading Skerrow Harbour", [str(PYTHON), "manage.py", "load_demo"], env=env)
    return Harbour(tmp_path_factory.mktemp("harbour") / "dump.sql")


@pytest.fixture(scope="package")
def address(harbour) -> Iterator[str]:
    with served(RUN / "test", dict(os.environ), free_port()) as server:
        yield server.address


@pytest.fixture(scope="package")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=CHROMIUM)
        yield browser
        browser.close()


@pytest.fixture
def open_as(browser, address, harbour) -> Iterator[Callable[..., Page]]:
    """`open_as(ODILE, "/define")` is a page of somebody's own browser, signed in and at a place."""
    harbour.restore()
    errors: list[str] = []
    contexts = []

    def open_as(email: str | None = None, path: str = "/sign-in") -> Page:
        context = browser.new_context(base_url=address, viewport=SIZE, reduced_motion="reduce")  # type: ignore[arg-type]
        contexts.append(context)
        if email:
            _sign_in(context, email)
        page = context.new_page()
        page.set_default_timeout(20_000)
        page.on("pageerror", lambda error: errors.append(str(error)))
        page.goto(path)
        return page

    yield open_as
    for context in contexts:
        context.close()
    assert errors == [], "the page raised errors of its own"


def _sign_in(context: BrowserContext, email: str) -> None:
    """Sign in as the form does, without loading the application for it: nearly every test begins signed in."""
    context.request.get("/api/session")
    token = next(cookie["value"] for cookie in context.cookies() if cookie["name"] == "csrftoken")
    sent = {"email": email, "password": os.environ["GONFALON_DEMO_PASSWORD"]}
    answered = context.request.post("/api/session", data=sent, headers={"X-CSRFToken": token})
    assert answered.ok, f"signing in as {email} was answered {answered.status}: {answered.text()}"


def sign_in_by_form(page: Page, email: str) -> None:
    fill_in_sign_in(page, email, os.environ["GONFALON_DEMO_PASSWORD"])
