"""The desk on a narrow screen: one side at a time, and everything on it in reach."""

from playwright.sync_api import expect

from tests.browser.conftest import INES

LOFT = "/desk/p3-sail-loft"


def test_a_page_is_found_edited_and_saved_on_a_narrow_screen(open_as):
    page = open_as(INES, "/desk")
    page.set_viewport_size({"width": 360, "height": 640})
    page.get_by_role("button", name="Pages").click()
    page.get_by_label("Part of a title").fill("3, sail loft")
    page.get_by_role("treeitem", name="Pier 3, Sail loft").click()
    expect(page).to_have_url(LOFT)
    page.locator('[data-component="p3-sail-loft-heading"]').click()
    page.get_by_label("Text", exact=True).fill("Sails mended at hand")
    page.get_by_role("button", name="Parts and fields").click()
    expect(page.get_by_label("Telephone")).to_be_visible()
    page.get_by_role("button", name="This page").click()
    expect(page.locator('[data-component="p3-sail-loft-heading"]')).to_have_text("Sails mended at hand")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("button", name="Revert")).to_have_count(0)
    assert page.evaluate("document.documentElement.scrollWidth") <= 360
