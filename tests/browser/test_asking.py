"""Asking where one was refused, deciding about it, handing out under a delegation, reviews, and lists of people."""

import re

from playwright.sync_api import expect

from tests.browser.conftest import INES, ODILE
from tests.browser.picking import put_date

JOOST = "joost@regatta.example"
TOMASZ = "tomasz@skerrow.example"


def test_a_refusal_is_asked_about_and_granted_for_a_time(open_as):
    page = open_as(INES, "/desk/fees")
    page.get_by_role("button", name="Ask…").click()
    page.get_by_role("menuitem", name="Edit").click()
    dialog = page.get_by_role("dialog", name="Ask to edit this page")
    dialog.get_by_label("A word to those who decide").fill("The sail loft pays by the metre now.")
    dialog.get_by_role("button", name="Ask").click()
    expect(dialog.get_by_role("status")).to_contain_text("Asked.")

    inbox = open_as(ODILE, "/assign/requests")
    inbox.get_by_role("button", name=re.compile("Ines Marrow")).click()
    expect(inbox.get_by_role("heading", name="Ines Marrow asks to edit “Fees and dues”")).to_be_visible()
    expect(inbox.get_by_text("The sail loft pays by the metre now.")).to_be_visible()
    put_date(inbox, "Until", "2099-01-02T12:00")
    inbox.get_by_role("button", name="Give it until").first.click()
    expect(inbox.get_by_text(re.compile("^granted until 2 Jan 2099")).first).to_be_visible()

    page.goto("/me")
    asked = page.get_by_role("listitem").filter(has_text="Fees and dues")
    expect(asked).to_contain_text("granted until 2 Jan 2099")
    page.goto("/desk/fees")
    expect(page.get_by_role("button", name="Save")).to_be_visible()


def test_it_is_declined_with_a_word(open_as):
    inbox = open_as(ODILE, "/assign/requests/request-2")
    inbox.get_by_label("Or decline, with a word").fill("The duty editor does that.")
    inbox.get_by_role("button", name="Decline").click()
    expect(inbox.get_by_text(re.compile("^declined")).first).to_be_visible()


def test_a_lead_hands_out_within_their_own(open_as):
    page = open_as(JOOST, "/hand-out")
    may = "You may give Regatta crew on the site Skerrow Regatta to members of Volunteers"
    expect(page.get_by_text(may)).to_be_visible()
    page.get_by_role("button", name="Give a role to Carys Bellweather").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_role("button", name="Only on").click()
    expect(page.get_by_role("option", name="Moorings")).to_have_count(0)
    popover = page.get_by_role("dialog", name="Choose a")
    popover.get_by_placeholder("Part of a name").fill("Races")
    popover.get_by_role("option", name="Races Skerrow Regatta").click()
    expect(popover).to_have_count(0)
    dialog.get_by_role("button", name="Give it").click()
    line = page.get_by_role("listitem").filter(has_text="Carys Bellweather")
    expect(line).to_contain_text("Regatta crew")
    expect(line).to_contain_text("on Races on the site Skerrow Regatta")
    line.get_by_role("button", name="End Regatta crew").click()
    expect(line).not_to_contain_text("Regatta crew")


def test_a_delegation_is_made_staged_and_ended(open_as):
    page = open_as(ODILE, "/assign/handing-out")
    row = page.get_by_role("listitem").filter(has_text="Joost Calder")
    expect(row).to_contain_text("to Volunteers")
    row.get_by_role("button", name="End").click()
    expect(row.get_by_role("img", name="staged")).to_be_visible()


def test_a_reviewer_ends_with_a_reason(open_as):
    page = open_as(TOMASZ, "/reviews/review-1")
    line = page.get_by_role("listitem").filter(has_text="Ciaran Ubukata")
    line.get_by_role("button", name="End").click()
    expect(line.get_by_role("alert")).to_have_text("Say why it ends.")
    line.get_by_label("Why, for Ciaran Ubukata").fill("Went back to school.")
    line.get_by_role("button", name="End").click()
    page.get_by_role("dialog", name="End what Ciaran Ubukata has").get_by_role("button", name="End it").click()
    expect(line).to_contain_text("Ended by Tomasz Okafor")


def test_a_list_is_looked_at_before_it_is_brought_in(open_as):
    page = open_as(ODILE, "/assign")
    page.get_by_role("button", name="Bring in a list").click()
    dialog = page.get_by_role("dialog", name="Bring in a list")
    dialog.get_by_label("The table").fill("name;email;roles\nAda Sund;ada@post.example;Redaktør\n;nonsense;\n")
    dialog.get_by_role("button", name="Look what it would do").click()
    expect(dialog.get_by_text("Line 3, email: “nonsense” is not an e-mail address.")).to_be_visible()
    expect(dialog.get_by_role("button", name="Bring them in")).to_be_disabled()
    dialog.get_by_label("The table").fill("name;email;roles\nAda Sund;ada@post.example;Redaktør\n")
    dialog.get_by_role("button", name="Look what it would do").click()
    dialog.get_by_role("button", name="Not said yet").click()
    page.get_by_placeholder("Part of a name").fill("Duty")
    page.keyboard.press("Enter")
    expect(dialog.get_by_text("1 new, 0 added to")).to_be_visible()
    dialog.get_by_role("button", name="Bring them in").click()
    expect(dialog.get_by_text("1 account made")).to_be_visible()


def test_ones_own_password_and_sessions(open_as):
    page = open_as(INES, "/me")
    expect(page.get_by_text("this one")).to_be_visible()
    page.get_by_label("Password you have now").fill("nonsense")
    page.get_by_label("New password").fill("harbour")
    expect(page.get_by_role("alert")).to_contain_text("too short")
    page.get_by_label("New password").fill("copper kettle drifting north")
    expect(page.get_by_text("That will do.")).to_be_visible()
    page.get_by_role("button", name="Change it").click()
    expect(page.get_by_role("alert")).to_have_text("This is not your password.")


def test_a_forgotten_password_is_asked_for_at_the_door(open_as):
    page = open_as(None, "/sign-in")
    page.get_by_role("button", name="Forgotten the password?").click()
    page.get_by_label("E-mail address").fill("nobody@nowhere.example")
    page.get_by_role("button", name="Send the link").click()
    expect(page.get_by_role("heading", name="Look at your mail")).to_be_visible()
    page.goto("/welcome#nonsense")
    expect(page.get_by_role("heading", name="This link is over")).to_be_visible()
