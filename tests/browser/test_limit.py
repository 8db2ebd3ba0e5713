"""Limits in the tree, a lift beneath, and a field for two roles only."""

from playwright.sync_api import Page, expect

from tests.browser.conftest import ODILE
from tests.browser.picking import pick
from tests.browser.test_assign import apply


def mark(page: Page, node: str, action: int):
    return page.locator(f'[data-node="{node}"] [role=gridcell]').nth(action).locator("svg")


EDIT = 2


def choose(page: Page, name: str) -> None:
    page.get_by_role("row", name=name).get_by_text(name).click()


def test_a_stop_beneath_and_a_lift_on_one_page(open_as):
    page = open_as(ODILE, "/limit?role=duty-editor&node=winter-rates")
    panel = page.get_by_role("complementary", name="Limits here")
    expect(mark(page, "winter-rates", EDIT)).to_have_attribute("data-extent", "all")

    choose(page, "Fees and dues")
    panel.get_by_role("button", name="Add a limit").click()
    page.get_by_role("dialog").get_by_role("button", name="Stage it").click()
    expect(mark(page, "winter-rates", EDIT)).to_have_attribute("data-extent", "nothing")
    expect(mark(page, "winter-rates", EDIT)).to_have_attribute("data-stopped", "true")
    expect(panel).to_contain_text("Stop edit for Duty editor")

    choose(page, "Hardship fund")
    panel.get_by_role("button", name="Add a limit").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Lift").check()
    dialog.get_by_label("How far").select_option("Here only")
    dialog.get_by_role("button", name="Stage it").click()
    expect(mark(page, "hardship-fund", EDIT)).to_have_attribute("data-extent", "all")
    expect(panel).to_contain_text("Coming from above")
    apply(page)

    choose(page, "Fees and dues")
    expect(panel).to_contain_text("here and beneath, by Odile Varga")
    expect(panel.get_by_role("button", name="Hardship fund")).to_be_visible()
    expect(page.get_by_role("row", name="Fees and dues")).to_contain_text("1 limit")
    expect(page.get_by_role("row", name="Hardship fund")).to_contain_text("lifted")


def test_the_tree_answers_for_an_account_too_and_is_walked_by_keyboard(open_as):
    page = open_as(ODILE, "/limit?role=duty-editor")
    pick(page, "Duty editor", "ines marrow", "Ines Marrow")
    expect(mark(page, "harbour-office", 0)).to_have_attribute("data-extent", "barred")
    page.locator('[data-node="home-harbour"]').focus()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("ArrowDown")
    page.keyboard.press("ArrowRight")
    expect(page.get_by_role("row", name="Berth directory")).to_be_visible()
    expect(page).to_have_url("/limit?account=ines&node=moorings")


def test_a_limit_is_dropped_and_all_are_in_one_list(open_as):
    page = open_as(ODILE, "/limit?role=duty-editor&node=museum")
    page.get_by_role("button", name="Drop").click()
    expect(page.get_by_text("staged to end")).to_be_visible()
    apply(page)
    page.get_by_role("tab", name="All limits").click()
    expect(page.get_by_role("tabpanel").get_by_role("row")).to_have_count(10)
    page.get_by_role("button", name="Minutes").click()
    expect(page.get_by_role("complementary", name="Limits here")).to_contain_text("Minutes")


def test_annual_dues_for_two_roles_only(open_as):
    page = open_as(ODILE, "/limit?tab=fields&type=berth")
    page.get_by_role("button", name="Change who has Annual dues").click()
    dialog = page.get_by_role("dialog", name="Berth page: Annual dues")
    dialog.get_by_label("Tenant editor: see").select_option("no")
    dialog.get_by_role("button", name="Stage it").click()
    row = page.get_by_role("row", name="Annual dues")
    expect(row).to_contain_text("Duty editor")
    expect(row).to_contain_text("Harbour lead")
    expect(row).not_to_contain_text("Tenant editor")
    apply(page)
    expect(row).not_to_contain_text("Tenant editor")
