"""Sections of the desk: who sees which, what does not fit on a board, and people as a section of its own."""

from playwright.sync_api import expect

from tests.browser.conftest import ODILE

YARA = "yara@skerrow.example"


def test_the_picture_desk_works_on_media_and_on_nothing_else(open_as):
    """Yara holds Picture desk, and Museum keeper through her group; the content is closed to her here."""
    admin = open_as(ODILE, "/define/picture-desk?cell=content.open")
    admin.get_by_role("radio", name="Barred").click()
    admin.get_by_role("button", name="Review and apply").click()
    admin.get_by_role("dialog").get_by_role("button", name="Apply 1 change").click()
    expect(admin.get_by_role("dialog")).to_have_count(0)
    page = open_as(YARA, "/desk")
    expect(page.get_by_role("treeitem").first).to_be_visible()
    expect(page.get_by_role("button", name="Media", exact=True)).to_have_count(0)
    expect(page.get_by_role("treeitem", name="Notices to mariners")).to_have_count(0)
    expect(page.get_by_role("link", name="Topics")).to_have_count(0)
    page.goto("/desk/open-day")
    expect(page.get_by_role("alert")).to_contain_text("open the content section")


def test_what_does_not_fit_is_mended_on_the_board(open_as):
    page = open_as(ODILE, "/define/season-intern")
    page.get_by_role("button", name="Does not fit").click()
    misfit = page.get_by_role("list", name="What does not fit")
    expect(misfit).to_contain_text("The media section is closed, but this is given for it: create pictures")
    misfit.get_by_role("button", name="Open it").click()
    expect(misfit).to_have_count(0)
    expect(page.get_by_role("region", name="Staged")).to_contain_text("1")


def test_a_profile_is_found_and_changed_and_a_later_hand_is_told(open_as):
    page, other = (open_as(ODILE, "/desk/-/people") for _ in range(2))
    for one in (page, other):
        one.get_by_label("Part of a name").fill("ines")
        one.get_by_role("button", name="Ines Marrow").click()
        expect(one.get_by_label("Work")).to_be_enabled()
    page.get_by_label("Work").fill("Sailmaker")
    other.get_by_label("Work").fill("Rigger")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_text("Saved.")).to_be_visible()
    other.get_by_role("button", name="Save").click()
    expect(other.get_by_text("was changed while you were editing")).to_be_visible()
    expect(other.get_by_label("Work")).to_have_value("Rigger")
    other.get_by_role("button", name="Show how it is now").click()
    expect(other.get_by_label("Work")).to_have_value("Sailmaker")


def test_roles_are_compared_beside_their_boards_too(open_as):
    page = open_as(ODILE, "/define/compare?roles=tenant-editor,season-intern")
    beside = page.get_by_role("table", name="Beside the boards")
    row = beside.get_by_role("row", name="Harbour office: bar everything, here and beneath")
    expect(row.get_by_role("img")).to_have_count(2)
    expect(row.get_by_role("img").nth(1)).to_have_attribute("data-extent", "all")
    expect(beside.get_by_role("row", name="Insert heading")).to_have_count(0)
    page.get_by_role("button", name="Everything").click()
    expect(beside.get_by_role("row", name="Insert heading")).to_be_visible()


def test_a_side_of_every_component_is_given_at_once(open_as):
    page = open_as(ODILE, "/define/tenant-editor")
    page.get_by_role("button", name="The links of every component, or of none").click()
    expect(page.get_by_role("switch", name="Holders of Tenant editor may change links: Button")).to_have_attribute(
        "aria-checked", "false"
    )


def test_a_starter_role_is_made_again_on_screen(open_as):
    page = open_as(ODILE, "/define")
    page.get_by_role("button", name="New role").click()
    page.get_by_label("As one to begin with").check()
    page.get_by_label("Which one").click()
    page.get_by_role("option", name="Picture shelf").click()
    expect(page.get_by_label("Name", exact=True)).to_have_value("Picture shelf")
    page.get_by_role("button", name="Make role").click()
    expect(page.get_by_role("heading", name="Picture shelf")).to_be_visible()
