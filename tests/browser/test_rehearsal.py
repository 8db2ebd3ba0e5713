"""Rehearsing on screen: do it, see it, take it back, and nothing of it is there once one steps out."""

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import ODILE
from tests.browser.picking import pick


def begin(open_as, name: str = "Ines Marrow") -> Page:
    page = open_as(ODILE, "/verify")
    page.get_by_label("An account, a role, a group").fill(name)
    page.get_by_role("button", name=f"Stand in for {name} otherwise").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_role("button", name="Rehearse", exact=True).click()
    dialog.get_by_role("button", name="Stand in", exact=True).click()
    expect(page.get_by_role("region", name="Standing in")).to_contain_text(f"Rehearsing as {name}")
    return page


def done(page: Page):
    return page.get_by_role("region", name="What was done here")


def test_what_is_done_is_seen_and_taken_back_and_leaves_nothing(open_as):
    page = begin(open_as)
    strip = page.get_by_role("region", name="Standing in")
    page.goto("/desk/p3-sail-loft")
    page.get_by_label("Telephone").fill("0550 999 999")
    page.get_by_role("button", name="Save").click()
    expect(done(page)).to_contain_text("Saved Pier 3, Sail loft")
    expect(strip).to_contain_text("1 step done, nothing is kept")
    page.reload()
    expect(page.get_by_label("Telephone")).to_have_value("0550 999 999")
    page.get_by_role("button", name="Retire").click()
    expect(strip).to_contain_text("2 steps done")
    done(page).get_by_role("button", name="Take back: Saved Pier 3, Sail loft").click()
    expect(strip).to_contain_text("1 step done")
    expect(page.get_by_label("Telephone")).to_have_value("0550 014 320")
    expect(page.get_by_text("Retired", exact=True)).to_be_visible()
    strip.get_by_role("button", name="Step out").click()
    expect(page).to_have_url(re.compile("/verify"))
    page.goto("/desk/p3-sail-loft")
    expect(page.get_by_text("Published", exact=True)).to_be_visible()


def test_the_mode_is_switched_on_the_strip_and_losing_what_was_done_is_asked_about(open_as):
    page = begin(open_as)
    page.goto("/desk/p3-sail-loft")
    page.get_by_label("Telephone").fill("0550 999 999")
    page.get_by_role("button", name="Save").click()
    expect(done(page)).to_be_visible()
    page.get_by_role("radio", name="Look only").click()
    dialog = page.get_by_role("dialog", name="Look only, and lose what was done?")
    dialog.get_by_role("button", name="Go on rehearsing").click()
    expect(done(page)).to_be_visible()
    page.get_by_role("radio", name="Look only").click()
    dialog.get_by_role("button", name="Look only").click()
    expect(done(page)).to_have_count(0)
    expect(page.get_by_label("Telephone")).to_have_value("0550 014 320")
    expect(page.get_by_role("button", name="Save")).to_be_disabled()


def test_somebody_made_up_holds_several_roles_each_where_one_says(open_as):
    page = open_as(ODILE, "/verify")
    page.get_by_role("button", name="Several roles together").click()
    dialog = page.get_by_role("dialog")
    for name in ("Tenant editor", "Regatta crew"):
        dialog.get_by_role("button", name="+ role").click()
        page.get_by_role("option", name=re.compile(name)).first.click()
    dialog.get_by_role("button", name="Where Regatta crew is held: everywhere").click()
    where = page.get_by_role("dialog", name="Where it holds")
    where.get_by_role("button", name="+ sites").click()
    page.get_by_role("option", name="Skerrow Regatta").click()
    where.get_by_role("button", name="Done").click()
    dialog.get_by_role("button", name="Everything").click()
    dialog.get_by_role("button", name="Stand in", exact=True).click()
    strip = page.get_by_role("region", name="Standing in")
    expect(strip).to_contain_text("Standing in for Tenant editor + Regatta crew, author of everything")
    page.goto("/desk/p3-sail-loft")
    expect(page.get_by_role("button", name="Retire")).to_be_visible()


def test_a_visitor_reads_the_public_site_and_one_steps_out_there(open_as):
    page = open_as(ODILE, "/verify")
    page.get_by_role("button", name="Stand in for A visitor", exact=True).click()
    strip = page.get_by_role("complementary", name="Standing in")
    expect(strip).to_contain_text("Standing in for a visitor")
    expect(page.get_by_role("link", name="Harbour office")).to_have_count(0)
    strip.get_by_role("link", name="X-ray").click()
    expect(page.get_by_role("region", name="X-ray")).to_contain_text("Harbour office")
    strip.get_by_role("button", name="Step out").click()
    expect(page).to_have_url(re.compile("/verify"))


def test_one_stands_in_from_a_name_and_by_ctrl_k(open_as):
    page = open_as(ODILE, "/define/tenant-editor")
    page.get_by_role("button", name="More of Tenant editor").click()
    page.get_by_role("menuitem", name="Stand in", exact=True).click()
    strip = page.get_by_role("region", name="Standing in")
    expect(strip).to_contain_text("Standing in for Tenant editor, author of nothing")
    strip.get_by_role("button", name="Step out").click()
    expect(page).to_have_url(re.compile("/define/tenant-editor"))
    expect(page.get_by_role("heading", name="Tenant editor")).to_be_visible()
    page.keyboard.press("Control+k")
    page.keyboard.type("stand in for aiko")
    expect(page.get_by_role("option", name="Stand in for Aiko Lindqvist")).to_be_visible()
    page.keyboard.press("Enter")
    expect(strip).to_contain_text("Standing in for Aiko Lindqvist")


def test_what_is_staged_is_rehearsed_as_oneself(open_as):
    page = open_as(ODILE, "/define/tenant-editor?cell=berth.retire")
    page.get_by_role("radio", name="None").click()
    page.get_by_role("region", name="Staged changes").get_by_role("button", name="Stand in with these").click()
    pick(page, "As whom", "Yourself")
    page.get_by_role("dialog").get_by_role("button", name="Rehearse", exact=True).click()
    strip = page.get_by_role("region", name="Standing in")
    expect(strip).to_contain_text("Rehearsing as yourself")
    expect(page.get_by_role("radio", name="None")).to_be_checked()
    strip.get_by_role("button", name="Step out").click()
    expect(page.get_by_role("region", name="Staged changes")).to_contain_text("1 change staged")


def test_two_are_laid_beside_each_other(open_as):
    page = open_as(ODILE, "/side-by-side?node=p3-sail-loft&show=parts")
    for name in ("Tomasz Okafor", "Ines Marrow"):
        page.get_by_role("button", name="Add somebody").click()
        pick(page, "Name", name)
        page.get_by_role("dialog").get_by_role("button", name="Add", exact=True).click()
    publish = page.locator("[data-row=publish]")
    expect(publish).to_have_attribute("data-differs", "true")
    expect(publish).to_contain_text("may not: not given")
    page.get_by_role("button", name="Only differences").click()
    expect(page.locator("[data-row=see]")).to_have_count(0)
    page.get_by_role("button", name="The tree").click()
    expect(page.locator("[data-node]").first).to_be_visible()
    page.get_by_role("button", name="The board").click()
    expect(page.locator('[data-row="berth.publish"]')).to_be_visible()
    page.get_by_role("button", name="Stand in for Ines Marrow").click()
    expect(page.get_by_role("region", name="Standing in")).to_contain_text("Standing in for Ines Marrow")
