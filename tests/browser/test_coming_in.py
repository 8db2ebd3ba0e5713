"""Coming in with a second factor, what is asked on arrival, and one's own portrait."""

import os
import re
from datetime import timedelta
from io import BytesIO

import pyotp
from PIL import Image
from playwright.sync_api import Page, expect

from gonfalon.clock import now
from tests.browser.conftest import INES, ODILE, sign_in_by_form
from tests.browser.picking import pick

PASSWORD = os.environ.get("GONFALON_DEMO_PASSWORD", "")


def code_of(secret: str, steps: int) -> str:
    return pyotp.TOTP(secret).at(now() + timedelta(seconds=30 * steps))


def set_up_codes(page: Page) -> str:
    """Add an app for codes on the page about that; its secret."""
    page.get_by_role("button", name="Codes from an app").click()
    form = page.get_by_role("form", name="Codes from an app")
    secret = form.get_by_text(re.compile("^[A-Z2-7]{32}$")).inner_text()
    form.get_by_label("Code the app shows now").fill("000000")
    form.get_by_role("button", name="That is it").click()
    expect(form.get_by_role("alert")).to_contain_text("does not fit")
    form.get_by_label("Code the app shows now").fill(code_of(secret, 0))
    form.get_by_role("button", name="That is it").click()
    expect(page.get_by_text("Write these down")).to_be_visible()
    page.get_by_role("button", name="I have them").click()
    return secret


def test_codes_are_set_up_asked_for_and_taken_away(open_as):
    page = open_as(INES, "/me")
    page.get_by_role("button", name="Add one").click()
    secret = set_up_codes(page)
    expect(page.get_by_text("10 recovery codes are left.")).to_be_visible()

    other = open_as()
    sign_in_by_form(other, INES)
    expect(other.get_by_role("heading", name="One thing more")).to_be_visible()
    other.get_by_label("Code").fill("123456")
    other.get_by_role("button", name="Sign in").click()
    expect(other.get_by_role("alert")).to_contain_text("not the code of now")
    other.get_by_label("Code").fill(code_of(secret, 1))
    other.keyboard.press("Enter")
    expect(other).to_have_url("/desk")

    page.get_by_role("button", name="Take App for codes away").click()
    expect(page.get_by_role("button", name="Add one")).to_be_visible()


def test_a_passkey_is_made_and_shown(open_as):
    page = open_as(INES, "/me")
    devices = page.context.new_cdp_session(page)
    devices.send("WebAuthn.enable")
    options = {"protocol": "ctap2", "transport": "internal", "hasResidentKey": True, "hasUserVerification": True}
    options |= {"isUserVerified": True, "automaticPresenceSimulation": True}
    devices.send("WebAuthn.addVirtualAuthenticator", {"options": options})
    page.get_by_role("button", name="Add one").click()
    page.get_by_role("button", name="A passkey").click()
    expect(page.get_by_text("Write these down")).to_be_visible()
    page.get_by_role("button", name="I have them").click()
    expect(page.get_by_text("Passkey of")).to_be_visible()

    page.get_by_role("button", name="Ines Marrow").click()
    page.get_by_role("menuitem", name="Sign out").click()
    expect(page).to_have_url("/sign-in")
    sign_in_by_form(page, INES)
    page.get_by_role("button", name="Show the passkey").click()
    expect(page).to_have_url("/desk")


def test_what_is_asked_on_arrival_binds_whoever_comes(open_as):
    page = open_as(ODILE, "/assign/arrival")
    pick(page, "+ role", "Tenant editor")
    page.get_by_label("Telephone").check()
    page.get_by_role("button", name="Ask for this").click()
    expect(page.get_by_text("Asked from now on.")).to_be_visible()
    asked = page.get_by_role("region", name="Who will be asked")
    expect(asked.get_by_role("listitem").filter(has_text="Ines Marrow")).to_contain_text("second factor, Telephone")

    other = open_as()
    sign_in_by_form(other, INES)
    expect(other.get_by_role("heading", name="Before you go on, Ines")).to_be_visible()
    set_up_codes(other)
    other.get_by_label("Telephone").fill("0550 014 320")
    other.get_by_role("button", name="Save and go on").click()
    expect(other).to_have_url("/desk")
    page.reload()
    expect(asked.get_by_role("listitem").filter(has_text="Ines Marrow")).to_have_count(0)


def test_a_portrait_is_cut_and_shown(open_as):
    written = BytesIO()
    Image.new("RGB", (300, 200), "teal").save(written, "PNG")
    page = open_as(ODILE, "/me")
    page.get_by_role("button", name="Add a portrait").click()
    dialog = page.get_by_role("dialog", name="Portrait")
    dialog.get_by_label("Picture").set_input_files(
        {"name": "notes.png", "mimeType": "image/png", "buffer": b"no picture"}
    )
    dialog.get_by_role("button", name="Keep this").click()
    expect(dialog.get_by_role("alert")).to_contain_text("no picture that can be read")
    dialog.get_by_label("Picture").set_input_files(
        {"name": "me.png", "mimeType": "image/png", "buffer": written.getvalue()}
    )
    dialog.get_by_label("Closer").fill("2")
    dialog.get_by_role("button", name="Keep this").click()
    expect(dialog).to_have_count(0)
    shown = page.locator("main img")
    expect(shown).to_have_attribute("src", re.compile("/api/accounts/odile/portrait"))
    assert shown.evaluate("(image) => image.decode().then(() => image.naturalWidth)") == 256


def test_the_door_asks_again_before_a_risky_act_and_goes_on_with_it(open_as, harbour_served):
    page = open_as(ODILE, "/me")
    harbour_served.sql("UPDATE accounts_signin SET proved_at = '2026-01-01'")
    page.get_by_label("E-mail address").fill("odile@post.example")
    page.get_by_role("form", name="Who you are").get_by_role("button", name="Save").click()
    dialog = page.get_by_role("dialog", name="Is it still you?")
    dialog.get_by_label("Password").fill("not it")
    dialog.get_by_role("button", name="Go on").click()
    expect(dialog.get_by_role("alert")).to_contain_text("not your password")
    dialog.get_by_label("Password").fill(PASSWORD)
    dialog.get_by_role("button", name="Go on").click()
    expect(page.get_by_text("Look at the mail of odile@post.example.")).to_be_visible()


def test_a_password_that_somebody_else_made_is_changed_at_the_first_sign_in(open_as):
    page = open_as(ODILE, "/assign")
    token = next(c["value"] for c in page.context.cookies() if c["name"] == "csrftoken")
    sent = {"people": [{"name": "Ada Sund", "email": "ada@post.example"}], "how": "password"}
    made = page.context.request.post("/api/accounts", data=sent, headers={"X-CSRFToken": token, "Referer": page.url})
    given = made.json()["people"][0]["password"]

    hers = open_as()
    hers.get_by_label("E-mail address").fill("ada@post.example")
    hers.get_by_label("Password").fill(given)
    hers.get_by_role("button", name="Sign in").click()
    expect(hers.get_by_role("heading", name="Before you go on, Ada")).to_be_visible()
    form = hers.get_by_role("form", name="Your password")
    form.get_by_label("Password you were given").fill(given)
    form.get_by_label("New password").fill(given)
    form.get_by_role("button", name="Choose it and go on").click()
    expect(form.get_by_role("alert")).to_contain_text("Choose another")
    form.get_by_label("New password").fill("copper kettle drifting north")
    form.get_by_role("button", name="Choose it and go on").click()
    expect(hers.get_by_role("heading", name="Before you go on, Ada")).to_have_count(0)


def test_an_address_that_waits_is_shown_and_taken_back(open_as):
    page = open_as(INES, "/me")
    form = page.get_by_role("form", name="Who you are")
    form.get_by_label("E-mail address").fill("ines@post.example")
    form.get_by_role("button", name="Save").click()
    expect(form.get_by_text("waits to be confirmed")).to_contain_text("You asked for it")
    theirs = open_as(ODILE, "/assign/ines")
    expect(theirs.get_by_text("ines@post.example waits to be confirmed")).to_be_visible()
    form.get_by_role("button", name="Take it back").click()
    expect(form.get_by_text("waits to be confirmed")).to_have_count(0)
    theirs.reload()
    expect(theirs.get_by_role("heading", name="Ines Marrow")).to_be_visible()
    expect(theirs.get_by_text("waits to be confirmed")).to_have_count(0)


def test_ones_own_account_is_not_asked_for_while_standing_in(open_as):
    page = open_as(ODILE, "/assign/ines")
    refused = []
    page.on("response", lambda response: refused.append(response.url) if response.status >= 400 else None)
    page.get_by_role("button", name="Stand in", exact=True).click()
    expect(page.get_by_text("Look only")).to_be_visible()
    page.goto("/me")
    expect(page.get_by_role("heading", name="This is about your own account")).to_be_visible()
    page.get_by_role("button", name="Step out").click()
    expect(page.get_by_role("heading", name="Ines Marrow")).to_be_visible()
    assert refused == []
