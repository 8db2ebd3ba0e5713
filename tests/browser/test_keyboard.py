"""From signing in to applied and undone without a mouse."""

import os
import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import ODILE
from tools.screenshots import SIZE


def tab_to(page: Page, name: str, most: int = 60) -> None:
    """Press Tab until the element with this accessible name has the focus."""
    for _ in range(most):
        page.keyboard.press("Tab")
        focused = page.evaluate(
            """() => {
                const e = document.activeElement;
                const by = (e.getAttribute("aria-labelledby") || "").split(" ").filter(Boolean);
                const named = by.map((id) => document.getElementById(id)?.textContent || "").join(" ");
                const label = e.getAttribute("aria-label") || named || e.labels?.[0]?.textContent;
                return e === document.body ? "" : label || e.innerText || e.id;
            }"""
        )
        if name in focused:
            return
    raise AssertionError(f"Tab never came to {name}")


def press(page: Page, name: str, most: int = 80) -> None:
    """Go to a button or a link once it can be used, and press it."""
    button = page.get_by_role("button", name=name, disabled=False)
    expect(button.or_(page.get_by_role("link", name=name)).first).to_be_visible()
    tab_to(page, name, most)
    page.keyboard.press("Enter")


def choose(page: Page, words: str) -> None:
    """From the menu that was just opened, what begins with some words."""
    focused = page.locator("[role^=menuitem]:focus")
    while not (there := focused.inner_text()).startswith(words):
        page.keyboard.press("ArrowDown")
        expect(focused).not_to_have_text(there)
    page.keyboard.press("Enter")
    expect(page.get_by_role("menu")).to_have_count(0)


def pick(page: Page, words: str) -> None:
    """In the picker that has the focus: open it, type, and take what is found first."""
    page.keyboard.press("Enter")
    expect(page.get_by_role("dialog", name="Choose a")).to_be_visible()
    page.keyboard.type(words)
    expect(page.locator("[cmdk-item][data-selected=true]")).to_contain_text(words)
    page.keyboard.press("Enter")
    expect(page.get_by_role("dialog", name="Choose a")).to_have_count(0)


def go_to(page: Page, words: str) -> None:
    """Find something by a few letters, and go there."""
    page.keyboard.press("Control+k")
    expect(page.get_by_role("dialog", name="Find anything")).to_be_visible()
    page.keyboard.type(words)
    expect(page.locator("[cmdk-item][data-selected=true]")).to_contain_text(words)
    page.keyboard.press("Enter")
    expect(page.get_by_role("dialog", name="Find anything")).to_have_count(0)


def test_all_of_define_by_keyboard_alone(open_as):
    page = open_as()
    assert page.viewport_size == SIZE
    expect(page.get_by_label("E-mail address")).to_be_visible()
    page.keyboard.press("Tab")
    page.keyboard.type(ODILE)
    page.keyboard.press("Tab")
    page.keyboard.type(os.environ["GONFALON_DEMO_PASSWORD"])
    page.keyboard.press("Enter")
    expect(page.get_by_role("grid")).to_be_visible()

    tab_to(page, "New role")
    page.keyboard.press("Enter")
    expect(page.get_by_role("dialog", name="New role")).to_be_visible()
    page.keyboard.type("Night watch")
    page.keyboard.press("Enter")
    expect(page.get_by_role("grid", name="Board of Night watch")).to_be_visible()

    tab_to(page, "see all home pages")
    for key in ("ArrowDown", "ArrowDown", "ArrowDown", "ArrowRight", "Shift+ArrowDown", "a"):
        page.keyboard.press(key)
    page.keyboard.press("Control+End")
    page.keyboard.press("y")
    expect(page.get_by_role("region", name="Staged changes")).to_contain_text("3 changes staged")
    page.keyboard.press("Control+z")
    expect(page.get_by_role("region", name="Staged changes")).to_contain_text("2 changes staged")

    tab_to(page, "Review and apply")
    page.keyboard.press("Enter")
    review = page.get_by_role("dialog", name="Review and apply")
    expect(review).to_contain_text("Night watch: see unpublished notices to mariners")
    expect(review).to_contain_text("Night watch: see unpublished berth pages")
    tab_to(page, "Apply 2 changes")
    page.keyboard.press("Enter")
    expect(review).to_have_count(0)
    expect(page.get_by_role("status").filter(has_text="Applied: 2 changes")).to_have_count(1)

    go_to(page, "Tenant editor")
    staged = page.get_by_role("region", name="Staged changes")
    expect(page.get_by_role("grid", name="Board of Tenant editor")).to_be_visible()

    # Many at once: filtered, proposed, staged.
    page.keyboard.press("/")
    page.keyboard.type("event")
    expect(page.get_by_role("rowheader", name="Article")).to_have_count(0)
    page.keyboard.press("Shift+Tab")
    page.keyboard.press("Enter")
    choose(page, "Take every removal")
    expect(page.get_by_text("1 answer would change.")).to_be_visible()
    tab_to(page, "Stage 1 change")
    page.keyboard.press("Enter")
    expect(staged).to_contain_text("1 change staged")
    expect(page.locator("[role=gridcell]:focus")).to_be_visible()

    # Compared with another role, and carried across from there.
    go_to(page, "Compare roles")
    for role in ("Tenant editor", "Café tenant"):
        tab_to(page, "Compare with another")
        pick(page, role)
    expect(page.get_by_role("rowheader", name="Berth page · Retire")).to_be_visible()
    tab_to(page, "retire berth pages they wrote themselves", most=90)
    page.keyboard.press("Enter")
    choose(page, "None")
    expect(staged).to_contain_text("2 changes staged")

    # One capability across all roles.
    go_to(page, "What every role says")
    tab_to(page, "Capability")
    pick(page, "Event · Publish")
    expect(page).to_have_url(re.compile("cell=event.publish"))
    tab_to(page, "Holders of Pilot may not publish")
    page.keyboard.press("Enter")
    choose(page, "Own")
    expect(staged).to_contain_text("3 changes staged")

    # An extension off, and on again.
    go_to(page, "Catalogue")
    tab_to(page, "Tide table On")
    page.keyboard.press("Space")
    tab_to(page, "Switch off")
    page.keyboard.press("Enter")
    tides = page.get_by_role("switch", name="Tide table")
    expect(tides).not_to_be_checked()
    expect(page.get_by_role("dialog")).to_have_count(0)
    expect(tides).to_have_attribute("aria-busy", "false")
    tab_to(page, "Tide table Off")
    page.keyboard.press("Space")
    tab_to(page, "Switch on")
    page.keyboard.press("Enter")
    expect(tides).to_be_checked()
    expect(page.get_by_role("dialog")).to_have_count(0)
    expect(tides).to_have_attribute("aria-busy", "false")

    # Applied as one, and undone as one.
    tab_to(page, "Review and apply")
    page.keyboard.press("Enter")
    expect(page.get_by_role("dialog", name="Review and apply")).to_contain_text("Pilot: publish events")
    tab_to(page, "Apply 3 changes")
    page.keyboard.press("Enter")
    note = page.get_by_role("region", name="Just applied")
    expect(note).to_contain_text("3 changes")
    tab_to(page, "Undo")
    page.keyboard.press("Enter")
    expect(note).to_have_count(0)
    page.goto("/define/pilot?cell=event.publish")
    expect(page.locator('[data-capability="event.publish"] svg')).to_have_attribute("data-extent", "nothing")


def test_the_focus_is_always_to_be_seen_and_returns_from_dialogs(open_as):
    page = open_as(ODILE, "/define/pilot")
    button = page.get_by_role("button", name="New role")
    button.focus()
    page.keyboard.press("Enter")
    expect(page.get_by_label("Name", exact=True)).to_be_focused()
    page.keyboard.press("Escape")
    expect(button).to_be_focused()
    outline = button.evaluate("e => getComputedStyle(e).outlineStyle + getComputedStyle(e).outlineWidth")
    assert outline == "solid2px"


def test_keys_do_nothing_while_one_types(open_as):
    page = open_as(ODILE, "/define/pilot?cell=notice.edit")
    page.get_by_label("Filter capabilities by words").fill("notice")
    page.keyboard.type(" by")
    page.keyboard.press("Backspace")
    page.keyboard.press("Control+z")
    expect(page.get_by_role("region", name="Staged changes")).to_have_count(0)


def test_a_key_that_says_nothing_here_is_explained(open_as):
    page = open_as(ODILE, "/define/pilot?cell=notice.edit")
    page.locator('[data-capability="notice.edit"]').click()
    page.keyboard.press("y")
    expect(
        page.get_by_role("status").filter(has_text="Kinds of content take o, t and a; duties take y.")
    ).to_have_count(1)
    expect(page.get_by_role("region", name="Staged changes")).to_have_count(0)


def test_all_of_assign_by_keyboard_alone(open_as):
    page = open_as(ODILE, "/assign")
    expect(page.get_by_role("grid", name="Accounts")).to_be_visible()

    # Somebody new, invited, put into a group and given a role.
    press(page, "Take somebody on")
    expect(page.get_by_role("heading", name="Take somebody on")).to_be_visible()
    tab_to(page, "Name")
    page.keyboard.type("Sunniva Aas")
    tab_to(page, "E-mail address")
    page.keyboard.type("sunniva@post.example")
    press(page, "Invite them")
    press(page, "Sunniva Aas")
    expect(page.get_by_role("heading", name="Sunniva Aas")).to_be_visible()
    tab_to(page, "+ group", most=300)
    pick(page, "Volunteers")
    expect(page.get_by_role("button", name="Take out of Volunteers")).to_be_visible()
    press(page, "Give a role")
    tab_to(page, "Role Choose a role")
    pick(page, "Pilot")
    press(page, "Stage it")
    expect(page.get_by_role("region", name="Staged changes")).to_contain_text("2 changes staged")
    press(page, "Review and apply", most=300)
    press(page, "Apply")
    expect(page.get_by_role("region", name="Staged changes")).to_have_count(0)
    expect(page.get_by_role("listitem").filter(has_text="Pilot").first).to_contain_text("directly")

    # What was asked for is given, and what is reviewed is kept.
    press(page, "Requests", most=300)
    press(page, "Halla")
    expect(page.get_by_text("What would do")).to_be_visible()
    press(page, "Give it")
    expect(page.get_by_text(re.compile("^granted")).first).to_be_visible()
    press(page, "Reviews", most=300)
    press(page, "Season crew and interns")
    tab_to(page, "Why, for Ciaran Ubukata")
    page.keyboard.type("Until the season ends.")
    press(page, "Keep")
    expect(page.get_by_text("2 of 2 decided").first).to_be_visible()

    # And somebody leaves.
    page.goto("/assign/nadia")
    press(page, "More", most=300)
    choose(page, "Disable, and hand over")
    press(page, "Disable now")
    expect(page.get_by_role("button", name="Enable")).to_be_visible()


def test_a_page_lives_from_making_to_the_bin_and_back_without_a_mouse(open_as):
    page = open_as(ODILE, "/desk/season-events")
    expect(page.get_by_role("treeitem", name="Summer season")).to_be_visible()
    press(page, "New")
    expect(page.get_by_role("dialog").get_by_label("Title")).to_be_visible()
    tab_to(page, "Title")
    page.keyboard.type("Oysters by lantern")
    page.keyboard.press("Enter")
    expect(page.get_by_role("dialog")).to_have_count(0)
    expect(page.get_by_label("Title", exact=True)).to_have_value("Oysters by lantern")
    press(page, "Add a part")
    choose(page, "Heading")
    tab_to(page, "Text")
    page.keyboard.type("Bring a knife")
    press(page, "Save")
    expect(page.get_by_role("button", name="Revert")).to_have_count(0)
    press(page, "Publish")
    expect(page.get_by_text("Published", exact=True)).to_be_visible()
    tab_to(page, "Oysters by lantern")
    page.keyboard.press("Alt+ArrowUp")
    expect(page.get_by_text("Oysters by lantern was moved.")).to_be_attached()
    press(page, "More")
    choose(page, "Remove")
    expect(page.get_by_role("dialog")).to_be_visible()
    press(page, "Remove it")
    expect(page.get_by_text("is in the bin.")).to_be_visible()
    press(page, "Bin")
    expect(page.get_by_role("heading", name="Bin")).to_be_visible()
    press(page, "Bring back")
    expect(page.get_by_label("Title", exact=True)).to_have_value("Oysters by lantern")
    expect(page.locator("[data-component]")).to_have_text(["Bring a knife"])
