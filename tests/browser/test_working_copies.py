"""A public page is changed beside what is public; drafts and copies save themselves as one goes."""

from playwright.sync_api import Page, expect

from tests.browser.conftest import INES, ODILE

AIKO = "aiko@skerrow.example"
SWIM, CRABS = "/desk/swim", "/desk/crab-race"


def title(page: Page, said: str) -> None:
    page.get_by_role("textbox", name="Title", exact=True).fill(said)


def versions(page: Page) -> int:
    """How many versions its history tells."""
    page.get_by_role("button", name="History").click()
    told = page.get_by_role("list", name="Versions").get_by_role("listitem")
    expect(told.first).to_be_visible()
    count = told.count()
    page.keyboard.press("Escape")
    return count


def test_a_copy_is_worked_on_handed_in_returned_and_published(open_as):
    page = open_as(AIKO, SWIM)
    expect(page.get_by_text("You can change it on a working copy beside it.")).to_be_visible()
    expect(page.get_by_role("textbox", name="Title", exact=True)).to_have_count(0)
    page.get_by_role("link", name="Work on a copy").click()
    expect(page.get_by_text("It begins with what you save first.")).to_be_visible()
    title(page, "Swim to the spit and back")
    expect(page.get_by_text("Saved on the working copy.")).to_be_visible()
    assert versions(page) == 1
    page.get_by_role("button", name="What would change").click()
    expect(page.get_by_role("region", name="What changed on")).to_contain_text("and back")
    page.get_by_role("button", name="Hand in for review").click()
    page.get_by_label("A word with it").fill("Is the distance right?")
    page.get_by_role("button", name="Hand it in").click()
    expect(page.get_by_text("Copy in review")).to_be_visible()

    theirs = open_as(ODILE, "/desk/-/waiting")
    row = theirs.get_by_role("listitem").filter(has_text="Swim to the spit and back")
    expect(row).to_contain_text("Working copy, event")
    row.get_by_role("button", name="Return").click()
    theirs.get_by_label("What is to be changed").fill("Say how far.")
    theirs.get_by_role("button", name="Return it").click()
    expect(row).to_have_count(0)

    page.goto("/desk")
    page.get_by_role("button", name="Go on: Swim to the spit and back").click()
    expect(page.get_by_text("Say how far.")).to_be_visible()
    title(page, "Swim to the spit, 800 m")
    expect(page.get_by_text("Saved on the working copy.")).to_be_visible()

    theirs.goto(SWIM)
    expect(theirs.get_by_text("Aiko Lindqvist saved a working copy")).to_be_visible()
    theirs.get_by_role("link", name="Open the working copy").click()
    theirs.get_by_role("button", name="Publish").click()
    expect(theirs).not_to_have_url("copy")
    expect(theirs.get_by_role("textbox", name="Title", exact=True)).to_have_value("Swim to the spit, 800 m")
    visitor = open_as(None, "/site/harbour/events/summer-season/swim-to-the-spit")
    expect(visitor.locator("body")).to_contain_text("800 m")


def test_over_a_page_changed_meanwhile_both_are_shown(open_as):
    page = open_as(ODILE, "/desk/shanty-choir?copy")
    title(page, "Shanty choir, with accordion")
    expect(page.get_by_text("Saved on the working copy.")).to_be_visible()
    page.get_by_role("link", name="The public page").click()
    expect(page.get_by_role("link", name="Open the working copy")).to_be_visible()
    page.get_by_label("Place", exact=True).fill("Old quay")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_text("Saved, and public now.")).to_be_visible()
    page.get_by_role("link", name="Open the working copy").click()
    expect(page.get_by_text("The public page was changed since it was begun.")).to_be_visible()
    page.get_by_role("button", name="Publish").click()
    told = page.get_by_role("dialog", name="The public page is another by now")
    expect(told).to_contain_text("Old quay")
    expect(told).to_contain_text("with accordion")
    told.get_by_role("button", name="Leave both as they are").click()
    page.get_by_role("button", name="Discard…").click()
    page.get_by_role("button", name="Discard it").click()
    expect(page.get_by_text("what you save here is public at once")).to_be_visible()
    expect(page.get_by_label("Place", exact=True)).to_have_value("Old quay")


def test_a_draft_saves_itself_and_steps_lead_back_over_what_is_saved(open_as):
    page = open_as(ODILE, CRABS)
    before = versions(page)
    title(page, "Crab race and tea")
    expect(page.get_by_text("Saved.", exact=True)).to_be_visible()
    page.get_by_label("Place", exact=True).fill("North slip")
    expect(page.get_by_text("Saved.", exact=True)).to_have_count(0)
    expect(page.get_by_text("Saved.", exact=True)).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("textbox", name="Title", exact=True)).to_have_value("Crab race")
    expect(page.get_by_text("Saved.", exact=True)).to_be_visible()
    page.reload()
    expect(page.get_by_role("textbox", name="Title", exact=True)).to_have_value("Crab race")
    assert versions(page) == before + 1


def test_a_new_part_is_typed_in_while_it_is_saved(open_as):
    page = open_as(ODILE, CRABS)
    page.get_by_role("button", name="Add a part", exact=True).click()
    page.get_by_role("menuitem", name="Heading", exact=True).click()
    page.locator('[data-component^="new-"]').click()
    page.get_by_label("Text", exact=True).fill("First")
    expect(page.get_by_text("Saved.", exact=True)).to_be_visible()
    expect(page.get_by_label("Text", exact=True)).to_be_focused()
    page.keyboard.type(" and last")
    expect(page.get_by_text("Saved.", exact=True)).to_have_count(0)
    expect(page.get_by_text("Saved.", exact=True)).to_be_visible()
    page.reload()
    expect(page.get_by_text("First and last")).to_be_visible()


def test_whoever_leaves_is_not_asked_for_what_saves_itself(open_as):
    page = open_as(ODILE, CRABS)
    title(page, "Crab race by lamplight")
    page.get_by_role("link", name="Waiting", exact=True).click()
    expect(page.get_by_role("heading", name="Waiting")).to_be_visible()
    page.goto(CRABS)
    expect(page.get_by_role("textbox", name="Title", exact=True)).to_have_value("Crab race by lamplight")


def test_a_dropped_connection_keeps_what_was_typed_and_says_so(open_as):
    page = open_as(ODILE, CRABS)
    expect(page.get_by_role("textbox", name="Title", exact=True)).to_be_visible()
    page.context.set_offline(True)
    title(page, "Crab race in the dark")
    expect(page.get_by_text("No connection. What you typed is kept in this browser.")).to_be_visible()
    page.context.set_offline(False)
    expect(page.get_by_text("Saved.", exact=True)).to_be_visible()


def test_two_on_one_page_see_each_other(open_as):
    open_as(INES, "/desk/p3-sail-loft").get_by_text("Page fields").wait_for()
    page = open_as(ODILE, "/desk/p3-sail-loft")
    expect(page.get_by_text("Ines Marrow is here too")).to_be_visible()
