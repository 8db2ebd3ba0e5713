"""Making roles from others, changing many answers, reviewing, undoing, and finding one's way."""

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import ODILE
from tests.browser.picking import pick
from tests.browser.test_define import cell, hang, tray

LUDO = "ludo@agency.example"


def menu(page: Page, button: str, item: str) -> None:
    page.get_by_role("button", name=button, exact=True).click()
    page.get_by_role("menuitem", name=item).click()


def apply_all(page: Page) -> None:
    tray(page).get_by_role("button", name="Review and apply").click()
    expect(page.get_by_role("dialog").get_by_text("Working out what and where")).to_have_count(0)
    page.get_by_role("dialog").get_by_role("button", name=re.compile("^Apply")).click()
    expect(page.get_by_role("region", name="Just applied")).to_be_visible()


def test_an_editor_who_cannot_remove_is_made_seen_applied_and_undone(open_as):
    page = open_as(ODILE, "/define/tenant-editor")
    menu(page, "Change many", "Take every removal away")
    proposed = page.get_by_text("4 answers would change.")
    expect(proposed).to_contain_text("9 accounts may no longer remove pages, up to 3 each")
    assert hang(page, "event.remove") == "nothing"
    expect(tray(page)).to_have_count(0)
    page.get_by_role("button", name="Stage 4 changes").click()
    expect(tray(page)).to_contain_text("9 accounts lose")

    tray(page).get_by_role("button", name="Review and apply").click()
    review = page.get_by_role("dialog", name="Review and apply")
    expect(review).to_contain_text("Tenant editor9 lose")
    review.get_by_role("button", name="9 accounts may no longer remove pages, up to 3 each").click()
    expect(review.get_by_text("A mainsail on the floor: 1 account loses")).to_be_visible()
    review.get_by_role("button", name="Show who").click()
    review.get_by_role("button", name="may no longer remove pages: 3").click()
    expect(review.get_by_text("A mainsail on the floor,", exact=False)).to_be_visible()
    review.get_by_role("button", name="Apply 4 changes").click()

    note = page.get_by_role("region", name="Just applied")
    expect(note).to_contain_text("4 changes, the first: Tenant editor: remove events")
    page.goto("/define/tenant-editor?cell=article.remove")
    assert hang(page, "article.remove") == "nothing"

    page.get_by_role("button", name="Expect it to stay so").click()
    expected = page.get_by_role("dialog", name="New expectation")
    expected.get_by_label("Page or branch").fill("Skerrow")
    expected.get_by_role("list", name="Branches found").get_by_role("button", name="Skerrow Harbour").first.click()
    expect(expected).to_contain_text("and everything beneath, articles only")
    expected.get_by_role("button", name="Record it").click()
    expect(expected).to_have_count(0)
    page.goto("/verify")
    proved = page.get_by_role("row").filter(has_text="Holders of Tenant editor may not remove")
    expect(proved.get_by_role("img", name="holds")).to_be_visible()
    page.goto("/ledger")
    page.get_by_role("button", name="Undo: 4 changes, the first: Tenant editor: remove events").click()
    expect(page.get_by_text("Undone: 4 changes")).to_be_visible()
    page.goto("/define/tenant-editor")
    assert hang(page, "event.remove") == "own"


def test_beside_a_cell_stands_what_is_expected_there_and_what_staging_it_would_break(open_as):
    page = open_as(ODILE, "/define/tenant-editor?cell=berth.publish")
    panel = page.get_by_role("complementary", name="The chosen answer")
    kept = panel.get_by_role("listitem")
    expect(kept).to_have_text(
        ["Ines Marrow may not publish Pier 3, Sail loft", re.compile("Holders of Tenant editor may not publish berth")]
    )
    expect(panel.get_by_role("img", name="holds")).to_have_count(2)
    expect(panel).not_to_contain_text("would break")
    publish = cell(page, "berth.publish")
    publish.click()
    place = publish.bounding_box()
    page.keyboard.press("a")
    expect(kept).to_contain_text(["Sail loft would break", "in Moorings would break"])
    assert publish.bounding_box() == place, "nothing moves under the hand that stages"
    expect(panel).to_contain_text("26 accounts may now publish pages, up to 28 each.")
    cell(page, "event.publish").click()
    page.keyboard.press("a")
    expect(panel).to_contain_text(re.compile("By itself: [0-9]+ accounts may now publish pages"))

    page.goto("/define/signed-in?cell=event.edit")
    expect(panel).to_contain_text("1 holds, 1 breaks")
    expect(kept.first.get_by_role("img", name="breaks")).to_be_visible()
    page.goto("/define/pilot?cell=event.edit")
    expect(panel).to_contain_text("Nothing is expected here yet.")


def test_what_is_staged_is_tried_as_somebody_before_it_is_applied(open_as):
    page = open_as(ODILE, "/define/tenant-editor?cell=berth.retire")
    page.get_by_role("radio", name="None").click()
    tray(page).get_by_role("button", name="Stand in with these").click()
    pick(page, "As whom", "Ines Marrow")
    page.get_by_role("dialog").get_by_role("button", name="Stand in", exact=True).click()
    strip = page.get_by_role("region", name="Standing in")
    expect(strip).to_contain_text("with what is staged")
    page.goto("/desk/p3-sail-loft")
    expect(page.get_by_label("Title", exact=True)).to_have_value("Pier 3, Sail loft")
    expect(page.get_by_role("button", name="Retire")).to_have_count(0)
    strip.get_by_role("button", name="Step out").click()
    expect(tray(page)).to_contain_text("1 change staged")
    expect(page.get_by_role("heading", name="Tenant editor")).to_be_visible()


def test_a_proposal_may_be_left_and_is_for_what_is_selected(open_as):
    page = open_as(ODILE, "/define/tenant-editor")
    cell(page, "event.edit").click()
    page.keyboard.press("x")
    page.keyboard.press("ArrowRight")
    page.keyboard.press("x")
    expect(page.locator("[role=gridcell][aria-selected=true]")).to_have_count(2)
    menu(page, "Change many", "Say nothing")
    expect(page.get_by_text("2 answers would change.")).to_be_visible()
    page.get_by_role("button", name="Leave as it is").click()
    assert hang(page, "event.edit") == "own"


def test_the_pattern_of_one_kind_is_said_of_others(open_as):
    page = open_as(ODILE, "/define/tenant-editor?cell=berth.edit")
    menu(page, "Change many", "As for berth pages, for other kinds…")
    page.get_by_role("checkbox", name="Race result").check()
    page.get_by_role("button", name="Show on the board").click()
    page.get_by_role("button", name=re.compile("^Stage [0-9]+ changes")).click()
    expect(tray(page)).to_contain_text("changes staged")
    for verb in ("see-draft", "edit", "publish", "history"):
        assert hang(page, f"result.{verb}") == hang(page, f"berth.{verb}")


def test_areas_fold_and_stay_folded_in_the_address(open_as):
    page = open_as(ODILE, "/define/tenant-editor")
    page.get_by_role("button", name="Media", exact=True).click()
    expect(cell(page, "picture.see")).to_have_count(0)
    page.reload()
    expect(cell(page, "event.see")).to_be_visible()
    expect(cell(page, "picture.see")).to_have_count(0)
    page.get_by_role("button", name="Media", exact=True).click()
    expect(cell(page, "picture.see")).to_be_visible()


def test_a_copy_goes_its_own_way_and_a_role_is_dressed_and_ordered(open_as):
    page = open_as(ODILE, "/define/tenant-editor")
    page.get_by_role("button", name="Copy", exact=True).click()
    page.get_by_label("Name", exact=True).fill("Guest editor")
    page.get_by_role("button", name="Make role").click()
    expect(page.get_by_role("heading", name="Guest editor")).to_be_visible()
    assert hang(page, "event.create") == "all"

    menu(page, "More", "Name, description and cloth")
    page.get_by_label("Name", exact=True).fill("Pilot")
    page.get_by_label("Description").fill("Guests of the season")
    page.get_by_role("dialog").get_by_text("plum", exact=True).click(force=True)
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("alert")).to_have_text("Another role is called Pilot already.")
    page.get_by_label("Name", exact=True).fill("Season guest")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("heading", name="Season guest")).to_be_visible()
    expect(page.get_by_role("dialog")).to_have_count(0)
    expect(page.get_by_text("Guests of the season")).to_be_visible()

    page.get_by_role("button", name="Move Season guest").focus()
    page.keyboard.press("Space")
    page.keyboard.press("ArrowUp")
    expect(page.get_by_text("Season guest is at the place of Site steward.")).to_be_attached()
    page.keyboard.press("Space")
    roles = page.get_by_role("navigation", name="Roles").get_by_role("listitem")
    expect(roles.nth(-2)).to_contain_text("Season guest")
    page.reload()
    expect(roles.nth(-2)).to_contain_text("Season guest")


def test_a_role_that_would_build_on_itself_is_refused_in_words(open_as):
    page = open_as(ODILE, "/define/notice-writer")
    menu(page, "More", "What it builds on")
    pick(page, "Builds on", "Duty editor")
    page.get_by_role("button", name="Stage", exact=True).click()
    expect(page.get_by_role("alert")).to_contain_text("notice-writer → duty-editor → notice-writer")
    pick(page, "Builds on", "Pilot")
    page.get_by_role("button", name="Stage", exact=True).click()
    expect(tray(page)).to_contain_text("1 change staged")


def test_removing_a_role_hands_its_holders_over(open_as):
    page = open_as(ODILE, "/define/cafe-tenant")
    menu(page, "More", "Remove")
    pick(page, "Its holders get", "Tenant editor")
    page.get_by_role("button", name="Stage its removal").click()
    expect(tray(page)).to_contain_text("changes staged")
    apply_all(page)
    page.goto("/define")
    expect(page.get_by_role("link", name=re.compile("Café tenant"))).to_have_count(0)
    page.goto("/ledger")
    page.get_by_role("button", name=re.compile("^Undo: ")).first.click()
    expect(page.get_by_text(re.compile("^Undone: "))).to_be_visible()
    page.goto("/define/cafe-tenant")
    expect(page.get_by_role("heading", name="Café tenant")).to_be_visible()


def test_a_role_is_put_back_as_it_came_with_its_differences_shown(open_as):
    page = open_as(ODILE, "/define/tenant-editor?cell=event.edit")
    page.get_by_role("radio", name="Team").click()
    expect(page.get_by_role("complementary")).to_contain_text("own → team")
    apply_all(page)
    menu(page, "More", "Put back as it came")
    expect(page.get_by_text("1 answer would change.")).to_be_visible()
    page.get_by_role("button", name="Stage 1 change").click()
    expect(tray(page)).to_contain_text("1 change staged")
    assert hang(page, "event.edit") == "own"


def test_two_who_change_one_role_lose_nothing(open_as):
    odile = open_as(ODILE, "/define/tenant-editor?cell=event.edit")
    odile.get_by_role("radio", name="Team").click()
    cell(odile, "event.publish").click()
    odile.keyboard.press("o")
    expect(tray(odile)).to_contain_text("2 changes staged")
    ludo = open_as(LUDO, "/define/tenant-editor?cell=event.edit")
    ludo.get_by_role("radio", name="All").click()
    apply_all(ludo)

    odile.reload()
    tray(odile).get_by_role("button", name="Review and apply").click()
    review = odile.get_by_role("dialog")
    expect(review.get_by_text("Changed by someone else since you staged it.")).to_have_count(1)
    expect(review.get_by_role("button", name="Apply 2 changes")).to_be_disabled()
    review.get_by_role("button", name="Mine counts: Tenant editor: edit events").click()
    expect(review.get_by_role("row", name="Tenant editor: edit events")).to_contain_text("allteam")
    review.get_by_role("button", name="Apply 2 changes").click()
    expect(odile.get_by_role("region", name="Just applied")).to_be_visible()
    ludo.reload()
    assert (hang(ludo, "event.edit"), hang(ludo, "event.publish")) == ("team", "own")


def test_of_many_changes_the_first_are_shown_and_what_they_would_do_beneath(open_as):
    page = open_as(ODILE, "/define/harbour-lead")
    menu(page, "Change many", "Own work only")
    page.get_by_role("button", name="Stage 54 changes").click()
    line = page.get_by_role("navigation", name="Roles").get_by_role("link", name="Harbour lead")
    expect(tray(page)).to_contain_text("54 changes staged")
    expect(line).to_be_in_viewport(ratio=1)
    tray(page).get_by_role("button", name="Review and apply").click()
    review = page.get_by_role("dialog", name="Review and apply")
    drops = review.get_by_role("button", name=re.compile("^Drop"))
    expect(drops).to_have_count(10)
    expect(review.get_by_role("list", name="What changes")).to_contain_text("1 account may no longer edit pages")
    review.get_by_role("button", name="Show all 54 changes").click()
    expect(drops).to_have_count(54)
    review.get_by_role("button", name="Show fewer").click()
    expect(drops).to_have_count(10)


def test_changes_are_kept_under_a_name_and_taken_up_again(open_as):
    page = open_as(ODILE, "/define/tenant-editor?cell=event.edit")
    page.get_by_role("radio", name="Team").click()
    tray(page).get_by_role("button", name="Review and apply").click()
    page.get_by_role("button", name="Keep for later").click()
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_role("alert")).to_have_text("Give it a name to find it by.")
    page.get_by_label("Name of these changes").fill("For the season")
    page.keyboard.press("Enter")
    expect(tray(page)).to_contain_text("Nothing staged")
    expect(cell(page, "event.edit").locator("svg")).to_have_attribute("data-extent", "own")
    tray(page).get_by_role("button", name="Kept: 1").click()
    page.get_by_role("menuitem", name="For the season").click()
    expect(tray(page)).to_contain_text("1 change staged")
    expect(cell(page, "event.edit").locator("svg")).to_have_attribute("data-extent", "team")


def test_roles_are_compared_and_an_answer_carried_across(open_as):
    page = open_as(ODILE, "/define/compare?roles=tenant-editor")
    pick(page, "Compare with another", "Café tenant")
    row = page.get_by_role("row", name="Berth page · Retire")
    row.get_by_role("button").first.click()
    page.get_by_role("menuitem", name="Say the same in Café tenant").click()
    expect(tray(page)).to_contain_text("1 change staged")
    expect(row).to_have_count(0)
    page.get_by_role("button", name="Everything").click()
    page.get_by_role("row", name="Home page · Remove").hover()
    page.mouse.wheel(0, 1_000)
    expect(row.locator("svg[data-extent=own]")).to_have_count(2)


def test_one_capability_is_seen_and_changed_across_all_roles(open_as):
    page = open_as(ODILE, "/define/pilot?cell=event.edit")
    page.get_by_role("link", name="What every role says about it").click()
    expect(page.get_by_role("heading", name="What every role says")).to_be_visible()
    row = page.get_by_role("row", name="Pilot")
    expect(row).to_contain_text("Holders of Pilot may not edit events by this role.")
    row.get_by_role("button").click()
    page.get_by_role("menuitem", name="Own").click()
    expect(row).to_contain_text("Holders of Pilot may edit events they wrote themselves.")


def test_components_and_facets_are_said_per_role(open_as):
    page = open_as(ODILE, "/define/pilot")
    page.get_by_role("switch", name="Holders of Pilot may insert: Banner").click()
    expect(page.get_by_text("Only those hanging here may be inserted.")).to_be_visible()
    page.get_by_role("switch", name="Holders of Pilot may change layout: Table").click()
    expect(tray(page)).to_contain_text("2 changes staged")
    switch = page.get_by_role("switch", name="Holders of Pilot may change layout: Table")
    expect(switch).to_have_attribute("aria-checked", "false")
    page.get_by_role("button", name="Say nothing of Table").click()
    expect(switch).to_have_attribute("aria-checked", "true")
    expect(tray(page)).to_contain_text("1 change staged")


def test_anything_is_found_by_a_few_letters(open_as):
    page = open_as(ODILE, "/ledger")
    expect(page.get_by_role("heading", name="Ledger")).to_be_visible()
    page.keyboard.press("Control+k")
    page.keyboard.type("season in")
    expect(page.get_by_role("option", name="Season intern")).to_have_attribute("aria-selected", "true")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Season intern")).to_be_visible()
    page.keyboard.press("Control+k")
    page.keyboard.type("zzz")
    expect(page.get_by_text("Nothing is called that, or you may not see it.")).to_be_visible()
    page.keyboard.press("Escape")
    page.keyboard.press("?")
    expect(page.get_by_role("dialog", name="Keys")).to_contain_text("find anything")


def test_whoever_types_ahead_of_the_answers_comes_to_what_they_typed(open_as):
    """Fewer letters found Café tenant first; Enter waits for what all of them find."""
    page = open_as(ODILE, "/ledger")
    expect(page.get_by_role("heading", name="Ledger")).to_be_visible()
    page.keyboard.press("Control+k")
    page.keyboard.type("tenant")
    expect(page.get_by_role("option", selected=True)).to_contain_text("Café tenant")
    held = []
    page.route("**/api/find?*", lambda route: held.append(route))
    with page.expect_request(re.compile("words=tenant%20editor$")):
        page.keyboard.type(" editor")
    page.keyboard.press("Enter")
    expect(page.get_by_role("option", selected=True)).to_contain_text("Café tenant")
    for route in held:
        route.continue_()
    expect(page.get_by_role("grid", name="Board of Tenant editor")).to_be_visible()
