"""Access where one works: why, what would make it yes, who can; locks met, set, opened and asked to be opened."""

import re

from playwright.sync_api import expect

from tests.browser.conftest import INES, ODILE
from tests.browser.test_assign import apply

LOFT = "p3-sail-loft"


def test_from_a_no_to_a_yes(open_as):
    page = open_as(ODILE, f"/why?action=publish&account=ines&node={LOFT}")
    expect(page.get_by_role("heading", level=1)).to_have_text("May Ines Marrow publish Pier 3, Sail loft? No.")
    changes = page.get_by_role("region", name="What would make it yes").get_by_role("listitem")
    first = changes.first
    expect(first).to_contain_text("Let Ines Marrow alone publish berth pages that they wrote on Pier 3, Sail loft.")
    expect(first).to_contain_text("1 account gains")
    expect(first.get_by_role("list", name="Expectations that would break")).to_contain_text(
        "Ines Marrow may not publish"
    )
    can = page.get_by_role("list", name="Who can do it here")
    expect(can).not_to_contain_text("Ines Marrow")
    first.get_by_role("button", name="Stage it").click()
    expect(can).to_contain_text("Ines Marrow")
    apply(page)
    expect(page.get_by_role("heading", level=1)).to_contain_text("Yes.")


def test_everybody_who_can_leads_to_why(open_as):
    page = open_as(ODILE, f"/desk/{LOFT}")
    page.get_by_role("tab", name="Access").click()
    page.get_by_role("button", name="Publish").and_(page.locator("aside button")).click()
    people = page.get_by_role("list", name="Who can publish here")
    expect(people).to_contain_text("Tomasz Okafor")
    people.get_by_role("link", name="Tomasz Okafor").click()
    expect(page.get_by_role("heading", level=1)).to_have_text("May Tomasz Okafor publish Pier 3, Sail loft? Yes.")


def test_a_limit_is_set_where_one_works(open_as):
    page = open_as(ODILE, f"/desk/{LOFT}")
    page.get_by_role("tab", name="Access").click()
    page.get_by_role("button", name="Narrow…").click()
    dialog = page.get_by_role("dialog", name="A limit on Pier 3, Sail loft")
    dialog.get_by_role("button", name="For whom").click()
    page.get_by_role("option", name="Duty editor").click()
    dialog.get_by_role("button", name="Stage it").click()
    expect(dialog).to_have_count(0)
    expect(page.get_by_role("list", name="Who can edit here")).not_to_contain_text("Tomasz Okafor")
    expect(page.get_by_role("complementary", name="Parts of the page")).to_contain_text("Stop edit for Duty editor")


def test_a_page_is_locked_met_and_opened(open_as):
    page = open_as(ODILE, f"/desk/{LOFT}")
    page.get_by_role("tab", name="Access").click()
    page.get_by_role("button", name="Lock…").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("What is closed").select_option("The page")
    dialog.get_by_label("Why").fill("Being counted.")
    dialog.get_by_role("button", name="Lock it").click()
    expect(page.get_by_role("status").filter(has_text="Locked by Odile Varga")).to_be_visible()

    tenant = open_as(INES, f"/desk/{LOFT}")
    expect(tenant.get_by_text("Being counted.")).to_be_visible()
    expect(tenant.get_by_label("Title", exact=True)).to_have_count(0)
    tenant.get_by_role("button", name="Ask for it to be opened").click()
    tenant.get_by_label("A word").fill("The storm sails are in.")
    tenant.get_by_role("dialog").get_by_role("button", name="Ask").click()
    expect(tenant.get_by_text("Asked.")).to_be_visible()

    page.goto("/assign/requests")
    page.get_by_role("button", name="Ines Marrow").first.click()
    way = page.get_by_role("listitem").filter(has_text="Open the lock on Pier 3, Sail loft.")
    way.get_by_role("button", name="Give it").click()
    expect(page.get_by_text("granted").first).to_be_visible()
    tenant.reload()
    expect(tenant.get_by_label("Title", exact=True)).to_be_editable()


def test_a_part_is_locked_by_itself(open_as):
    page = open_as(ODILE, f"/desk/{LOFT}")
    page.get_by_role("button", name="Sails cut and mended").click()
    page.get_by_role("tab", name="Access").click()
    page.get_by_role("button", name="Lock…").click()
    page.get_by_role("dialog").get_by_role("button", name="Lock it").click()
    locked = page.get_by_role("list", name="Locked here")
    expect(locked).to_contain_text("Heading, part 2")
    page.get_by_role("button", name="Open the lock: Heading, part 2").click()
    expect(locked).not_to_contain_text("Heading, part 2")


def test_the_tree_the_list_who_can_why_and_the_desk_say_the_same(open_as):
    """A stop for one tenant on one branch, set in the tree."""
    page = open_as(ODILE, "/limit?account=ines&node=pier-3-branch")
    edit = page.locator('[data-node="pier-3-branch"] [data-column="2"]')
    edit.click()
    page.keyboard.press("s")
    expect(edit.locator("svg")).to_have_attribute("data-set", "stop")
    apply(page)

    page.goto("/limit?tab=all")
    page.get_by_label("Where, for whom, or who set it").fill("Pier 3 Ines")
    row = page.get_by_role("tabpanel").get_by_role("row").filter(has_text="Ines Marrow")
    expect(row).to_contain_text("Stop edit for Ines Marrow")
    expect(row).to_contain_text("1 account, 1 page")

    page.goto(f"/desk/{LOFT}")
    page.get_by_role("tab", name="Access").click()
    expect(page.get_by_role("list", name="Who can edit here")).not_to_contain_text("Ines Marrow")
    almost = page.get_by_role("list", name="Who almost can edit here")
    expect(almost).to_contain_text("stopped on Pier 3")

    page.goto(f"/why?action=edit&account=ines&node={LOFT}")
    expect(page.get_by_role("heading", level=1)).to_contain_text("No.")
    lift = "Lift what stops edit on Pier 3, Sail loft for Ines Marrow."
    expect(page.get_by_role("region", name="What would make it yes")).to_contain_text(lift)

    tenant = open_as(INES, f"/desk/{LOFT}")
    expect(tenant.get_by_role("heading", level=1, name="Pier 3, Sail loft")).to_be_visible()
    expect(tenant.get_by_label("Title", exact=True)).to_have_count(0)
    token = next(cookie["value"] for cookie in tenant.context.cookies() if "csrf" in cookie["name"])
    refused = tenant.request.patch(
        f"/api/desk/pages/{LOFT}",
        data={"title": "Ours"},
        headers={"If-Match": '"1"', "X-CSRFToken": token},
    )
    assert refused.json()["reason"] == "stopped"


def test_who_can_is_expected_to_stay_so(open_as):
    page = open_as(ODILE, "/why?action=edit&account=ines&node=min-2026-10")
    who_can = page.get_by_role("complementary", name="Who can")
    who_can.get_by_role("button", name="Expect it to stay so").click()
    expect(who_can.get_by_text(re.compile("[0-9]+ expectations? recorded"))).to_be_visible()


def test_from_a_board_to_where_the_role_is_narrowed_and_back(open_as):
    page = open_as(ODILE, "/define/duty-editor?cell=notice.edit")
    page.get_by_role("link", name="Where Duty editor is narrowed").click()
    expect(page.get_by_role("heading", level=1, name="What may Duty editor")).to_be_visible()
    page.get_by_role("link", name="Its board").click()
    expect(page.get_by_role("heading", name="Duty editor").first).to_be_visible()
