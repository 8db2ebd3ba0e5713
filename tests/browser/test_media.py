"""Files are brought in, told in words, used on a page and replaced, as an editor does."""

import re

from playwright.sync_api import FilePayload, Page, expect

from tests.api.desk.test_media import PDF, picture
from tests.browser.conftest import INES, ODILE

SAIL = FilePayload(name="slack-water.jpg", mimeType="image/jpeg", buffer=picture())
PLAN = FilePayload(name="plan.svg", mimeType="image/svg+xml", buffer=b"<svg><script/></svg>")
RATES = FilePayload(name="winter-rates.pdf", mimeType="application/pdf", buffer=PDF)


def bring_in(page: Page, *files: FilePayload) -> None:
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Bring in", exact=True).click()
    chooser.value.set_files(list(files))


def test_several_come_in_at_once_and_each_says_what_became_of_it(open_as):
    page = open_as(ODILE, "/desk/pier-pictures?tree=media")
    expect(page.get_by_text("9 files", exact=True)).to_be_visible()
    bring_in(page, SAIL, PLAN, RATES)
    coming = page.get_by_role("region", name="Coming in")
    expect(coming.get_by_role("status")).to_have_text("2 files came in, 1 did not")
    expect(coming.get_by_role("alert")).to_contain_text("SVG can hold scripts")
    expect(page.get_by_text("11 files", exact=True)).to_be_visible()
    page.get_by_role("button", name="Without words").click()
    expect(page.get_by_text("1 file", exact=True)).to_be_visible()
    expect(page.get_by_text("no words yet")).to_be_visible()
    coming.get_by_role("button", name="Clear").click()
    expect(coming).to_have_count(0)
    page.get_by_role("link", name=re.compile("^no words yet Slack water")).click()
    page.get_by_label("Described in words").fill("Boats lying still")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_text("JPG, 900 × 300", exact=False)).to_be_visible()
    expect(page.get_by_text("No page uses it.")).to_be_visible()


def test_files_are_dropped_and_pasted(open_as):
    page = open_as(ODILE, "/desk/pier-pictures?tree=media")
    give = """(kind) => {
        const data = new DataTransfer();
        data.items.add(new File(["High water at noon."], `${kind}.txt`, { type: "text/plain" }));
        const more = { bubbles: true, cancelable: true };
        if (kind === "pasted") window.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, ...more }));
        else for (const name of ["dragenter", "dragover", "drop"]) {
            const place = document.querySelector("[aria-label='Files to bring in']").parentElement;
            place.dispatchEvent(new DragEvent(name, { dataTransfer: data, ...more }));
        }
    }"""
    expect(page.get_by_role("button", name="Bring in", exact=True)).to_be_visible()
    for kind in ("pasted", "dropped"):
        page.evaluate(give, kind)
        expect(page.get_by_role("region", name="Coming in").get_by_role("link", name=kind.title())).to_be_visible()


def test_another_file_takes_its_place_and_the_pages_that_use_it_stay(open_as):
    page = open_as(INES, "/desk/pic-sail-loft?tree=media")
    used = page.get_by_role("region", name="Used on")
    expect(used.get_by_role("link", name="Pier 3, Sail loft")).to_be_visible()
    page.get_by_label("The file to take its place").set_input_files([RATES])
    expect(page.get_by_role("alert")).to_contain_text("This is a document")
    page.get_by_label("The file to take its place").set_input_files([SAIL])
    expect(page.get_by_text("JPG, 900 × 300", exact=False)).to_be_visible()
    expect(used.get_by_role("link", name="Pier 3, Sail loft")).to_be_visible()


def test_a_picture_is_brought_in_where_one_is_chosen(open_as):
    page = open_as(ODILE, "/desk/p5-cafe")
    page.locator('[data-component="p5-cafe-picture"]').click()
    page.get_by_role("group", name="Media").get_by_role("button", name="Picture").click()
    pictures = page.get_by_role("dialog", name="Choose a picture")
    pictures.get_by_label("Pictures to bring in").set_input_files([SAIL])
    pictures.get_by_role("list", name="Pictures").get_by_role("button", name="Slack water").click()
    expect(pictures).to_have_count(0)
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("button", name="Revert")).to_have_count(0)
    expect(page.get_by_role("group", name="Media").get_by_role("button", name="Slack water")).to_be_visible()
