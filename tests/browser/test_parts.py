"""The parts of a page: put in between, copied, dragged, moved by keys, undone; and looked at as visitors will."""

from playwright.sync_api import Page, expect

from tests.browser.conftest import INES, ODILE

LOFT = "/desk/p3-sail-loft"
HEADING = '[data-component="p3-sail-loft-heading"]'
TEXT = '[data-component="p3-sail-loft-text"]'


def kinds(page: Page) -> list[str]:
    """The parts in their order, by the ends of their ids."""
    ids = page.locator("[data-component]").evaluate_all("all => all.map(one => one.dataset.component)")
    return [id.rpartition("-")[2] for id in ids]


def test_a_part_goes_in_between_is_copied_and_all_is_undone_and_done_again(open_as):
    page = open_as(ODILE, LOFT)
    page.locator(TEXT).click()
    before = kinds(page)
    page.get_by_role("button", name="Add a part before Text").click()
    page.get_by_role("menuitem", name="Heading").click()
    page.get_by_label("Text", exact=True).fill("Opening hours")
    page.get_by_role("button", name="Duplicate", exact=True).click()
    expect(page.locator("[data-component]", has_text="Opening hours")).to_have_count(2)
    page.get_by_role("button", name="Undo").click()
    expect(page.locator("[data-component]", has_text="Opening hours")).to_have_count(1)
    page.locator(TEXT).click()
    page.keyboard.press("Control+Shift+z")
    expect(page.locator("[data-component]", has_text="Opening hours")).to_have_count(2)
    for _ in range(3):
        page.keyboard.press("Control+z")
    expect(page.get_by_role("button", name="Undo")).to_be_disabled()
    assert kinds(page) == before
    page.get_by_role("button", name="Redo").click()
    page.get_by_role("button", name="Redo").click()
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("button", name="Undo")).to_have_count(0)
    page.reload()
    expect(page.locator("[data-component]", has_text="Opening hours")).to_have_count(1)


def test_parts_are_moved_by_keys_and_by_dragging(open_as):
    page = open_as(ODILE, LOFT)
    page.locator(HEADING).click()
    before = kinds(page)
    page.keyboard.press("Alt+ArrowDown")
    expect(page.locator(HEADING)).to_be_focused()
    moved = kinds(page)
    assert moved.index("heading") == before.index("heading") + 1
    page.locator(TEXT).hover()
    handle, onto = page.get_by_role("button", name="Move Text"), page.locator(HEADING)
    handle.hover()
    page.mouse.down()
    box = onto.bounding_box()
    page.mouse.move(box["x"] + 20, box["y"] + box["height"] / 2, steps=8)
    page.mouse.move(box["x"] + 20, box["y"] + box["height"], steps=4)
    page.mouse.up()
    expect(page.locator(HEADING)).to_be_visible()
    now = "[...document.querySelectorAll('[data-component]')].map(one => one.dataset.component.split('-').pop())"
    page.wait_for_function(f"before => {now}.join() === before", arg=",".join(before))


def test_a_tenant_puts_in_and_takes_out_only_what_is_hers(open_as):
    page = open_as(INES, LOFT)
    page.locator('[data-component="p3-sail-loft-banner"]').click()
    expect(page.get_by_role("button", name="Take out")).to_have_count(0)
    expect(page.get_by_role("button", name="Move Banner")).to_have_count(0)
    page.locator(TEXT).click()
    page.get_by_role("button", name="Duplicate", exact=True).click()
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("button", name="Revert")).to_have_count(0)


def test_a_draft_is_previewed_with_what_is_not_saved_yet(open_as):
    page = open_as(ODILE, "/desk/quay-cinema")
    page.get_by_label("Title", exact=True).fill("Cinema under a sail")
    page.get_by_role("button", name="Preview").click()
    frame = page.frame_locator("iframe")
    expect(frame.get_by_role("heading", name="Cinema under a sail")).to_be_visible()
    expect(frame.get_by_text("900")).to_have_count(0)
    expect(page.get_by_text("Nothing of this is public")).to_be_visible()
    page.get_by_role("button", name="Narrow").click()
    assert page.locator("iframe").bounding_box()["width"] == 390
    page.keyboard.press("Escape")
    expect(page.get_by_label("Title", exact=True)).to_have_value("Cinema under a sail")
