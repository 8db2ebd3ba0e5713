"""Standing in, looking only, the X-ray, why, and expectations that hold or break."""

from playwright.sync_api import Page, expect

from tests.browser.conftest import ODILE
from tests.browser.picking import pick
from tests.browser.test_assign import apply, give


def stand_in_for_ines(open_as) -> Page:
    page = open_as(ODILE, "/assign/ines?group=pier-3")
    page.get_by_role("button", name="Stand in", exact=True).click()
    expect(page.get_by_role("region", name="Standing in")).to_contain_text("Standing in for Ines Marrow")
    return page


def item(page: Page, node: str):
    return page.locator(f'[role=treeitem][data-node="{node}"]')


def test_the_desk_as_that_person_has_it_and_back_where_one_was(open_as):
    page = stand_in_for_ines(open_as)
    strip = page.get_by_role("region", name="Standing in")
    expect(strip).to_contain_text("Look only")
    expect(page.get_by_role("navigation", name="Places")).to_have_text("Desk")
    expect(item(page, "moorings")).to_be_visible()
    expect(item(page, "harbour-office")).to_have_count(0)
    page.goto("/desk/p3-sail-loft")
    expect(page.get_by_label("Telephone")).to_have_value("0550 014 320")
    expect(page.get_by_role("button", name="Publish")).to_have_count(0)
    expect(page.get_by_role("button", name="Save")).to_be_disabled()
    strip.get_by_role("button", name="Step out").click()
    expect(page).to_have_url("/assign/ines?group=pier-3")
    expect(page.get_by_role("heading", name="Ines Marrow")).to_be_visible()


def test_the_server_refuses_every_writing_request(open_as):
    page = stand_in_for_ines(open_as)
    status, problem = page.evaluate(
        """async () => {
            const token = document.cookie.match(/csrftoken=([^;]+)/)[1];
            const answer = await fetch('/api/desk/pages/p3-sail-loft', {
                method: 'PATCH',
                headers: {'Content-Type': 'application/json', 'X-CSRFToken': token, 'If-Match': '"1"'},
                body: JSON.stringify({title: 'Mine'}),
            });
            return [answer.status, await answer.json()];
        }"""
    )
    assert (status, problem["reason"]) == (403, "look-only")
    page.goto("/desk/p3-sail-loft")
    expect(page.get_by_label("Title", exact=True)).to_have_value("Pier 3, Sail loft")


def test_a_page_they_may_not_see_says_so_and_why(open_as):
    page = stand_in_for_ines(open_as)
    page.goto("/desk/min-2026-10")
    expect(page.get_by_role("heading", name="Not there for this account")).to_be_visible()
    expect(page.get_by_text("A limit on Harbour office bars it for Tenants.")).to_be_visible()


def test_the_xray_shows_what_is_hidden_with_its_reason(open_as):
    page = open_as(ODILE, "/limit?tab=fields&type=berth&field=berth.dues")
    page.get_by_role("button", name="Tenant editor: see").press("Backspace")
    apply(page)
    page.goto("/assign/ines")
    page.get_by_role("button", name="Stand in", exact=True).click()
    expect(page.get_by_role("region", name="Standing in")).to_be_visible()
    page.goto("/desk/p3-sail-loft")
    expect(page.get_by_label("Telephone")).to_be_visible()
    expect(page.get_by_text("Annual dues")).to_have_count(0)
    expect(item(page, "harbour-office")).to_have_count(0)

    page.get_by_role("button", name="X-ray").click()
    expect(item(page, "harbour-office")).to_have_attribute("data-look", "ghost")
    expect(item(page, "harbour-office")).to_contain_text("barred")
    page.get_by_label("Part of a title").fill("minutes of oct")
    expect(item(page, "min-2026-10")).to_contain_text("barred")
    page.get_by_label("Part of a title").fill("")
    dues = page.locator('[data-closed="Annual dues"]')
    expect(dues).to_contain_text("hidden field")
    dues.get_by_role("button").click()
    expect(page.get_by_role("dialog", name="Why")).to_contain_text("open to Duty editor, Harbour lead only")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Publish").click()
    why = page.get_by_role("dialog", name="Why")
    expect(why).to_contain_text("Why can’t Ines publish this page?")
    expect(why).to_contain_text("Tenant editor says publish berth pages is withheld.")
    expect(why.locator("svg[data-colour=ochre][data-pattern=halved]")).to_be_visible()


def test_why_is_told_for_any_action_allowed_or_not(open_as):
    page = stand_in_for_ines(open_as)
    page.goto("/desk/p3-sail-loft")
    page.get_by_role("button", name="Why?").click()
    actions = page.get_by_role("dialog")
    actions.get_by_role("button", name="edit may").click()
    expect(actions).to_contain_text("Why can Ines edit this page?")
    expect(actions).to_contain_text("gives edit berth pages (own)")
    actions.get_by_role("button", name="Other actions").click()
    actions.get_by_role("button", name="remove may not").click()
    expect(actions).to_contain_text("Why can’t Ines remove this page?")


def test_an_expectation_recorded_there_holds_until_something_breaks_it(open_as):
    page = stand_in_for_ines(open_as)
    page.goto("/desk/winter-rates")
    page.get_by_role("button", name="Expect this").click()
    dialog = page.get_by_role("dialog", name="Expect this")
    expect(dialog).to_contain_text("Winter rates")
    expect(dialog).to_contain_text("That is how it stands now.")
    dialog.get_by_label("Note").fill("The board sets the rates")
    dialog.get_by_role("button", name="Record it").click()
    expect(dialog).to_have_count(0)
    page.get_by_role("button", name="Step out").click()
    expect(page.get_by_role("region", name="Standing in")).to_have_count(0)

    page.goto("/verify")
    row = page.get_by_role("row").filter(has_text="Winter rates")
    expect(row).to_contain_text("Ines Marrow may not edit Winter rates")
    expect(row.locator("svg")).to_have_attribute("data-holds", "true")

    page.goto("/assign/ines")
    give(page, "Site steward", branch="Fees and dues")
    expect(page.get_by_role("region", name="Staged changes")).to_contain_text("1 expectation would break")
    apply(page)
    page.goto("/verify")
    expect(row.locator("svg")).to_have_attribute("data-holds", "false")
    expect(row).to_contain_text("The board sets the rates")
    row.get_by_role("button", name="Why").click()
    expect(page.get_by_role("dialog", name="Why")).to_contain_text(
        "Site steward, held on Fees and dues, gives edit articles (all)."
    )


def test_one_is_broken_on_purpose_and_new_ones_are_recorded_here_too(open_as):
    page = open_as(ODILE, "/verify")
    broken = page.locator('[data-expectation="expectation-01"]')
    expect(broken).to_contain_text('Edda Nwosu may not edit "Open day" (open-day).')
    expect(broken.locator("svg")).to_have_attribute("data-holds", "false")
    page.get_by_role("button", name="New expectation").click()
    dialog = page.get_by_role("dialog", name="New expectation")
    pick(dialog, "Who", "Pilot")
    dialog.get_by_label("Action").select_option("remove")
    dialog.get_by_label("Page or branch").fill("Notices")
    dialog.get_by_role("list", name="Branches found").get_by_role("button").first.click()
    dialog.get_by_role("button", name="Record it").click()
    expect(page.get_by_role("row").filter(has_text="Holders of Pilot may not remove")).to_be_visible()
    page.get_by_role("button", name="Break 1").click()
    expect(page.locator("[data-expectation]")).to_have_count(1)
