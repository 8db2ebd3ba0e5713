"""What there is to say something about: extensions, markup sets, search listings; and what a change would touch."""

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import INES, ODILE
from tests.browser.test_define import cell, hang, tray

TOMASZ, CIARAN = "tomasz@skerrow.example", "ciaran@skerrow.example"
CATALOGUE = "/define/catalogue"


def switch(page: Page, name: str):
    return page.get_by_role("switch", name=name)


def test_an_extension_is_switched_off_and_on_and_nothing_is_lost(open_as):
    page = open_as(ODILE, "/define/regatta-crew?cell=result.edit")
    assert hang(page, "result.edit") == "all"
    page.get_by_role("link", name="Catalogue: extensions, markup sets").click()
    board = switch(page, "Regatta results board")
    board.click()
    ask = page.get_by_role("dialog", name="Switch Regatta results board off?")
    expect(ask).to_contain_text("22 pages are of its kinds")
    ask.get_by_role("button", name="Leave it on").click()
    expect(board).to_be_checked()
    board.click()
    page.get_by_role("button", name="Switch off").click()
    expect(board).not_to_be_checked()
    page.goto("/define/regatta-crew")
    expect(page.get_by_role("rowheader", name="Event")).to_be_visible()
    expect(page.get_by_role("rowheader", name="Race result")).to_have_count(0)
    visitor = open_as(None, "/site/regatta/results")
    expect(visitor.get_by_text("Second Wind")).to_have_count(0)

    page.goto(CATALOGUE)
    switch(page, "Regatta results board").click()
    expect(page.get_by_role("dialog")).to_contain_text("79 accounts and visitors gain · nobody loses.")
    page.get_by_role("button", name="Switch on").click()
    expect(switch(page, "Regatta results board")).to_be_checked()
    page.goto("/define/regatta-crew?cell=result.edit")
    assert hang(page, "result.edit") == "all"
    visitor.reload()
    expect(visitor.get_by_text("Second Wind").first).to_be_visible()
    page.goto("/ledger")
    expect(page.get_by_text("Switched Regatta results board off")).to_be_visible()


def test_what_is_new_is_marked_until_somebody_has_looked_at_it(open_as):
    page = open_as(ODILE, "/define/duty-editor")
    expect(page.get_by_role("rowheader", name="Tide day new")).to_be_visible()
    page.get_by_role("button", name="New 12").click()
    expect(page.get_by_role("rowheader", name="Event")).to_have_count(0)
    page.get_by_role("button", name="I have looked at them").click()
    expect(page.get_by_text("Nothing here")).to_be_visible()
    page.get_by_role("button", name="Everything").click()
    expect(page.get_by_role("rowheader", name="Tide day", exact=True)).to_be_visible()


def test_a_markup_set_is_made_told_risky_and_given(open_as):
    page = open_as(ODILE, CATALOGUE)
    page.get_by_role("button", name="New markup set").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Name").fill("Letters")
    dialog.get_by_label("Elements").fill("p\nBODY\n")
    expect(dialog.get_by_role("alert")).to_contain_text("“BODY” is no element")
    expect(dialog.get_by_label("Elements")).to_have_value("p\nBODY\n")
    dialog.get_by_label("Elements").fill("p\niframe src")
    expect(dialog.get_by_role("status")).to_contain_text("Lets frames through")
    dialog.get_by_role("button", name="Make it").click()
    expect(dialog).to_have_count(0)
    expect(page.get_by_role("heading", name="Letters")).to_be_visible()

    page.goto("/define/pilot?cell=markup.letters")
    expect(page.get_by_role("complementary")).to_contain_text("Lets frames through")
    page.get_by_role("radio", name="Yes").click()
    tray(page).get_by_role("button", name="Review and apply").click()
    expect(page.get_by_role("dialog")).to_contain_text("use the markup set Letters")
    expect(page.get_by_role("dialog")).to_contain_text("show other sites as if they were this")


def test_pasted_markup_is_cleaned_to_the_best_set_and_what_went_is_told(open_as):
    table = "<table><tbody><tr><td>At seven</td></tr></tbody></table>"

    def save(page: Page) -> None:
        page.locator('[data-component="quay-cinema-text"]').click()
        page.get_by_role("button", name="Markup").click()
        page.get_by_role("textbox", name="Text").fill(
            f"<p>The cinema opens.</p>{table}<iframe src='https://x.example'></iframe>"
        )
        page.get_by_role("button", name="Save", exact=True).click()

    page = open_as(TOMASZ, "/desk/quay-cinema")
    save(page)
    expect(page.get_by_text("Saved without iframe, src")).to_be_visible()
    expect(page.get_by_role("textbox", name="Text")).to_have_value(re.compile("<table>"))
    page.reload()
    expect(page.locator('[data-component="quay-cinema-text"] table')).to_contain_text("At seven")
    page.locator('[data-component="quay-cinema-text"]').click()
    page.get_by_role("textbox", name="Text").fill("<p>The cinema opens.</p>")
    page.get_by_role("button", name="Edit in its form").click()
    expect(page.get_by_role("toolbar", name="Form of Text")).to_be_visible()


def test_how_a_page_is_listed_is_apart_from_the_page(open_as):
    page = open_as(ODILE, "/desk/p3-sail-loft")
    listing = page.get_by_role("region", name="Search listing")
    listing.get_by_label("Title in listings").fill("Sails mended on Pier 3")
    listing.get_by_role("button", name="Save listing").click()
    expect(listing.get_by_role("button", name="Save listing")).to_have_count(0)
    visitor = open_as(None, "/site/harbour/moorings/berth-directory/pier-3/pier-3-sail-loft")
    expect(visitor).to_have_title("Sails mended on Pier 3")
    tenant = open_as(INES, "/desk/p3-sail-loft")
    expect(tenant.get_by_label("Title", exact=True)).to_be_editable()
    expect(tenant.get_by_role("region", name="Search listing")).to_contain_text("closed")


def test_a_listing_too_long_is_told_at_its_field_and_kept(open_as):
    page = open_as(ODILE, "/desk/home-harbour")
    site = page.get_by_role("region", name="Listing of the whole site")
    site.get_by_label("After each page’s title").fill("x" * 130)
    site.get_by_role("button", name="Save listing").click()
    expect(site.get_by_role("alert")).to_contain_text("120")
    expect(site.get_by_label("After each page’s title")).to_have_value("x" * 130)


def test_a_change_of_the_baseline_tells_whom_it_touches_before_it_is_staged(open_as):
    page = open_as(ODILE, "/define/everyone?cell=event.see")
    cell(page, "event.see").click()
    page.keyboard.press("Backspace")
    bar = page.get_by_role("status").filter(has_text="The baseline")
    expect(bar).to_contain_text(re.compile(r"\d+ accounts and visitors may no longer see pages, up to \d+ each"))
    expect(tray(page)).to_have_count(0)
    bar.get_by_role("button", name="Leave as it is").click()
    assert hang(page, "event.see") == "all"
    page.keyboard.press("Backspace")
    page.get_by_role("button", name="Stage 1 change").click()
    expect(tray(page)).to_contain_text("1 change staged")


def test_a_board_shows_only_what_counts_otherwise_in_another_role(open_as):
    page = open_as(ODILE, "/define/cafe-tenant")
    page.get_by_role("button", name="Differs…").click()
    page.get_by_role("menuitem", name="Tenant editor").click()
    expect(page.get_by_role("button", name=re.compile("Differs from Tenant editor"))).to_have_attribute(
        "aria-pressed", "true"
    )
    expect(page.get_by_role("rowheader", name="Event")).to_be_visible()
    expect(page.get_by_role("rowheader", name="Home page")).to_have_count(0)
    page.reload()
    expect(page.get_by_role("rowheader", name="Home page")).to_have_count(0)
