"""The roster, and giving roles with scope and dates."""

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import ODILE
from tests.browser.picking import pick, put_date


def apply(page: Page) -> None:
    page.get_by_role("button", name="Review and apply").click()
    review = page.get_by_role("dialog", name="Review and apply")
    expect(review.get_by_text("Working out what and where")).to_have_count(0)  # its coming moves the buttons
    review.get_by_role("button", name="Apply").click()
    expect(review).to_have_count(0)
    expect(page.get_by_role("region", name="Staged changes")).to_have_count(0)


def give(page: Page, role: str, branch: str = "", until: str = "") -> None:
    page.get_by_role("button", name="Give a role").click()
    dialog = page.get_by_role("dialog", name=re.compile("a role$"))
    pick(dialog, "Role Choose a role", role)
    if branch:
        dialog.get_by_label("Part of a branch’s name").fill(branch)
        dialog.get_by_role("treeitem", name=re.compile(rf"^{branch} \d+$")).click()
    if until:
        put_date(dialog, "Until", until)
    expect(dialog.get_by_text("By itself", exact=False)).to_be_visible()
    dialog.get_by_role("button", name="Stage it").click()
    expect(dialog).to_have_count(0)


def test_the_roster_filters_as_one_types(open_as):
    page = open_as(ODILE, "/assign")
    roster = page.get_by_role("grid", name="Accounts")
    expect(page.get_by_text("Accounts 86")).to_be_visible()
    page.get_by_placeholder("Name, address or group").press_sequentially("marrow")
    expect(roster.locator("[data-account]")).to_have_count(1)
    expect(page).to_have_url("/assign?search=marrow")
    page.get_by_placeholder("Name, address or group").fill("")
    pick(page, "Any role", "Season intern")
    expect(roster.locator("[data-account]")).to_have_count(2)
    page.get_by_role("button", name=re.compile("^Disabled")).click()
    expect(page.get_by_text("Nobody is like that")).to_be_visible()
    page.get_by_role("button", name="Show everybody").click()
    expect(page.get_by_text("Accounts 86")).to_be_visible()


def test_what_matters_is_seen_at_a_glance_and_kept_as_a_view(open_as):
    page = open_as(ODILE, "/assign")
    page.get_by_role("button", name=re.compile("^Ends soon 2")).click()
    expect(page.get_by_role("row").filter(has_text="Aiko Lindqvist")).to_contain_text("ends soon")
    page.get_by_role("button", name="Columns").click()
    page.get_by_role("menuitem", name="State").click()
    page.keyboard.press("Escape")
    expect(page.get_by_role("columnheader", name="State")).to_be_visible()
    page.get_by_role("button", name="Views").click()
    page.get_by_role("menuitem", name="Keep this view").click()
    page.get_by_role("dialog").get_by_label("Name").fill("Leaving soon")
    page.get_by_role("button", name="Keep it").click()
    page.goto("/assign")
    page.get_by_role("button", name="Views").click()
    page.get_by_role("menuitem", name="Leaving soon", exact=True).click()
    expect(page).to_have_url(re.compile("show=ends"))
    expect(page.get_by_role("columnheader", name="State")).to_be_visible()


def test_the_roster_is_walked_and_chosen_from_by_keyboard(open_as):
    page = open_as(ODILE, "/assign?group=pier-3")
    page.locator('[data-account="ines"]').focus()
    page.keyboard.press("x")
    page.keyboard.press("Shift+ArrowDown")
    expect(page.get_by_role("heading", name="2 accounts chosen")).to_be_visible()
    page.get_by_role("button", name="Choose none").click()
    page.locator('[data-account="lotte"]').focus()
    page.keyboard.press("Enter")
    expect(page).to_have_url("/assign/lotte?group=pier-3")
    expect(page.get_by_role("heading", name="Lotte Amankwah")).to_be_visible()
    page.go_back()
    expect(page.get_by_role("heading", name="Lotte Amankwah")).to_have_count(0)


def test_something_is_done_to_all_that_match_and_told_exactly_first(open_as):
    page = open_as(ODILE, "/assign?role=season-intern")
    page.get_by_role("checkbox", name="Choose all that match").check()
    panel = page.get_by_role("region", name="What to do with those chosen")
    expect(panel.get_by_role("heading", name="2 accounts chosen")).to_be_visible()
    panel.get_by_role("button", name="Take a role").click()
    pick(panel, "Role Choose a role", "Season intern")
    expect(panel.get_by_text("2 accounts lose")).to_be_visible()
    expect(panel.get_by_text("1 expectation would break")).to_be_visible()
    panel.get_by_role("button", name="Stage it").click()
    apply(page)
    expect(page.get_by_text("Nobody is like that")).to_be_visible()


def test_two_roles_with_scope_and_dates_beside_those_through_groups(open_as):
    page = open_as(ODILE, "/assign/ines")
    account = page.get_by_role("region", name="Ines Marrow")
    expect(account.get_by_text("through Race office")).to_be_visible()
    give(page, "Picture desk", branch="Pier 3", until="2099-06-30T12:00")
    give(page, "Pilot")
    expect(account.get_by_text("staged", exact=True)).to_have_count(2)
    apply(page)
    expect(account.get_by_text("staged", exact=True)).to_have_count(0)
    line = account.get_by_role("listitem").filter(has_text="Picture desk", has_not_text="only on")
    expect(line).to_contain_text("directly")
    expect(line).to_contain_text("on Pier 3 and what is beneath")
    expect(line).to_contain_text("until 30 Jun 2099")
    expect(account.get_by_role("listitem").filter(has_text="Pilot")).to_contain_text("everywhere")
    expect(account.get_by_role("table", name="What everything")).to_contain_text("Notice to mariners")


def test_a_role_is_changed_in_place_and_taken_away_again(open_as):
    page = open_as(ODILE, "/assign/nadia")
    page.get_by_role("button", name="What to do with Picture desk").click()
    page.get_by_role("menuitem", name="Change where and when").click()
    dialog = page.get_by_role("dialog", name="Change what")
    put_date(dialog, "Until", "2099-01-02T09:30")
    dialog.get_by_role("button", name="Stage it").click()
    expect(page.get_by_text("staged to change")).to_be_visible()
    apply(page)
    line = page.get_by_role("listitem").filter(has_text="Picture desk", has_not_text="only on")
    expect(line).to_contain_text("until 2 Jan 2099")
    page.get_by_role("button", name="What to do with Picture desk").click()
    page.get_by_role("menuitem", name="Take away").click()
    expect(page.get_by_text("staged to end")).to_be_visible()
    apply(page)
    expect(line).to_have_count(0)


def test_a_wrong_period_is_named_and_keeps_what_was_typed(open_as):
    page = open_as(ODILE, "/assign/ines")
    page.get_by_role("button", name="Give a role").click()
    dialog = page.get_by_role("dialog", name="Give Ines Marrow a role")
    stage = dialog.get_by_role("button", name="Stage it")
    expect(stage).to_be_disabled()
    pick(dialog, "Role Choose a role", "Pilot")
    expect(stage).to_be_enabled()
    put_date(dialog, "From", "2099-06-30T10:00")
    put_date(dialog, "Until", "2099-06-01T10:00")
    dialog.get_by_role("button", name="Stage it").click()
    expect(dialog.get_by_role("alert")).to_have_text("This is not after the beginning.")
    expect(dialog.get_by_role("group", name="Until", exact=True)).to_contain_text("01/06/2099")


def test_an_account_is_confined_in_one_tree_and_the_other(open_as):
    page = open_as(ODILE, "/assign/ines")
    page.get_by_role("button", name="Confine to branches").click()
    dialog = page.get_by_role("dialog", name="Confine Ines Marrow")
    dialog.get_by_role("button", name="Confined", exact=True).first.click()
    expect(dialog.get_by_text("the whole tree is closed")).to_be_visible()
    dialog.get_by_role("treeitem", name=re.compile("Moorings")).first.click()
    expect(dialog.get_by_text("Media: wherever roles and limits let Ines Marrow go.")).to_be_visible()
    dialog.get_by_role("button", name="Confined", exact=True).last.click()
    dialog.get_by_role("tree", name="Media").get_by_role("treeitem", name=re.compile("Harbour pictures")).click()
    dialog.get_by_role("button", name="Stage it").click()
    expect(page.get_by_text("Confined in content to Moorings.")).to_be_visible()
    expect(page.get_by_text("Confined in media to Harbour pictures.")).to_be_visible()
    page.get_by_role("button", name="Confine to branches").click()
    dialog.get_by_role("button", name="Not confined").first.click()
    dialog.get_by_role("button", name="Stage it").click()
    expect(page.get_by_text("Confined in content to Moorings.")).to_have_count(0)
    expect(page.get_by_text("Confined in media to Harbour pictures.")).to_be_visible()


def test_groups_are_a_tree_and_moving_one_tells_what_members_gain(open_as):
    page = open_as(ODILE, "/assign/groups/museum")
    group = page.get_by_role("region", name="Museum")
    expect(group.get_by_text("Museum keeper")).to_be_visible()
    group.get_by_role("button", name="More", exact=True).click()
    page.get_by_role("menuitem", name="Move into another group").click()
    dialog = page.get_by_role("dialog", name="Move Museum")
    pick(dialog, "Inside Staff", "Tenants")
    expect(dialog.get_by_text(re.compile("accounts gain"))).to_be_visible()
    dialog.get_by_role("button", name="Stage it").click()
    expect(group.get_by_text("staged to move")).to_be_visible()


def test_an_account_page_tells_what_somebody_holds_where_and_what_it_adds_up_to(open_as):
    page = open_as(ODILE, "/assign/ines")
    account = page.get_by_role("region", name="Ines Marrow")
    expect(account.get_by_role("listitem").filter(has_text="Tenant editor").first).to_be_visible()
    expect(account.get_by_text("edits and does not publish, of the pages there")).to_be_visible()
    expect(account.get_by_text("Pier 3").first).to_be_visible()
    page.keyboard.press("Control+k")
    page.keyboard.type("take somebody")
    expect(page.get_by_role("option", name="Take somebody on")).to_be_visible()
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Take somebody on")).to_be_visible()
    page.keyboard.press("Control+k")
    page.keyboard.type("new role")
    page.keyboard.press("Enter")
    expect(page.get_by_role("dialog", name="New role")).to_be_visible()


def test_a_new_editor_a_group_and_a_leaver_without_help(open_as):
    page = open_as(ODILE, "/assign")
    page.get_by_role("link", name="Take somebody on").click()
    page.get_by_label("Name", exact=True).fill("Sunniva Aas")
    page.get_by_label("E-mail address").fill("ines+two@sailloft.example")
    expect(page.get_by_text("arrives in the same mailbox")).to_be_visible()
    page.get_by_text("The letter as it will be sent").click()
    expect(page.get_by_text("Odile Varga invites you")).to_be_visible()
    page.get_by_text("With a password").click()
    page.get_by_role("button", name="Make them").click()
    expect(page.get_by_text("never again")).to_be_visible()
    page.get_by_role("link", name="Sunniva Aas").click()
    account = page.get_by_role("region", name="Sunniva Aas")
    pick(account, "+ group", "Harbour office")
    expect(account.get_by_role("button", name="Take out of Harbour office")).to_be_visible()
    apply(page)
    expect(account.get_by_text("through Harbour office")).to_be_visible()

    page.goto("/assign/nadia")
    page.get_by_role("button", name="More", exact=True).click()
    page.get_by_role("menuitem", name="Disable, and hand over").click()
    dialog = page.get_by_role("dialog", name="Disable")
    pick(dialog, "Who is given the same Nobody", "Sunniva")
    expect(dialog.get_by_text("would lose something")).to_be_visible()
    dialog.get_by_role("button", name="Disable now").click()
    expect(page.get_by_role("button", name="Enable")).to_be_visible()
    page.goto("/assign?search=sunniva+aas")
    page.locator("[data-account]").click()
    expect(page.get_by_role("listitem").filter(has_text="Picture desk", has_not_text="only on")).to_be_visible()
