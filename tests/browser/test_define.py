"""Signing in, and defining a role on the board by mouse and by keyboard."""

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import ODILE, sign_in_by_form


def cell(page: Page, capability: str):
    return page.locator(f'[data-capability="{capability}"]')


def hang(page: Page, capability: str) -> str | None:
    return cell(page, capability).locator("svg").get_attribute("data-extent")


def tray(page: Page):
    return page.get_by_role("region", name="Staged changes")


def test_signing_in_with_a_wrong_password_says_so_and_keeps_the_address(open_as):
    page = open_as()
    page.get_by_label("E-mail address").fill(ODILE)
    page.get_by_label("Password").fill("not this one")
    page.get_by_role("button", name="Sign in").click()
    expect(page.get_by_role("alert")).to_have_text("This address and password do not belong together.")
    expect(page.get_by_label("E-mail address")).to_have_value(ODILE)


def test_a_link_leads_on_after_signing_in(open_as):
    page = open_as(None, "/define/pilot?cell=notice.edit")
    sign_in_by_form(page, ODILE)
    expect(page.get_by_role("heading", name="Pilot")).to_be_visible()
    expect(page.get_by_test_id("sentence")).to_have_text("Holders of Pilot may edit all notices to mariners.")


def test_a_role_is_made_from_its_name_and_filled_by_keyboard(open_as):
    page = open_as(ODILE, "/define")
    page.get_by_role("button", name="New role").click()
    page.get_by_label("Name", exact=True).fill("Gallery tenant")
    page.get_by_role("button", name="Make role").click()
    expect(page.get_by_role("heading", name="Gallery tenant")).to_be_visible()
    expect(page.get_by_text("gallery-tenant")).to_be_visible()
    expect(page.get_by_role("link", name="Gallery tenant 0 holders")).to_be_visible()
    expect(
        page.locator('[role=gridcell] svg[data-extent]:not([data-inherited]):not([data-extent="nothing"])')
    ).to_have_count(0)

    cell(page, "berth.see-draft").click()
    page.keyboard.press("o")
    page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Shift+ArrowRight")
    page.keyboard.press("t")
    page.keyboard.press("ArrowDown")
    page.keyboard.press("a")
    page.keyboard.press("b")
    page.keyboard.press("Backspace")
    cell(page, "desk.open").click()
    page.keyboard.press("y")
    expect(tray(page)).to_contain_text("4 changes staged")
    assert hang(page, "berth.see-draft") == "own"
    assert hang(page, "berth.edit") == hang(page, "berth.edit-live") == "team"
    assert hang(page, "event.edit-live") == "nothing"
    assert hang(page, "desk.open") == "all"
    expect(cell(page, "berth.edit").locator("svg")).to_have_attribute("data-staged", "true")

    page.get_by_role("button", name="Review and apply").click()
    review = page.get_by_role("dialog", name="Review and apply")
    expect(review).to_contain_text("Gallery tenant: edit berth pages")
    review.get_by_role("button", name="Apply 4 changes").click()
    expect(review).to_have_count(0)
    expect(tray(page)).to_have_count(0)
    page.reload()
    assert hang(page, "berth.edit") == "team"
    expect(cell(page, "berth.edit").locator("svg[data-staged]")).to_have_count(0)


def test_saying_it_by_mouse_undoing_and_discarding(open_as):
    page = open_as(ODILE, "/define/tenant-editor?cell=event.edit")
    page.get_by_role("radio", name="Team").click()
    expect(page.get_by_test_id("sentence")).to_have_text(
        "Holders of Tenant editor may edit events written by anyone in their team."
    )
    expect(tray(page)).to_contain_text("1 change staged")
    expect(tray(page)).to_contain_text("nobody loses")
    page.get_by_role("radio", name="Barred").click()
    expect(page.get_by_test_id("sentence")).to_contain_text("never")
    page.keyboard.press("Control+z")
    expect(tray(page)).to_have_count(0)
    expect(cell(page, "event.edit").locator("svg")).to_have_attribute("data-extent", "own")
    page.get_by_role("radio", name="All").click()
    tray(page).get_by_role("button", name="Discard").click()
    expect(tray(page)).to_have_count(0)
    expect(cell(page, "event.edit").locator("svg")).to_have_attribute("data-extent", "own")


def test_a_role_far_down_the_list_is_scrolled_into_sight_and_tab_begins_at_the_top(open_as):
    page = open_as(ODILE, "/define/site-steward")
    page.set_viewport_size({"width": 1280, "height": 500})
    page.reload()
    line = page.get_by_role("navigation", name="Roles").get_by_role("link", name="Site steward")
    expect(line).to_be_in_viewport(ratio=1)
    page.keyboard.press("Tab")
    expect(page.get_by_role("link", name="Define")).to_be_focused()
    page.get_by_role("link", name="Everyone baseline").click()
    expect(page.get_by_role("heading", name="Everyone")).to_be_visible()
    expect(page.get_by_role("link", name="Everyone baseline")).to_be_in_viewport(ratio=1)


def test_what_one_staged_cell_would_do_by_itself_is_told_beside_it(open_as):
    page = open_as(ODILE, "/define/tenant-editor?cell=event.edit")
    cell(page, "event.edit").click()
    page.keyboard.press("t")
    staged = page.get_by_role("complementary", name="The chosen answer")
    expect(staged).to_contain_text("own → team")
    expect(staged.get_by_text("By itself")).to_have_count(0)
    cell(page, "event.remove").click()
    page.keyboard.press("Backspace")
    expect(staged).to_contain_text(re.compile(r"By itself: \d accounts? may no longer remove pages"))
    cell(page, "event.edit").click()
    expect(staged).to_contain_text("By itself: 11 accounts may now edit pages, one each; 10 fields and components.")


def test_inherited_answers_are_faded_and_tell_their_source(open_as):
    page = open_as(ODILE, "/define/duty-editor?cell=notice.create")
    expect(cell(page, "notice.create").locator("svg")).to_have_attribute("data-inherited", "true")
    expect(page.get_by_text("this comes from Notice writer")).to_be_visible()
    page.goto("/define/duty-editor?cell=event.see")
    expect(page.get_by_text("Everyone has it, so every holder has it too.")).to_be_visible()
    page.get_by_role("link", name="the baseline").click()
    expect(page.get_by_role("heading", name="Everyone")).to_be_visible()
    expect(page.get_by_test_id("sentence")).to_have_text("Everyone, visitors too, may see all events.")


def test_the_board_is_filtered_by_words_and_by_state(open_as):
    page = open_as(ODILE, "/define/tenant-editor")
    expect(page.get_by_role("row", name="Berth page")).to_be_visible()
    page.keyboard.press("/")
    page.keyboard.type("race")
    expect(page.get_by_role("rowheader")).to_have_text(["Content", "Race result"])
    page.get_by_label("Filter capabilities by words").fill("")
    page.get_by_role("button", name="Barred 1").click()
    expect(page.get_by_role("rowheader")).to_have_text(["Content", "Notice to mariners"])
    page.go_back()
    page.goto("/define/tenant-editor?show=barred&words=ship")
    expect(page.get_by_text("No capability of this role is like that.")).to_be_visible()


def test_the_board_answers_a_key_at_once(open_as):
    """The mark is drawn before the server has said anything: its answer is held back here."""
    page = open_as(ODILE, "/define/tenant-editor?cell=event.move")
    cell(page, "event.move").click()
    held = []
    page.route("**/api/change-set/operations", lambda route: held.append(route))
    page.keyboard.press("t")
    expect(cell(page, "event.move").locator("svg")).to_have_attribute("data-extent", "team")
    assert len(held) <= 1
    for route in held:
        route.continue_()
    page.unroute("**/api/change-set/operations")
    expect(tray(page)).to_contain_text("1 change staged")
