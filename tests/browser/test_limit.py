"""Limits in the tree, a lift beneath, and a field for two roles only."""

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import ODILE
from tests.browser.picking import pick
from tests.browser.test_assign import apply


def mark(page: Page, node: str, action: int):
    return page.locator(f'[data-node="{node}"] [role=gridcell]').nth(action).locator("svg")


EDIT = 2


def choose(page: Page, name: str) -> None:
    page.get_by_role("row", name=name).get_by_text(name).click()


def cell(page: Page, node: str, action: int):
    return page.locator(f'[data-node="{node}"] [data-column="{action}"]')


def test_a_stop_beneath_and_a_lift_on_one_page(open_as):
    page = open_as(ODILE, "/limit?role=duty-editor&node=winter-rates")
    panel = page.get_by_role("complementary", name="Limits here")
    setting = panel.get_by_role("region", name="Set a limit")
    expect(mark(page, "winter-rates", EDIT)).to_have_attribute("data-extent", "all")

    cell(page, "fees", EDIT).click()
    expect(setting).to_contain_text("Edit at Fees and dues")
    setting.get_by_role("button", name="Stop").hover()
    expect(setting).to_contain_text("would lose something")
    setting.get_by_role("button", name="Stop").click()
    expect(mark(page, "winter-rates", EDIT)).to_have_attribute("data-extent", "nothing")
    expect(mark(page, "winter-rates", EDIT)).to_have_attribute("data-stopped", "true")
    expect(mark(page, "fees", EDIT)).to_have_attribute("data-set", "stop")
    expect(panel).to_contain_text("Stop edit for Duty editor")

    cell(page, "hardship-fund", EDIT).click()
    setting.get_by_role("button", name="Here only").click()
    setting.get_by_role("button", name="Lift").click()
    expect(mark(page, "hardship-fund", EDIT)).to_have_attribute("data-extent", "all")
    expect(panel).to_contain_text("Coming from above")
    apply(page)

    choose(page, "Fees and dues")
    expect(panel).to_contain_text("here and beneath, by Odile Varga")
    expect(panel.get_by_role("button", name="Hardship fund")).to_be_visible()
    expect(page.get_by_role("row", name="Fees and dues")).to_contain_text("1 limit")
    expect(page.get_by_role("row", name="Hardship fund")).to_contain_text("lifted")


def test_cells_are_chosen_and_set_by_keys_alone(open_as):
    page = open_as(ODILE, "/limit?role=duty-editor&node=fees")
    setting = page.get_by_role("region", name="Set a limit")
    expect(setting).to_contain_text("Everything at Fees and dues")
    page.locator('[data-node="fees"]').focus()
    page.keyboard.press("ArrowRight")
    expect(page.locator('[data-node="winter-rates"]')).to_be_visible()
    for _ in range(3):
        page.keyboard.press("ArrowRight")
    expect(setting).to_contain_text("Edit at Fees and dues")
    page.keyboard.press("Shift+ArrowRight")
    expect(setting).to_contain_text("Edit, Publish at Fees and dues")
    page.keyboard.press("s")
    for action in (EDIT, EDIT + 1):
        expect(mark(page, "fees", action)).to_have_attribute("data-set", "stop")
    page.keyboard.press("Shift+ArrowDown")
    expect(setting).to_contain_text("Edit, Publish at each of Fees and dues, ")
    page.keyboard.press("ArrowUp")
    expect(setting).to_contain_text("Publish at Fees and dues")
    page.keyboard.press("Backspace")
    expect(mark(page, "fees", EDIT + 1)).not_to_have_attribute("data-set", "stop")
    expect(mark(page, "fees", EDIT)).to_have_attribute("data-set", "stop")
    page.keyboard.press("ArrowLeft")
    page.keyboard.press("b")
    expect(mark(page, "fees", EDIT)).to_have_attribute("data-extent", "barred")


def test_somebody_with_two_roles_and_a_visitor(open_as):
    page = open_as(ODILE, "/limit?role=tenant-editor&node=fees")
    expect(mark(page, "fees", EDIT)).to_have_attribute("data-extent", "nothing")
    pick(page, "Add a role to them", "duty", "Duty editor")
    expect(page.get_by_role("heading", level=1, name="What may Tenant editor and Duty editor")).to_be_visible()
    expect(mark(page, "fees", EDIT)).to_have_attribute("data-extent", "all")
    expect(page.get_by_text("A limit is set for one role, group or account.")).to_be_visible()
    page.goto("/limit?visitor=true&node=fees")
    expect(mark(page, "fees", 0)).to_have_attribute("data-extent", "all")
    expect(mark(page, "fees", EDIT)).to_have_attribute("data-extent", "nothing")


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
    page.get_by_role("button", name="Annual dues").click()
    panel = page.get_by_role("complementary", name="Who has it")
    sees = panel.get_by_role("button", name="Tenant editor: see")
    expect(sees).to_have_accessible_name("Tenant editor: see: own")
    sees.press("Backspace")
    expect(sees).to_have_accessible_name("Tenant editor: see: nothing")
    row = page.get_by_role("row", name="Annual dues")
    expect(row).to_contain_text("Duty editor")
    expect(row).to_contain_text("Harbour lead")
    apply(page)
    expect(panel.get_by_role("list", name="Who can see it")).not_to_contain_text("Ines Marrow")


def test_several_fields_are_set_at_once(open_as):
    page = open_as(ODILE, "/limit?tab=fields&type=berth")
    for name in ("Berth number", "Telephone"):
        page.get_by_role("checkbox", name=f"Berth page: {name}").check()
    panel = page.get_by_role("complementary", name="Who has it")
    expect(panel.get_by_role("heading", name="2 fields")).to_be_visible()
    panel.get_by_role("button", name="Its author").click()
    for name in ("Berth number", "Telephone"):
        expect(page.get_by_role("row", name=name)).to_contain_text("The author alone")
    expect(page.get_by_role("region", name="Staged changes")).to_contain_text("2 changes staged")


def test_what_one_page_shows_to_whom_side_by_side(open_as):
    page = open_as(ODILE, "/limit?tab=fields&page=p3-sail-loft&who=visitor&who=role+duty-editor")
    page.get_by_role("button", name="What one page shows").click()
    dues = page.get_by_role("row", name="Annual dues")
    expect(dues.get_by_role("cell")).to_have_text(["not there", "sees"])
    page.get_by_role("button", name=re.compile("^A visitor ?, leave out")).click()
    expect(dues.get_by_role("cell")).to_have_count(1)


def test_limits_that_change_nothing_are_pointed_out_and_dropped_together(open_as):
    page = open_as(ODILE, "/limit?tab=all")
    table = page.get_by_role("tabpanel").get_by_role("table")
    expect(table).to_contain_text("account")
    page.get_by_label("Where, for whom, or who set it").fill("duty")
    expect(table.get_by_role("row").filter(has_text="Shipyard museum")).to_be_visible()
    page.get_by_role("checkbox", name="All of these").check()
    page.get_by_role("button", name=re.compile("^Drop [0-9]+ limit")).click()
    expect(table).to_contain_text("staged to end")


def test_all_locks_in_one_list(open_as):
    page = open_as(ODILE, "/limit?tab=locks")
    rows = page.get_by_role("tabpanel").get_by_role("row")
    page.get_by_label("What, why, or who locked it").fill("the same on every berth page")
    before = rows.count()
    assert before > 1
    rows.nth(1).get_by_role("button", name="Open the lock").click()
    expect(rows).to_have_count(before - 1)


def test_what_a_tenant_can_still_change(open_as):
    page = open_as(ODILE, "/limit?tab=leftovers&account=ines&on=pier-3-branch")
    expect(page.get_by_role("heading", level=1)).to_contain_text("still change?")
    row = page.get_by_role("row").filter(has=page.get_by_role("rowheader", name="Wording of a text"))
    expect(row).to_contain_text(re.compile("[0-9]+ of [0-9]+ pages"))
    page.goto("/limit?tab=leftovers&role=tenant-editor&on=p3-sail-loft")
    expect(page.get_by_text("Nothing is left")).to_be_visible()
    page.get_by_role("button", name="As the author").click()
    expect(row).to_be_visible()
