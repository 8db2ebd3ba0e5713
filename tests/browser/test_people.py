"""What different people meet: conflicts, closed places, slowed guesses, going back and forth."""

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import INES, ODILE
from tests.browser.picking import put_date
from tests.browser.test_assign import apply
from tests.browser.test_define import cell, tray

LUDO = "ludo@agency.example"


def test_guessing_is_slowed_and_told(open_as):
    page = open_as()
    page.get_by_label("E-mail address").fill(INES)
    for _ in range(12):  # the first wait is short: on a slow machine it is over before the next guess
        page.get_by_label("Password").fill("a guess")
        with page.expect_response(lambda answer: answer.request.method == "POST") as answer:
            page.get_by_role("button", name="Sign in").click()
        if answer.value.status == 429:
            break
    expect(page.get_by_role("alert")).to_contain_text("before the next try")


def test_an_empty_form_names_both_fields(open_as):
    page = open_as()
    page.get_by_role("button", name="Sign in").click()
    expect(page.get_by_role("alert")).to_have_count(2)


def test_signing_out(open_as):
    page = open_as(ODILE, "/define")
    page.get_by_role("button", name="Odile Varga").click()
    page.get_by_role("menuitem", name="Sign out").click()
    expect(page).to_have_url("/sign-in")
    page.goto("/define")
    expect(page).to_have_url("/sign-in?to=%2Fdefine")


def test_two_stewards_on_one_answer_lose_nothing(open_as):
    odile = open_as(ODILE, "/define/tenant-editor?cell=event.edit")
    ludo = open_as(LUDO, "/define/tenant-editor?cell=event.edit")
    odile.get_by_role("radio", name="Team").click()
    expect(tray(odile)).to_contain_text("1 change staged")
    cell(odile, "event.move").click()
    odile.keyboard.press("o")
    expect(tray(odile)).to_contain_text("2 changes staged")
    ludo.get_by_role("radio", name="All").click()
    expect(tray(ludo)).to_contain_text("1 change staged")
    apply(ludo)

    odile.reload()
    odile.get_by_role("button", name="Review and apply").click()
    review = odile.get_by_role("dialog", name="Review and apply")
    expect(review).to_contain_text("Changed by someone else since you staged it.")
    expect(review.get_by_role("button", name="Apply 2 changes")).to_be_disabled()
    review.get_by_role("button", name="Drop: Tenant editor: edit events").click()
    review.get_by_role("button", name="Apply 1 change").click()
    expect(review).to_have_count(0)
    expect(cell(odile, "event.edit").locator("svg")).to_have_attribute("data-extent", "all")
    expect(cell(odile, "event.move").locator("svg")).to_have_attribute("data-extent", "own")


def test_a_lead_sees_the_roster_and_gives_nothing(open_as):
    page = open_as("bashir@skerrow.example", "/assign/ines")
    expect(page.get_by_role("navigation", name="Places")).to_contain_text("Assign")
    expect(page.get_by_role("navigation", name="Places")).not_to_contain_text("Define")
    expect(page.get_by_role("heading", name="Ines Marrow")).to_be_visible()
    expect(page.get_by_role("button", name="Give a role")).to_have_count(0)
    expect(page.get_by_role("button", name="What to do with")).to_have_count(0)


def test_standing_in_for_someone_with_more_is_refused_in_words(open_as):
    page = open_as("bashir@skerrow.example", "/assign/ludo")
    page.get_by_role("button", name="Stand in", exact=True).click()
    expect(page.get_by_role("alert")).to_contain_text("You may not stand in for Ludo Farrant.")
    expect(page.get_by_role("alert")).to_contain_text("read the ledger")
    expect(page.get_by_role("alert")).to_contain_text("and you may not.")


def test_standing_in_from_verify_leads_back_to_verify(open_as):
    page = open_as(LUDO, "/verify")
    page.get_by_placeholder("An account, a role, a group").fill("odile")
    expect(page.get_by_text("Odile Varga")).to_have_count(0)  # a keyholder: that would plainly fail
    page.get_by_placeholder("An account, a role, a group").fill("osric")
    page.get_by_role("button", name="Stand in for Osric Lindahl", exact=True).click()
    expect(page.get_by_role("region", name="Standing in")).to_contain_text("Museum keeper")
    page.get_by_role("button", name="Step out").click()
    expect(page).to_have_url("/verify")


def test_a_keyholder_has_no_board_to_change(open_as):
    page = open_as(LUDO, "/assign/odile")
    expect(page.get_by_text("Odile Varga is a keyholder.")).to_be_visible()
    expect(page.get_by_role("table")).to_have_count(0)


def order(page: Page) -> list[str]:
    return [c.get_attribute("data-component") or "" for c in page.locator("[data-component]").all()]


def test_whoever_may_lay_out_a_page_builds_it(open_as):
    page = open_as(LUDO, "/desk/p5-cafe")
    page.locator('[data-component="p5-cafe-heading"]').click()
    page.get_by_role("button", name="Move down").click()
    assert order(page)[1:3] == ["p5-cafe-text", "p5-cafe-heading"]
    page.get_by_role("button", name="Add a part", exact=True).click()
    page.get_by_role("menuitem", name="Button").click()
    page.locator("[data-component]").last.click()
    page.get_by_label("Label").fill("Book a table")
    page.get_by_label("Link").fill("javascript:alert(1)")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_text("A link begins with https:, mailto: or tel:").first).to_be_visible()
    expect(page.get_by_label("Label")).to_have_text("Book a table")
    page.get_by_label("Link").fill("mailto:soup@cafe.example")
    page.locator('[data-component="p5-cafe-picture"]').click()
    page.get_by_role("group", name="Media").get_by_role("button", name="Picture").click()
    pictures = page.get_by_role("dialog", name="Choose a picture")
    pictures.get_by_label("Words of a title").fill("nets")
    expect(pictures.get_by_role("list", name="Pictures").get_by_role("button")).to_have_count(1)
    pictures.get_by_role("button", name="Nets drying").click()
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("button", name="Revert")).to_have_count(0)
    page.reload()
    expect(page.locator("[data-component]")).to_have_count(6)
    assert order(page)[1:3] == ["p5-cafe-text", "p5-cafe-heading"]
    expect(page.locator("[data-component] img")).to_have_attribute("src", re.compile("^/files/pic-nets"))
    visitor = open_as(None, "/site/harbour/moorings/berth-directory/pier-5/pier-5-cafe")
    expect(visitor.get_by_role("link", name="Book a table")).to_have_attribute("href", "mailto:soup@cafe.example")


def test_media_have_their_own_tree_and_their_own_section(open_as):
    page = open_as("yara@skerrow.example", "/desk")
    page.get_by_role("button", name="Media").click()
    page.locator('[role=treeitem][data-node="museum-pictures"]').click()
    page.keyboard.press("ArrowRight")
    page.locator('[role=treeitem][data-node="pic-mould-loft"]').click()
    page.get_by_label("Described in words").fill("Chalk on black")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("button", name="Revert")).to_have_count(0)
    expect(page.locator("section img")).to_have_attribute("alt", "Chalk on black")
    intern = open_as("aiko@skerrow.example", "/desk")
    expect(intern.get_by_role("button", name="Media")).to_have_count(0)


def test_back_and_forward_lead_through_places_and_what_was_chosen(open_as):
    page = open_as(ODILE, "/define/pilot?cell=notice.edit")
    page.get_by_role("link", name="Tenant editor").click()
    expect(page.get_by_role("heading", name="Tenant editor")).to_be_visible()
    page.get_by_role("link", name="Limit").click()
    page.get_by_role("tab", name="Fields").click()
    expect(page.get_by_text("Hazard level")).to_be_visible()
    page.go_back()
    page.go_back()
    expect(page.get_by_role("heading", name="Tenant editor")).to_be_visible()
    page.go_back()
    expect(page.get_by_test_id("sentence")).to_have_text("Holders of Pilot may edit all notices to mariners.")
    page.go_forward()
    expect(page.get_by_role("heading", name="Tenant editor")).to_be_visible()


def test_the_address_follows_a_key_held_down_to_where_it_ends(open_as):
    page = open_as(ODILE, "/define/tenant-editor?cell=home.see")
    page.locator('[data-capability="home.see"]').focus()
    for _ in range(6):
        page.keyboard.press("ArrowDown")
    expect(page.locator('[data-capability="article.see"]')).to_be_focused()
    expect(page).to_have_url(re.compile(r"/define/tenant-editor\?cell=article\.see$"))


SIX_DOWN = """async () => {
    for (let i = 0; i < 6; i++) {
        document.activeElement.dispatchEvent(new KeyboardEvent('keydown', {key: 'ArrowDown', bubbles: true}));
        await new Promise(requestAnimationFrame);
    }
}"""


def test_what_stands_around_cells_is_asked_for_where_one_comes_to_rest(open_as):
    page = open_as(ODILE, "/define/tenant-editor?cell=home.edit")
    panel = page.get_by_role("complementary", name="The chosen answer")
    expect(panel).to_contain_text("Nothing is expected here yet.")
    asked = []
    page.on("request", lambda request: asked.append(request.url) if "/cell/expectations" in request.url else None)
    page.locator('[data-capability="home.edit"]').focus()
    page.evaluate(SIX_DOWN)
    expect(page.get_by_test_id("sentence")).to_contain_text("articles")
    page.locator('[data-capability="event.edit"]').click()
    expect(panel).to_contain_text('Edda Nwosu may not edit "Open day" (open-day)')
    cells = [url.partition("capability=")[2] for url in asked]
    assert cells[-1] == "event.edit"
    assert not {"notice.edit", "berth.edit"} & {*cells}, "passed by"


def test_what_was_typed_last_does_not_follow_whoever_goes_elsewhere(open_as):
    page = open_as(ODILE, "/define/pilot")
    page.get_by_role("link", name="Tenant editor").click()
    expect(page.get_by_role("heading", name="Tenant editor")).to_be_visible()
    page.clock.install()
    page.get_by_label("Filter capabilities by words").press_sequentially("race")
    page.go_back()
    expect(page.get_by_role("heading", name="Pilot")).to_be_visible()
    page.clock.run_for(1_000)
    expect(page).to_have_url(re.compile("/define/pilot$"))
    expect(page.get_by_label("Filter capabilities by words")).to_have_value("")


def test_long_names_stay_in_their_place(open_as):
    page = open_as(ODILE, "/assign/olu")
    expect(page.get_by_role("heading", name="Olu Castlereagh-Wintermantel van der Skerrow")).to_be_visible()
    wide = "e => e.scrollWidth > e.clientWidth + 1"
    assert not page.get_by_role("region", name="Roster").evaluate(wide)
    assert not page.get_by_role("region", name="Olu Castlereagh").evaluate(wide)


def test_a_screen_drawn_for_other_eyes_changes_nothing(open_as):
    """Standing in begins in another tab; what was typed here stays, and is not saved as anybody's."""
    page = open_as(ODILE, "/desk/p3-sail-loft")
    page.get_by_label("Telephone").fill("1111")
    token = next(c["value"] for c in page.context.cookies() if c["name"] == "csrftoken")
    sent = {"X-CSRFToken": token, "Referer": page.url}
    began = page.context.request.post("/api/stand-in", data={"account": "ines"}, headers=sent)
    assert began.status == 204
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_text("Nothing was changed; look again first.")).to_be_visible()
    expect(page.get_by_text("Look only")).to_be_visible()
    expect(page.get_by_label("Annual dues")).to_be_disabled()  # all of it is drawn for her by now
    saved = page.context.request.get("/api/desk/pages/p3-sail-loft").json()
    assert "1111" not in [field["value"] for field in saved["fields"]]


def test_somebody_is_looked_at_as_they_will_be(open_as):
    """Aiko’s role ends within a few weeks; in a year nothing is open to her."""
    page = open_as(ODILE, "/assign/aiko")
    page.get_by_role("button", name="More", exact=True).click()
    page.get_by_role("menuitem", name="Rehearse, or on a date…").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_role("button", name="On a date").click()
    put_date(dialog, "Which moment", "2001-01-01T09:00")
    expect(dialog).to_contain_text("over the pages as they are now")
    dialog.get_by_role("button", name="In a year").click()
    expect(dialog).to_contain_text("what ends by then is over")
    dialog.get_by_role("button", name="Stand in", exact=True).click()
    strip = page.get_by_role("region", name="Standing in")
    expect(strip).to_contain_text("as of")
    expect(page.get_by_role("heading", name="Desk is closed to Aiko Lindqvist")).to_be_visible()
    strip.get_by_role("button", name="Step out").click()
    expect(page).to_have_url(re.compile("/assign/aiko"))


def test_whoever_looks_on_looks_for_longer_and_the_other_is_told_of_it(open_as):
    page = open_as(ODILE, "/assign/ines")
    page.get_by_role("button", name="Stand in", exact=True).click()
    strip = page.get_by_role("region", name="Standing in")
    expect(strip).to_contain_text("Ines Marrow")
    with page.expect_response(lambda answer: answer.request.method == "PATCH") as answered:
        strip.get_by_role("button", name="Longer").click()
    assert answered.value.status == 204
    expect(strip).to_contain_text(re.compile("(30:00|29:5.) left"))
    strip.get_by_role("button", name="Step out").click()
    expect(page).to_have_url(re.compile("/assign/ines"))
    own = open_as(INES, "/me")
    expect(own.get_by_role("heading", name="Who stood in for you")).to_be_visible()
    expect(own.get_by_text("Odile Varga")).to_be_visible()
