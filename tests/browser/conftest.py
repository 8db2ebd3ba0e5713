"""The served application in a real browser. Every test begins with the untouched harbour."""

import os
from collections.abc import Callable, Iterator

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, Request, expect, sync_playwright

from tests.served.support import INES, ODILE
from tools.screenshots import CHROMIUM, CHROMIUM_PATH, SIZE, fill_in_sign_in

__all__ = ["INES", "ODILE"]

expect.set_options(timeout=20_000)


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM_PATH, args=CHROMIUM)
        yield browser
        browser.close()


@pytest.fixture
def open_as(browser, address, harbour_served) -> Iterator[Callable[..., Page]]:
    """`open_as(ODILE, "/define")` is a page of somebody's own browser, signed in and at a place.

    The harbour is put back as it was after a story that wrote anything.
    """
    errors: list[str] = []
    contexts: list[BrowserContext] = []
    written: list[str] = []

    def note(request: Request) -> None:
        if request.method != "GET":
            written.append(request.url)

    def open_as(email: str | None = None, path: str = "/sign-in") -> Page:
        context = browser.new_context(base_url=address, viewport=SIZE, reduced_motion="reduce")  # type: ignore[arg-type]
        contexts.append(context)
        context.on("request", note)
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
    if written:
        harbour_served.restore()
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
