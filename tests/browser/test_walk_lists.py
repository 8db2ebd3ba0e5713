"""A role is walked: from how much of it is proved to the page in a rehearsal, alone and by somebody who was asked."""

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import ODILE
from tests.browser.picking import pick

ANOUK = "anouk@rigging.example"
PROVED = "How much of each role has been proved"


def coverage(page: Page):
    return page.get_by_role("region", name=PROVED)


def entry(page: Page, words: str):
    return page.locator("[data-item]").filter(has_text=words)


def test_a_list_is_made_walked_on_the_page_and_its_cloth_fills(open_as):
    page = open_as(ODILE, "/verify")
    coverage(page).get_by_role("button", name="All 12 roles").click()
    coverage(page).get_by_role("button", name="Pilot not walked yet").click()
    page.wait_for_url("**/walk/*")
    expect(page.get_by_role("heading", name="Walk list, Pilot")).to_be_visible()
    expect(page.get_by_text("0 of 15 proved")).to_be_visible()
    page.get_by_role("button", name="Rehearse as Pilot").click()
    page.wait_for_url("**/desk")
    page.get_by_role("treeitem", name="Notices to mariners").click()
    page.get_by_role("tab", name="Walk list").click()
    must_not = entry(page, "Must not create notices to mariners")
    must_not.get_by_role("button", name="Try it all the same").click()
    expect(must_not).to_have_attribute("data-state", "proved")
    expect(must_not).to_contain_text("refused as it should be")
    expect(page.get_by_role("region", name="What was done here")).to_contain_text("You may not make this here")
    page.get_by_role("button", name="Step out").click()
    page.wait_for_url("**/walk/*")
    expect(page.get_by_text(re.compile(r"[2-9] of 15 proved"))).to_be_visible()
    expect(page.locator("[data-share]").first).not_to_have_attribute("data-share", "0.00")
    page.get_by_role("button", name=re.compile("^Not tried yet")).click()
    expect(page.locator('[data-item][data-state="proved"]')).to_have_count(0)


def test_somebody_is_asked_and_tries_it_as_themselves(open_as):
    page = open_as(ODILE, "/walk/walk-season-intern")
    page.get_by_role("button", name="Ask somebody").click()
    dialog = page.get_by_role("dialog")
    pick(dialog, "Whom", "Aiko Lindqvist")
    dialog.get_by_label("A word to them").fill("Before the summer, please.")
    dialog.get_by_role("button", name="Ask them").click()
    expect(page.get_by_role("complementary", name="Who was asked to try it")).to_contain_text("Aiko Lindqvist")

    theirs = open_as("aiko@skerrow.example", "/desk")
    asked = theirs.get_by_role("region", name="Start").locator("section").filter(has_text="You were asked to try")
    expect(asked).to_contain_text("Before the summer, please.")
    asked.get_by_role("link", name="Season intern").click()
    theirs.get_by_role("button", name="Rehearse as yourself").click()
    expect(theirs.get_by_role("region", name="Standing in")).to_contain_text("Rehearsing as yourself")
    theirs.get_by_role("button", name="On with the rehearsal").click()
    theirs.get_by_role("treeitem", name="Events").click()
    theirs.get_by_role("tab", name="Walk list").click()
    expect(theirs.locator("[data-item]").first).to_be_visible()


def test_a_page_that_they_do_not_see_is_walked_too(open_as):
    page = open_as(ODILE, "/walk/walk-tenant-editor")
    page.get_by_role("button", name="Rehearse as Tenant editor").click()
    page.wait_for_url("**/desk")
    page.goto(page.url.removesuffix("/desk") + "/desk/harbour-office")
    panel = page.get_by_role("complementary", name="Walk list")
    expect(entry(panel, "Must not see anything in Harbour office")).to_have_attribute("data-state", "proved")


def test_a_list_behind_its_board_is_made_anew_and_one_is_taken_away(open_as):
    page = open_as(ODILE, "/define/tenant-editor")
    page.goto(page.url.split("/define")[0] + "/walk/walk-regatta-crew")
    page.get_by_role("button", name="Take the list away").click()
    page.get_by_role("dialog").get_by_role("button", name="Take it away").click()
    page.wait_for_url("**/verify")
    expect(coverage(page).get_by_role("button", name=re.compile("Regatta crew"))).to_have_count(0)
    coverage(page).get_by_role("button", name="All 12 roles").click()
    expect(coverage(page).get_by_role("button", name="Regatta crew not walked yet")).to_be_visible()
