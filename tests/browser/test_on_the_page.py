"""Words are typed where they stand on the page, as far as one may change them."""

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import INES, ODILE
from tests.browser.test_media import RATES, SAIL

HEADING, TEXT = '[data-component="p3-sail-loft-heading"]', '[data-component="p3-sail-loft-text"]'


def test_a_client_changes_words_and_pictures_and_not_looks(open_as):
    """From top to bottom: what is open is typed, what is closed says so before one tries, and all of it is saved."""
    page = open_as(INES, "/desk/p3-sail-loft")
    page.locator('[data-component="p3-sail-loft-banner"]').click()
    expect(page.get_by_label("Text", exact=True)).to_have_count(0)
    expect(page.get_by_text("locked by Odile Varga").first).to_be_visible()

    page.locator(HEADING).click()
    expect(page.get_by_label("Text", exact=True)).to_be_focused()
    page.get_by_label("Text", exact=True).fill("Sails mended by Friday")
    page.keyboard.press("Enter")
    page.keyboard.type(", or sooner")
    expect(page.locator(HEADING)).to_have_text("Sails mended by Friday, or sooner")
    panel = page.get_by_role("complementary", name="Parts of the page")
    expect(panel.get_by_text("Layout")).to_be_visible()
    expect(panel.get_by_text("closed").first).to_be_visible()

    page.locator(TEXT).click()
    page.keyboard.press("Control+End")
    page.keyboard.type(" Ask at the loft.")
    page.locator('[data-component="p3-sail-loft-picture"]').click()
    page.get_by_label("Caption").fill("The loft floor")
    page.get_by_role("group", name="Media").get_by_role("button", name="Picture").click()
    page.get_by_role("dialog", name="Choose a picture").get_by_role("button", name="Nets drying").click()
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_text("Saved, and public now.")).to_be_visible()

    visitor = open_as(None, "/site/harbour/moorings/berth-directory/pier-3/pier-3-sail-loft")
    expect(visitor.get_by_role("heading", name="Sails mended by Friday, or sooner")).to_be_visible()
    expect(visitor.get_by_text("Ask at the loft.")).to_be_visible()
    expect(visitor.get_by_text("The loft floor")).to_be_visible()


def test_a_picture_is_put_in_where_it_stands(open_as):
    page = open_as(INES, "/desk/p3-sail-loft")
    part = page.locator('[data-component="p3-sail-loft-picture"]')
    part.click()
    page.get_by_label("A picture to put here").set_input_files([RATES])
    expect(part.get_by_role("alert")).to_contain_text("JPEG, PNG or WebP")
    page.get_by_label("A picture to put here").set_input_files([SAIL])
    expect(part.locator("img")).not_to_have_attribute("src", re.compile("pic-sail-loft"))
    expect(part.get_by_role("alert")).to_have_count(0)
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_text("Saved, and public now.")).to_be_visible()
    part.get_by_role("button", name="Drop a picture, or choose one").click()
    page.get_by_role("dialog", name="Choose a picture").get_by_role("button", name="Nets drying").click()
    expect(part.locator("img")).to_have_attribute("src", re.compile("^/files/pic-nets"))


def test_cells_are_typed_and_steps_are_undone_across_parts(open_as):
    page = open_as(ODILE, "/desk/p5-cafe")
    table = page.locator('[data-component="p5-cafe-table"]')
    table.click()
    page.get_by_label("Cell 2 of row 2").fill("at the steps")
    page.locator('[data-component="p5-cafe-heading"]').click()
    page.get_by_label("Text", exact=True).fill("Soup from seven")
    page.keyboard.press("Control+z")
    expect(page.get_by_label("Text", exact=True)).to_have_text("Soup from six")
    expect(table).to_contain_text("at the steps")
    page.keyboard.press("Control+z")
    expect(table).to_contain_text("at the post")
    page.keyboard.press("Control+Shift+z")
    expect(table).to_contain_text("at the steps")
    page.keyboard.press("Escape")
    expect(page.locator('[data-component="p5-cafe-heading"]')).to_be_focused()


def paste(page: Page, label: str, **formats: str) -> None:
    page.get_by_role("textbox", name=label, exact=True).evaluate(
        """(place, formats) => {
            const data = new DataTransfer();
            for (const [type, text] of Object.entries(formats)) data.setData(type.replace("_", "/"), text);
            place.dispatchEvent(
                new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true }));
        }""",
        formats,
    )


def test_what_is_pasted_is_cleaned_to_what_can_be_kept(open_as):
    page = open_as(INES, "/desk/p3-sail-loft")
    page.locator(HEADING).click()
    page.get_by_label("Text", exact=True).fill("")
    paste(page, "Text", text_plain="Sails\nmended", text_html="<h1 style='color:red'>Sails<br>mended</h1>")
    expect(page.locator(HEADING)).to_have_text("Sails mended")
    page.locator(TEXT).click()
    page.keyboard.press("Control+a")
    paste(page, "Text", text_html="<p style='color:red'>At <b>noon</b><script>alert(1)</script></p>")
    expect(page.locator(f"{TEXT} strong")).to_have_text("noon")
    assert "style" not in page.get_by_role("textbox", name="Text", exact=True).inner_html()


def test_words_become_a_link(open_as):
    page = open_as(INES, "/desk/p3-sail-loft")
    page.locator(TEXT).click()
    page.keyboard.press("Control+a")
    bar = page.get_by_role("toolbar", name="Form of Text")
    bar.get_by_role("button", name="Link").click()
    page.get_by_label("Leads to").fill("javascript:alert(1)")
    page.get_by_role("button", name="Link it").click()
    expect(page.get_by_role("alert")).to_have_text("A link begins with https:, mailto:, tel: or /.")
    page.get_by_label("Leads to").fill("https://loft.example/")
    page.get_by_role("button", name="Link it").click()
    expect(page.locator(f"{TEXT} a").first).to_have_attribute("href", re.compile("^https://loft.example/"))
    expect(page.get_by_role("textbox", name="Text", exact=True)).to_be_focused()
    bar.get_by_role("button", name="Link").click()
    page.get_by_role("button", name="No link").click()
    expect(page.locator(f"{TEXT} a")).to_have_count(0)
