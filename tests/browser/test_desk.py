"""The desk for real, the public site behind it, and the ledger that tells of both."""

import re

from playwright.sync_api import expect

from tests.browser.conftest import INES, ODILE, sign_in_by_form

LOFT = "/desk/p3-sail-loft"
ON_THE_SITE = "/site/harbour/moorings/berth-directory/pier-3/pier-3-sail-loft"


def test_a_tenant_edits_her_page_and_visitors_read_it(open_as):
    page = open_as(INES, LOFT)
    page.locator('[data-component="p3-sail-loft-heading"]').click()
    page.get_by_label("Text", exact=True).fill("Sails mended by Friday")
    page.get_by_label("Telephone").fill("0550 014 999")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("button", name="Save")).to_be_disabled()
    expect(page.get_by_role("button", name="Revert")).to_have_count(0)

    visitor = open_as(None, ON_THE_SITE)
    expect(visitor.get_by_role("heading", name="Sails mended by Friday")).to_be_visible()
    expect(visitor.get_by_text("0550 014 999")).to_be_visible()
    expect(visitor.get_by_text("Annual dues")).to_have_count(0)


def test_her_desk_offers_only_what_she_may(open_as):
    page = open_as(INES, LOFT)
    expect(page.get_by_role("navigation", name="Places")).to_have_text("Desk")
    expect(page.get_by_role("button", name="Retire")).to_be_visible()
    expect(page.get_by_role("button", name="Publish")).to_have_count(0)
    expect(page.get_by_label("Annual dues")).to_be_disabled()
    page.locator('[data-component="p3-sail-loft-heading"]').click()
    expect(page.locator('[data-closed="Layout"]')).to_contain_text("closed")
    page.locator('[data-component="p3-sail-loft-banner"]').click()
    expect(page.locator('[data-closed="Wording"]')).to_contain_text("locked")
    page.get_by_role("button", name="Add a part", exact=True).click()
    expect(page.get_by_role("menuitem")).to_have_text(["Heading", "Text", "Picture", "Button"])
    page.goto("/define")
    expect(page).to_have_url("/desk")


def test_prose_is_edited_with_its_form(open_as):
    page = open_as(INES, LOFT)
    page.locator('[data-component="p3-sail-loft-text"]').click()
    prose = page.get_by_role("textbox", name="Text")
    prose.click()
    page.keyboard.press("Control+End")
    page.keyboard.type(" Knock twice.")
    page.keyboard.press("Control+a")
    page.get_by_role("button", name="Bold").click()
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("button", name="Revert")).to_have_count(0)
    visitor = open_as(None, ON_THE_SITE)
    expect(visitor.locator("main strong").first).to_contain_text("Bring your main in")
    expect(visitor.get_by_text("Knock twice.")).to_be_visible()


def test_bad_input_is_named_beside_its_field_and_stays_typed(open_as):
    page = open_as(ODILE, LOFT)
    page.get_by_label("Annual dues").fill("a lot")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_text("Annual dues is a number, such as 1250.").first).to_be_visible()
    expect(page.get_by_label("Annual dues")).to_have_value("a lot")


def test_two_people_on_one_page_lose_nothing(open_as):
    hers, his = open_as(INES, LOFT), open_as("tomasz@skerrow.example", LOFT)
    hers.get_by_label("Telephone").fill("1111")
    his.get_by_label("Telephone").fill("2222")
    his.get_by_role("button", name="Save").click()
    expect(his.get_by_role("button", name="Revert")).to_have_count(0)
    hers.get_by_role("button", name="Save").click()
    both = hers.get_by_role("dialog")
    expect(both).to_contain_text("Tomasz Okafor saved this page while you were editing it")
    expect(both.get_by_role("row", name="Telephone")).to_contain_text("2222")
    expect(both.get_by_role("row", name="Telephone")).to_contain_text("1111")
    both.get_by_role("button", name="Save yours over it").click()
    expect(both).to_have_count(0)
    expect(hers.get_by_label("Telephone")).to_have_value("1111")
    his.reload()
    expect(his.get_by_label("Telephone")).to_have_value("1111")


def test_a_dropped_connection_loses_nothing(open_as):
    page = open_as(INES, LOFT)
    page.get_by_label("Telephone").fill("3333")
    page.context.set_offline(True)
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("alert")).to_contain_text("No connection")
    expect(page.get_by_label("Telephone")).to_have_value("3333")
    page.context.set_offline(False)
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("button", name="Revert")).to_have_count(0)


def test_leaving_with_something_unsaved_is_asked_first(open_as):
    page = open_as(INES, LOFT)
    page.get_by_label("Telephone").fill("5555")
    page.locator('[role=treeitem][data-node="moorings"]').click()
    asked = page.get_by_role("dialog", name="Leave Pier 3, Sail loft without saving?")
    asked.get_by_role("button", name="Stay here").click()
    expect(page.get_by_label("Telephone")).to_have_value("5555")
    page.locator('[role=treeitem][data-node="moorings"]').click()
    asked.get_by_role("button", name="Leave it").click()
    expect(page).to_have_url("/desk/moorings")


def test_whoever_is_signed_out_meanwhile_signs_in_and_goes_on(open_as):
    page = open_as(INES, LOFT)
    page.get_by_label("Telephone").wait_for()
    page.wait_for_load_state("networkidle")
    page.context.clear_cookies()
    page.locator('[role=treeitem][data-node="moorings"]').click()
    expect(page).to_have_url("/sign-in?to=%2Fdesk%2Fmoorings")
    sign_in_by_form(page, INES)
    expect(page).to_have_url("/desk/moorings")


def test_a_draft_is_handed_in_and_published(open_as):
    intern = open_as("ciaran@skerrow.example", "/desk/quay-cinema")
    intern.get_by_role("button", name="Hand in for review").click()
    intern.get_by_role("button", name="Hand it in").click()
    expect(intern.get_by_text("In review", exact=True)).to_be_visible()
    editor = open_as("tomasz@skerrow.example", "/desk/quay-cinema")
    editor.get_by_role("button", name="Publish").click()
    expect(editor.get_by_text("Published", exact=True)).to_be_visible()


def test_the_ledger_tells_who_did_what_and_what_was_and_is(open_as):
    tenant = open_as(INES, LOFT)
    tenant.get_by_label("Telephone").fill("4444")
    tenant.get_by_role("button", name="Save").click()
    expect(tenant.get_by_role("button", name="Revert")).to_have_count(0)
    page = open_as(ODILE, "/ledger")
    entry = page.get_by_role("listitem").filter(has_text="Saved Pier 3, Sail loft")
    expect(entry).to_contain_text("Ines Marrow")
    entry.get_by_role("button", name="What changed").click()
    expect(entry.get_by_role("row", name="Telephone")).to_have_text("Telephone0550 014 3204444")
    page.get_by_role("button", name="Standing in").click()
    expect(page.get_by_text("No such entry")).to_be_visible()


def test_what_is_held_under_a_page_is_approved(open_as):
    page = open_as("halla@skerrow.example", "/desk/n-pier-3-dredging")
    post = page.get_by_role("region", name="Discussion").get_by_role("listitem").filter(has_text="has no light")
    post.get_by_role("button", name="Approve").click()
    expect(post).to_have_attribute("data-state", "approved")


def test_the_tree_is_walked_by_keyboard(open_as):
    page = open_as(INES, "/desk")
    expect(page.locator('[role=treeitem][data-node="sponsors"]')).to_be_visible()
    page.locator('[role=treeitem][data-node="home-harbour"]').focus()
    page.keyboard.press("End")
    page.keyboard.press("Home")
    page.keyboard.press("ArrowDown")
    page.keyboard.press("ArrowRight")
    expect(page.locator('[role=treeitem][data-node="n-outer-perch"]')).to_be_visible()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Enter")
    expect(page).to_have_url("/desk/n-outer-perch")
    page.keyboard.press("ArrowLeft")
    page.keyboard.press("ArrowLeft")
    expect(page.locator('[role=treeitem][data-node="notices"]')).to_have_attribute("aria-expanded", "false")


def test_an_earlier_version_is_looked_at_and_brought_back(open_as):
    page = open_as(INES, "/desk/p3-sail-loft")
    title = page.get_by_label("Title", exact=True)
    title.fill("Pier 3, Sails and awnings")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("button", name="Save")).to_be_disabled()
    page.get_by_role("button", name="History").click()
    dialog = page.get_by_role("dialog", name="History of Pier 3, Sails and awnings")
    changed = dialog.get_by_role("region", name="What changed")
    expect(changed.locator("del")).to_contain_text("Sail loft")
    expect(changed.locator("ins")).to_contain_text("Sails and awnings")
    beside = changed.get_by_role("table")
    expect(beside.get_by_role("columnheader")).to_have_text([re.compile("^1, "), "2, as it is"])
    dialog.get_by_role("button", name="In one").click()
    expect(beside).to_have_count(0)
    expect(changed.locator("p", has=page.locator("del"))).to_have_text("Pier 3, Sail loftSails and awnings")
    dialog.get_by_role("list", name="Versions").get_by_role("button").last.click()
    expect(changed.get_by_text("This is where the page begins.")).to_be_visible()
    changed.get_by_label("Compared with").select_option(label="2, as it is")
    expect(changed.locator("ins")).to_contain_text("Sails and awnings")
    dialog.get_by_role("button", name="Bring this back").click()
    expect(dialog).to_have_count(0)
    expect(title).to_have_value("Pier 3, Sail loft")


def test_what_was_handed_in_is_returned_with_a_note(open_as):
    writer = open_as("ciaran@skerrow.example", "/desk/quay-cinema")
    writer.get_by_role("button", name="Hand in for review").click()
    writer.get_by_role("button", name="Hand it in").click()
    expect(writer.get_by_role("button", name="Take back")).to_be_visible()
    editor = open_as(ODILE, "/desk/quay-cinema")
    editor.get_by_role("button", name="Return", exact=False).click()
    dialog = editor.get_by_role("dialog", name="Return")
    dialog.get_by_role("button", name="Return it").click()
    expect(dialog.get_by_role("alert")).to_have_text("Say what is to be changed.")
    dialog.get_by_label("What is to be changed").fill("Say when it begins.")
    dialog.get_by_role("button", name="Return it").click()
    expect(editor.get_by_text("Returned: Say when it begins.")).to_be_visible()
    writer.reload()
    expect(writer.get_by_text("Returned: Say when it begins.")).to_be_visible()
    expect(writer.get_by_role("button", name="Hand in for review")).to_be_visible()


def test_what_was_typed_survives_a_closed_tab_and_not_signing_out(open_as):
    page = open_as(INES, LOFT)
    page.get_by_label("Telephone").fill("0550 014 777")
    expect(page.get_by_role("button", name="Revert")).to_be_visible()
    page.close()
    again = page.context.new_page()
    again.goto(LOFT)
    expect(again.get_by_text("What you typed here before is back")).to_be_visible()
    expect(again.get_by_label("Telephone")).to_have_value("0550 014 777")
    again.get_by_role("button", name="Revert").click()
    again.reload()
    expect(again.get_by_label("Telephone")).not_to_have_value("0550 014 777")
    again.get_by_label("Telephone").fill("0550 014 778")
    again.get_by_role("button", name="Ines Marrow").click()
    again.get_by_role("menuitem", name="Sign out").click()
    again.get_by_role("dialog").get_by_role("button", name="Sign out").click()
    expect(again.get_by_label("E-mail address")).to_be_visible()
    assert again.evaluate("Object.keys(localStorage).length") == 0
