"""A kind of content is made on screen, given fields, filled in on the desk and read by visitors."""

from playwright.sync_api import expect

from tests.browser.conftest import INES, ODILE


def test_a_field_is_added_filled_in_and_read(open_as):
    page = open_as(ODILE, "/define/kinds/berth")
    page.get_by_role("button", name="Add a field").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Name").fill("Shore power")
    dialog.get_by_label("What it holds").select_option("one of several")
    dialog.get_by_role("button", name="Add it").click()
    expect(dialog.get_by_role("alert")).to_have_text("Say what there is to choose from.")
    dialog.get_by_label("What there is to choose from").fill("none\n16 A\n32 A")
    dialog.get_by_label("Help").fill("At the berth itself")
    dialog.get_by_role("button", name="Add it").click()
    row = page.get_by_role("row").filter(has_text="Shore power")
    expect(row).to_contain_text("one of several: none, 16 A, 32 A")

    tenant = open_as(INES, "/desk/p3-sail-loft")
    expect(tenant.get_by_text("At the berth itself")).to_be_visible()
    tenant.get_by_label("Shore power").select_option("16 A")
    tenant.get_by_role("button", name="Save").click()
    expect(tenant.get_by_role("button", name="Revert")).to_have_count(0)
    visitor = open_as(None, "/site/harbour/moorings/berth-directory/pier-3/pier-3-sail-loft")
    expect(visitor.get_by_text("16 A", exact=True)).to_be_visible()

    page.get_by_role("button", name="Change Shore power").click()
    page.get_by_role("button", name="Retire it").click()
    expect(page.get_by_role("list", name="Retired fields")).to_contain_text("Shore power")
    page.get_by_role("button", name="Bring Shore power back").click()
    expect(page.get_by_role("row").filter(has_text="Shore power")).to_be_visible()


def test_a_field_by_role_is_seen_by_those_only(open_as):
    page = open_as(ODILE, "/define/kinds/berth")
    page.get_by_role("button", name="Add a field").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Name").fill("Insurance ends")
    dialog.get_by_role("button", name="By role").click()
    dialog.get_by_role("button", name="+ role").click()
    page.get_by_role("option", name="Duty editor").click()
    dialog.get_by_role("button", name="Add it").click()
    expect(page.get_by_role("row").filter(has_text="Insurance ends")).to_contain_text("Duty editor sees")
    tenant = open_as(INES, "/desk/p3-sail-loft")
    expect(tenant.get_by_label("Telephone")).to_be_visible()
    expect(tenant.get_by_label("Insurance ends")).to_have_count(0)


def test_a_kind_is_made_and_a_page_of_it(open_as):
    page = open_as(ODILE, "/define/kinds")
    page.get_by_role("button", name="New kind").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_role("button", name="Make it").click()
    expect(dialog.get_by_role("alert").first).to_have_text("It needs a name.")
    dialog.get_by_label("Name").fill("Knot")
    dialog.get_by_label("Several of it").fill("knots")
    dialog.get_by_role("button", name="Make it").click()
    expect(page.get_by_role("heading", name="Knot", exact=True)).to_be_visible()
    expect(page.get_by_text("stands under Section")).to_be_visible()
    page.get_by_role("button", name="Banner").click()
    expect(page.get_by_role("button", name="Banner", pressed=False)).to_be_visible()
    page.goto("/desk/events")
    page.get_by_role("button", name="New", exact=True).click()
    page.get_by_role("dialog").get_by_role("button", name="Knot").click()
    page.get_by_role("dialog").get_by_label("Title").fill("Bowline")
    page.get_by_role("button", name="Make it").click()
    expect(page.get_by_role("dialog")).to_have_count(0)
    expect(page.get_by_label("Title", exact=True)).to_have_value("Bowline")
    page.get_by_role("button", name="Add a part", exact=True).click()
    expect(page.get_by_role("menuitem", name="Banner")).to_have_count(0)
    page.goto("/define/notice-writer?show=new")
    expect(page.get_by_text("Knot").first).to_be_visible()


def new_kind(open_as):
    """The keyholder's page, and its dialog with a kind about to be made."""
    page = open_as(ODILE, "/define/kinds")
    page.get_by_role("button", name="New kind").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Name").fill("Knot")
    dialog.get_by_label("Several of it").fill("knots")
    return page, dialog


def make(page, name: str) -> None:
    """A page of the new kind, under Events."""
    page.goto("/desk/events")
    page.get_by_role("button", name="New", exact=True).click()
    page.get_by_role("dialog").get_by_role("button", name="Knot").click()
    page.get_by_role("dialog").get_by_label("Title").fill(name)
    page.get_by_role("button", name="Make it").click()
    expect(page.get_by_role("dialog")).to_have_count(0)
    expect(page.get_by_label("Title", exact=True)).to_have_value(name)


def test_a_page_of_a_new_kind_is_read_by_whoever_reads_the_kind_most_like_it(open_as):
    page, dialog = new_kind(open_as)
    expect(dialog.get_by_text("Seen by Everyone")).to_be_visible()
    dialog.get_by_role("button", name="Make it").click()
    expect(page.get_by_role("heading", name="Knot", exact=True)).to_be_visible()
    make(page, "Bowline")
    page.get_by_role("button", name="Publish", exact=True).click()
    expect(page.get_by_role("link", name="On the site")).to_be_visible()
    visitor = open_as(None, "/site/harbour/events/bowline")
    expect(visitor.get_by_role("heading", name="Bowline")).to_be_visible()


def test_what_nobody_would_see_is_told_before_it_is_published(open_as):
    page, dialog = new_kind(open_as)
    dialog.get_by_role("button", name="Who sees, makes and edits it").click()
    page.get_by_role("option", name="Nobody yet").click()
    expect(dialog.get_by_text("is seen by nobody until a role gives it")).to_be_visible()
    dialog.get_by_role("button", name="Make it").click()
    expect(page.get_by_role("heading", name="Knot", exact=True)).to_be_visible()
    make(page, "Bowline")
    page.get_by_role("button", name="Publish", exact=True).click()
    told = page.get_by_role("dialog", name="Nobody would see it")
    expect(told).to_contain_text("no role lets them see knots")
    told.get_by_role("button", name="Publish it all the same").click()
    expect(page.get_by_role("link", name="On the site")).to_be_visible()
    visitor = open_as(None, "/site/harbour/events/bowline")
    expect(visitor.get_by_text("There is no such page")).to_be_visible()


def test_fields_are_put_in_order_with_a_handle_and_ruled_where_they_stand(open_as):
    page = open_as(ODILE, "/define/kinds/berth")
    fields = page.get_by_role("rowheader")
    expect(fields.first).to_contain_text("Berth number")
    page.get_by_role("button", name="Move Berth number").focus()
    for key, told in (
        ("Space", "at the place of Berth"),
        ("ArrowDown", "at the place of Telephone"),
        ("Space", "Put down"),
    ):
        page.keyboard.press(key)
        expect(page.get_by_text(told)).to_be_attached()
    expect(fields.first).to_contain_text("Telephone")
    expect(page.get_by_role("row").filter(has_text="Annual dues")).to_contain_text("Harbour lead")
    page.get_by_role("button", name="Change who has Telephone").click()
    page.get_by_label("The author alone").check()
    page.get_by_role("button", name="Stage it").click()
    expect(page.get_by_role("row").filter(has_text="Telephone")).to_contain_text("its author")
    expect(page.get_by_role("region", name="Staged changes")).to_contain_text("1 change staged")


def test_of_a_retired_kind_nothing_new_is_made(open_as):
    page = open_as(ODILE, "/define/kinds/event")
    page.get_by_role("button", name="Retire…").click()
    expect(page.get_by_role("dialog")).to_contain_text("(23 pages)")
    page.get_by_role("button", name="Retire it").click()
    expect(page.get_by_role("link", name="Event yours")).to_contain_text("retired")
    page.goto("/desk/events")
    page.get_by_role("button", name="New", exact=True).click()
    expect(page.get_by_role("dialog").get_by_role("button", name="Article")).to_be_visible()
    expect(page.get_by_role("dialog").get_by_role("button", name="Event", exact=True)).to_have_count(0)
    page.goto("/define/kinds/event")
    page.get_by_role("button", name="Bring back", exact=True).click()
    expect(page.get_by_role("button", name="Retire…")).to_be_visible()
