"""Pages come, go and move on the desk; topics and sites are kept; what waits is seen at the start."""

from playwright.sync_api import expect

from tests.browser.conftest import INES, ODILE

AIKO, TOMASZ = "aiko@skerrow.example", "tomasz@skerrow.example"


def titles(page):
    return page.get_by_role("treeitem").evaluate_all("rows => rows.map(row => row.querySelector('span').textContent)")


def test_an_intern_makes_a_page_by_keyboard_and_hands_it_in_with_a_word(open_as):
    page = open_as(AIKO, "/desk/season-events")
    page.get_by_role("button", name="New", exact=True).press("Enter")
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Title").fill("Oyster morning")
    dialog.get_by_label("Place").fill("South slip")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Title", exact=True)).to_have_value("Oyster morning")
    expect(page.get_by_label("Place", exact=True)).to_have_value("South slip")
    expect(page.get_by_role("treeitem", name="Oyster morning")).to_be_visible()
    page.get_by_role("button", name="Hand in for review").press("Enter")
    page.get_by_label("A word with it").fill("For the August poster.")
    page.get_by_role("button", name="Hand it in").press("Enter")
    expect(page.get_by_text("In review", exact=True)).to_be_visible()

    reviewer = open_as(TOMASZ, "/desk")
    waits = reviewer.get_by_role("listitem").filter(has_text="Oyster morning")
    expect(waits).to_contain_text("For the August poster.")
    waits.get_by_role("button", name="Look at it").click()
    reviewer.get_by_role("button", name="Return", exact=False).click()
    reviewer.get_by_label("What is to be changed").fill("Which tide?")
    reviewer.get_by_role("button", name="Return it").click()
    expect(reviewer.get_by_text("Draft", exact=True)).to_be_visible()

    page.goto("/desk")
    expect(page.get_by_role("region", name="Start")).to_contain_text("Which tide?")
    page.get_by_role("button", name="Go on: Oyster morning").click()
    expect(page.get_by_text("Returned: Which tide?")).to_be_visible()


def test_where_nothing_may_be_made_another_place_is_offered(open_as):
    page = open_as(AIKO, "/desk/events")
    page.get_by_role("button", name="New", exact=True).click()
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_role("button", name="Under Summer season")).to_be_visible()
    expect(dialog.get_by_role("button", name="Make it")).to_be_enabled()


def test_a_page_without_a_title_is_not_made_and_keeps_what_was_typed(open_as):
    page = open_as(ODILE, "/desk/events")
    page.get_by_role("button", name="New", exact=True).click()
    page.get_by_role("dialog").get_by_role("button", name="Event", exact=True).click()
    page.get_by_label("Capacity").last.fill("many")
    page.get_by_role("button", name="Make it").click()
    expect(page.get_by_role("dialog").get_by_role("alert")).to_have_text("A page needs a title.")
    page.get_by_role("dialog").get_by_label("Title").fill("Supper")
    page.get_by_role("button", name="Make it").click()
    expect(page.get_by_role("dialog").get_by_role("alert")).to_contain_text("is a number")


def test_a_page_is_moved_by_keys_by_a_dialog_and_by_dragging(open_as):
    page = open_as(ODILE, "/desk/tide-talk")
    row = page.get_by_role("treeitem", name="Reading the tide")
    expect(row).to_be_visible()
    before = titles(page)
    row.press("Alt+ArrowUp")
    expect(page.get_by_text("Reading the tide was moved.")).to_be_attached()
    at = before.index("Reading the tide")
    page.wait_for_function(
        "at => document.querySelectorAll('[role=treeitem]')[at - 1].textContent.includes('Reading the tide')", arg=at
    )
    row.drag_to(page.locator('[data-node="moorings"]'))
    expect(page.get_by_text("Skerrow Harbour / Moorings")).to_be_visible()
    page.get_by_role("button", name="More", exact=True).click()
    page.get_by_role("menuitem", name="Move…", exact=True).click()
    page.get_by_role("button", name="Under Moorings").click()
    page.get_by_placeholder("Part of a name").fill("Shipyard museum")
    page.get_by_role("option", name="Shipyard museum").first.click()
    page.get_by_role("button", name="Move it").click()
    expect(page.get_by_text("Skerrow Harbour / Shipyard museum")).to_be_visible()


def test_what_is_removed_is_brought_back_at_once_or_out_of_the_bin(open_as):
    page = open_as(ODILE, "/desk/knot-night")
    for _ in range(2):
        page.get_by_role("button", name="More", exact=True).click()
        page.get_by_role("menuitem", name="Remove…").click()
        page.get_by_role("button", name="Remove it").click()
        expect(page.get_by_text("Knot night is in the bin.")).to_be_visible()
        expect(page.get_by_role("treeitem", name="Knot night")).to_have_count(0)
        page.get_by_role("button", name="Bring it back").click()
        expect(page.get_by_role("treeitem", name="Knot night")).to_be_visible()
        page.get_by_role("treeitem", name="Knot night").click()
    page.get_by_role("button", name="More", exact=True).click()
    page.get_by_role("menuitem", name="Remove…").click()
    page.get_by_role("button", name="Remove it").click()
    page.get_by_role("link", name="Bin").click()
    entry = page.get_by_role("region", name="Bin").get_by_role("listitem").filter(has_text="Knot night")
    expect(entry).to_contain_text("stood under Events")
    entry.get_by_role("button", name="Bring back").click()
    expect(page.get_by_label("Title", exact=True)).to_have_value("Knot night")


def test_a_tenant_is_offered_neither_moving_nor_removing(open_as):
    page = open_as(INES, "/desk/p3-sail-loft")
    page.get_by_role("button", name="More", exact=True).click()
    expect(page.get_by_role("menuitem")).to_have_text(["Duplicate", "Duplicate with what is beneath"])


def test_topics_are_added_put_on_a_page_and_merged(open_as):
    page = open_as(ODILE, "/desk/-/topics")
    page.get_by_label("A new topic").fill("Weather")
    page.get_by_role("button", name="Add").click()
    expect(page.get_by_role("listitem").filter(has_text="Weather")).to_contain_text("no page yet")
    page.goto("/desk/n-kelp")
    page.get_by_role("button", name="+ topic").click()
    page.get_by_role("option", name="Weather").click()
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("button", name="Revert")).to_have_count(0)
    page.get_by_role("link", name="Topics").click()
    page.get_by_role("button", name="Remove Weather").click()
    expect(page.get_by_role("dialog")).to_contain_text("Drifting kelp at the entrance")
    page.get_by_role("button", name="Let them be about").click()
    page.get_by_role("option", name="Safety").click()
    page.get_by_role("button", name="Merge them").click()
    expect(page.get_by_role("dialog")).to_have_count(0)
    expect(page.get_by_role("listitem").filter(has_text="Weather")).to_have_count(0)
    page.goto("/desk/n-kelp")
    expect(page.get_by_role("list", name="Topics")).to_contain_text("Safety")


def test_a_site_is_made_set_up_and_read(open_as):
    page = open_as(ODILE, "/desk/-/sites")
    page.get_by_label("A new site").fill("Slack Water Club")
    page.get_by_role("button", name="Make it").click()
    page.get_by_label("Line beneath every page").fill("We wait for the tide.")
    with page.expect_response(lambda response: response.request.method == "PATCH") as saved:
        page.get_by_role("button", name="Save").click()
    assert saved.value.ok
    expect(page.get_by_text("Saved.")).to_be_visible()
    visitor = open_as(None, "/site/slack-water-club/")
    expect(visitor.get_by_text("We wait for the tide.")).to_be_visible()


def test_several_are_chosen_by_keys_and_each_refused_one_is_told(open_as):
    page = open_as(INES, "/desk/p3-sail-loft")
    for name in ("Pier 3, Sail loft", "Pier 3, Sea school"):
        page.get_by_role("treeitem", name=name).press("Space")
    expect(page.get_by_text("2 pages chosen")).to_be_visible()
    page.get_by_role("button", name="Do…").click()
    page.get_by_role("menuitem", name="Retire").click()
    page.get_by_role("button", name="Retire them").click()
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("Done with 1 page. Not with:")
    expect(dialog).to_contain_text("You may not retire this.")
    dialog.get_by_role("button", name="Close").click()
    expect(page.get_by_role("treeitem", name="Pier 3, Sail loft")).to_contain_text("retired")
    expect(page.get_by_text("pages chosen")).to_have_count(0)


def test_what_waits_is_looked_through_published_and_returned(open_as):
    page = open_as(TOMASZ, "/desk/-/waiting")
    lanterns = page.get_by_role("listitem").filter(has_text="Night of lanterns")
    lanterns.get_by_role("button", name="What it says").click()
    changed = page.get_by_role("region", name="What changed on Night of lanterns")
    expect(changed.get_by_role("heading", name="Title")).to_be_visible()
    page.get_by_role("button", name="Publish Night of lanterns").click()
    expect(lanterns).to_have_count(0)
    course = page.get_by_role("listitem").filter(has_text="Winter series course")
    course.get_by_role("button", name="Return").click()
    page.get_by_label("What is to be changed").fill("Which buoy?")
    page.get_by_role("button", name="Return it").click()
    expect(course).to_have_count(0)
    expect(open_as(None, "/site/harbour/events/summer-season").get_by_text("Night of lanterns")).to_be_visible()


def test_what_somebody_shut_stays_shut_though_the_page_that_is_open_stands_in_it(open_as):
    page = open_as(ODILE, "/desk")
    notices = page.locator('[role=treeitem][data-node="notices"]')
    notices.focus()
    page.keyboard.press("ArrowRight")
    late = []
    page.route("**/api/desk/way/n-outer-perch*", lambda route: late.append(route))
    page.locator('[role=treeitem][data-node="n-outer-perch"]').click()
    expect(page.get_by_label("Title", exact=True)).to_have_value("Outer perch light weak")
    notices.focus()
    page.keyboard.press("ArrowLeft")
    expect(notices).to_have_attribute("aria-expanded", "false")
    for route in late:
        route.continue_()
    page.wait_for_load_state("networkidle")
    expect(notices).to_have_attribute("aria-expanded", "false")
