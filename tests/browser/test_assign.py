"""The roster, and giving roles with scope and dates."""

from playwright.sync_api import Page, expect

from tests.browser.conftest import ODILE


def apply(page: Page) -> None:
    page.get_by_role("button", name="Review and apply").click()
    review = page.get_by_role("dialog", name="Review and apply")
    review.get_by_role("button", name="Apply").click()
    expect(review).to_have_count(0)
    expect(page.get_by_role("region", name="Staged changes")).to_have_count(0)


def give(page: Page, role: str, branch: str = "", until: str = "") -> None:
    page.get_by_role("button", name="Give a role").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Role", exact=True).select_option(role)
    if branch:
        dialog.get_by_label("Where").fill(branch)
        dialog.get_by_role("list", name="Branches found").get_by_role("button", name=branch, exact=False).first.click()
    if until:
        dialog.get_by_label("Until").fill(until)
    dialog.get_by_role("button", name="Stage it").click()
    expect(dialog).to_have_count(0)


def test_the_roster_filters_as_one_types(open_as):
    page = open_as(ODILE, "/assign")
    roster = page.get_by_role("grid", name="Accounts")
    expect(page.get_by_text("Accounts 86")).to_be_visible()
    page.get_by_placeholder("Name or address").press_sequentially("marrow")
    expect(roster.locator("[data-account]")).to_have_count(1)
    expect(page).to_have_url("/assign?search=marrow")
    page.get_by_role("button", name="Show all").click()
    page.get_by_label("Role", exact=True).select_option("Season intern")
    expect(roster.locator("[data-account]")).to_have_count(2)
    page.get_by_role("button", name="disabled").click()
    expect(page.get_by_text("Nobody is like that")).to_be_visible()


def test_the_roster_is_walked_by_keyboard(open_as):
    page = open_as(ODILE, "/assign/ines?group=pier-3")
    page.locator('[data-account="ines"]').focus()
    page.keyboard.press("ArrowDown")
    expect(page).to_have_url("/assign/lotte?group=pier-3")
    expect(page.get_by_role("heading", name="Lotte Amankwah")).to_be_visible()
    page.go_back()
    expect(page.get_by_role("heading", name="Ines Marrow")).to_be_visible()


def test_two_roles_with_scope_and_dates_beside_those_through_groups(open_as):
    page = open_as(ODILE, "/assign/ines")
    account = page.get_by_role("region", name="Ines Marrow")
    expect(account.get_by_text("through Race office")).to_be_visible()
    give(page, "Picture desk", branch="Pier 3", until="2099-06-30")
    give(page, "Pilot")
    expect(account.get_by_text("staged", exact=True)).to_have_count(2)
    apply(page)
    expect(account.get_by_text("staged", exact=True)).to_have_count(0)
    line = account.get_by_role("listitem").filter(has_text="Picture desk")
    expect(line).to_contain_text("directly")
    expect(line).to_contain_text("on Pier 3 and what is beneath")
    expect(line).to_contain_text("until 30 Jun 2099")
    expect(account.get_by_role("listitem").filter(has_text="Pilot")).to_contain_text("everywhere")
    expect(account.get_by_role("table")).to_contain_text("Notice to mariners")


def test_a_role_is_taken_away_again(open_as):
    page = open_as(ODILE, "/assign/nadia")
    page.get_by_role("button", name="Take away Picture desk").click()
    expect(page.get_by_text("staged to end")).to_be_visible()
    apply(page)
    expect(page.get_by_role("listitem").filter(has_text="Picture desk")).to_have_count(0)


def test_a_wrong_period_is_named_and_keeps_what_was_typed(open_as):
    page = open_as(ODILE, "/assign/ines")
    page.get_by_role("button", name="Give a role").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Role", exact=True).select_option("Pilot")
    dialog.get_by_label("From").fill("2099-06-30")
    dialog.get_by_label("Until").fill("2099-06-01")
    dialog.get_by_role("button", name="Stage it").click()
    expect(dialog.get_by_role("alert")).to_have_text("This is not after the beginning.")
    expect(dialog.get_by_label("Until")).to_have_value("2099-06-01")
