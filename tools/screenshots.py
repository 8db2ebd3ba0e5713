"""One picture of each main view at 1280 x 800, from untouched demo data. Called with the address."""

import os
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import BrowserContext, Page, sync_playwright

from tools.console import ROOT
from tools.install import BROWSER

FOLDER = ROOT / "docs" / "screenshots"
SIZE = {"width": 1280, "height": 800}
CHROMIUM_PATH = f"/usr/bin/{BROWSER}"
CHROMIUM = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--no-first-run",
]


def define(page: Page) -> None:
    page.goto("/define/tenant-editor?cell=event.edit")
    page.locator('[data-capability="event.edit"]').focus()
    for key in ("t", "ArrowRight", "t"):
        page.keyboard.press(key)
    page.get_by_text("25 accounts gain").wait_for()
    page.locator('[data-capability="event.edit"]').click()
    page.get_by_text("may now edit pages").wait_for()


def review(page: Page) -> None:
    page.goto("/define/tenant-editor")
    page.get_by_role("button", name="Review and apply").click()
    page.get_by_role("button", name="Show who").click()
    page.get_by_text("may edit pages").first.wait_for()


def catalogue(page: Page) -> None:
    page.goto("/define/catalogue")
    page.get_by_text("Tables and figures").wait_for()


def kinds(page: Page) -> None:
    page.goto("/define/kinds/berth")
    page.get_by_text("As painted on the post").wait_for()


def start(page: Page) -> None:
    page.goto("/desk")
    page.get_by_text("Waits for you").wait_for()


def roster(page: Page) -> None:
    page.goto("/assign")
    for name in ("Aiko Lindqvist", "Arvo Tennant"):
        page.get_by_role("checkbox", name=f"Choose {name}").check()
    page.get_by_role("button", name="Take a role").click()
    page.get_by_role("button", name="Role Choose a role").click()
    page.get_by_role("option", name="Season intern").click()
    page.get_by_text("1 account loses").wait_for()


def requests(page: Page) -> None:
    page.goto("/assign/requests/request-2")
    page.get_by_text("What would do").wait_for()


def media(page: Page) -> None:
    page.goto("/desk/pier-pictures?tree=media")
    page.get_by_text("9 files").wait_for()


def assign(page: Page) -> None:
    page.goto("/assign/ines")
    page.get_by_text("edits").first.wait_for()


def limit(page: Page) -> None:
    page.goto("/limit?role=duty-editor&node=museum")
    page.get_by_text("Who can edit here").wait_for()
    page.locator('[data-node="museum"] [data-column="2"]').click()
    page.get_by_text("Edit at Shipyard museum").wait_for()


def side_by_side(page: Page) -> None:
    page.goto("/side-by-side?side=account:tomasz&side=account:ines&node=p3-sail-loft&show=parts")
    page.get_by_text("Its fields").wait_for()


def why(page: Page) -> None:
    page.goto("/why?action=publish&account=ines&node=p3-sail-loft")
    page.get_by_text("1 account gains").first.wait_for()


def verify(page: Page) -> None:
    page.goto("/verify")
    page.get_by_text("may not").or_(page.get_by_text("asked just now")).first.wait_for()


def sentences(page: Page) -> None:
    page.goto("/verify?as=sentences")
    page.get_by_text("1332 answers").wait_for()
    page.get_by_role("textbox", name="Expectations as sentences").click()
    page.keyboard.press("Control+End")
    page.keyboard.type("Holders of Season intern may edit the Night of lantern")
    page.get_by_role("option", name="Night of lanterns").wait_for()


def report(page: Page) -> None:
    page.goto("/verify/report")
    page.get_by_role("textbox", name="Branch").fill("Pier 3")
    page.get_by_role("list", name="Branches found").get_by_role("button").first.click()
    page.get_by_label("For", exact=True).fill("Ines Marrow, Sail loft")
    page.get_by_role("button", name="Make the report").click()
    page.get_by_text("Waiting for the worker").wait_for()
    subprocess.run([sys.executable, "manage.py", "db_worker", "--batch", "--interval=0", "-v0"], cwd=ROOT, check=True)
    page.get_by_role("heading", name="Who can do what in Pier 3").wait_for()


def ledger(page: Page) -> None:
    page.goto("/define/tenant-editor")
    page.get_by_role("button", name="Review and apply").click()
    page.get_by_role("dialog").get_by_role("button", name="Apply").click()
    page.get_by_role("dialog").wait_for(state="detached")
    page.goto("/ledger")
    page.get_by_role("button", name="What changed").first.click()


def standing_in(page: Page) -> None:
    page.goto("/assign/ines")
    page.get_by_role("button", name="Stand in", exact=True).click()
    page.get_by_role("radio", name="Rehearse").click()
    page.get_by_text("nothing is kept").wait_for()
    page.goto("/desk/p3-sail-loft?xray=on")
    page.get_by_label("Telephone").fill("0550 014 321")
    page.get_by_role("button", name="Save").click()
    page.get_by_text("Saved Pier 3, Sail loft").wait_for()
    page.get_by_role("tab", name="Walk list").click()
    page.get_by_text("On this page").wait_for()


def desk(page: Page) -> None:
    page.goto("/desk/p3-sail-loft")
    page.get_by_role("tab", name="Access").click()
    page.get_by_text("Who can edit here").wait_for()


def public(page: Page) -> None:
    page.goto("/site/harbour/moorings/berth-directory/pier-3/pier-3-sail-loft")


VIEWS: dict[str, tuple[str, Callable[[Page], None]]] = {
    "define": ("odile@skerrow.example", define),
    "review": ("odile@skerrow.example", review),
    "catalogue": ("odile@skerrow.example", catalogue),
    "kinds": ("odile@skerrow.example", kinds),
    "start": ("tomasz@skerrow.example", start),
    "roster": ("odile@skerrow.example", roster),
    "requests": ("odile@skerrow.example", requests),
    "assign": ("odile@skerrow.example", assign),
    "limit": ("odile@skerrow.example", limit),
    "why": ("odile@skerrow.example", why),
    "verify": ("odile@skerrow.example", verify),
    "sentences": ("odile@skerrow.example", sentences),
    "report": ("odile@skerrow.example", report),
    "side-by-side": ("odile@skerrow.example", side_by_side),
    "ledger": ("odile@skerrow.example", ledger),
    "media": ("odile@skerrow.example", media),
    "desk": ("odile@skerrow.example", desk),
    "standing-in": ("odile@skerrow.example", standing_in),
    "site": ("", public),
}


def fill_in_sign_in(page: Page, email: str, password: str) -> None:
    """Fill in the form that a page shows, and send it."""
    page.get_by_label("E-mail address").fill(email)
    page.get_by_label("Password").fill(password)
    page.get_by_role("button", name="Sign in").click()


def sign_in(page: Page, email: str, password: str) -> None:
    page.goto("/sign-in")
    with page.expect_response(lambda r: r.url.endswith("/api/session") and r.request.method == "POST") as answered:
        fill_in_sign_in(page, email, password)
    if not answered.value.ok:
        raise RuntimeError(f"Signing in as {email} was answered {answered.value.status}: {answered.value.text()}")
    page.wait_for_url(lambda url: "/sign-in" not in url)


def main(address: str, folder: Path, only: list[str]) -> None:
    folder.mkdir(parents=True, exist_ok=True)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM_PATH, args=CHROMIUM)
        of_each: dict[str, BrowserContext] = {}
        for name, (email, visit) in VIEWS.items():
            if only and name not in only:
                continue
            if email not in of_each:  # one signs in once: the ledger tells of each time
                of_each[email] = browser.new_context(base_url=address, viewport=SIZE, reduced_motion="reduce")  # type: ignore[arg-type]
                of_each[email].set_default_timeout(10_000)
                if email:
                    sign_in(of_each[email].new_page(), email, os.environ["GONFALON_DEMO_PASSWORD"])
            page = of_each[email].new_page()
            visit(page)
            page.wait_for_load_state("networkidle")
            page.screenshot(path=str(folder / f"{name}.png"))
            print(f"{name}.png")
            page.close()


if __name__ == "__main__":
    main(sys.argv[1], FOLDER, sys.argv[2:])
