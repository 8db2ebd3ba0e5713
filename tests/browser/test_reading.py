"""Somebody who may not open the desk: they sign in from the public site, and read it as who they are."""

import os

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import sign_in_by_form

VIGGO = "viggo@regatta.example"
EVENTS = "/site/harbour/events"


@pytest.fixture
def viggo_reads_only(harbour_served):
    """Nothing is given to him any more; what he signs in with stays."""
    harbour_served.sql(
        "DELETE FROM access_assignment WHERE account_id = 'viggo';"
        "DELETE FROM accounts_membership WHERE account_id = 'viggo';"
        "UPDATE access_policyversion SET number = number + 1"
    )


def test_a_registered_visitor_signs_in_from_the_site_and_goes_on_reading(viggo_reads_only, open_as):
    page = open_as(None, EVENTS)
    page.get_by_role("link", name="Sign in").click()
    sign_in_by_form(page, VIGGO)
    page.wait_for_url(f"**{EVENTS}")
    expect(page.get_by_text("Reading as Viggo")).to_be_visible()
    page.get_by_role("link", name="Your account").click()
    expect(page.get_by_role("heading", name="Your account")).to_be_visible()


def test_whoever_has_no_place_is_led_to_the_site(viggo_reads_only, open_as):
    page = open_as(None, "/sign-in")
    sign_in_by_form(page, VIGGO)
    page.wait_for_url("**/site/harbour/")
    expect(page.get_by_text("Reading as Viggo")).to_be_visible()


def test_a_registered_visitor_takes_their_account_away(viggo_reads_only, open_as):
    page = open_as(VIGGO, "/me")
    page.get_by_role("button", name="Take my account away").click()
    dialog = page.get_by_role("dialog", name="Take your account away")
    dialog.get_by_label("Your password").fill("not it")
    dialog.get_by_role("button", name="Take it away").click()
    expect(dialog.get_by_role("alert")).to_have_text("This is not your password.")
    dialog.get_by_label("Your password").fill(os.environ["GONFALON_DEMO_PASSWORD"])
    dialog.get_by_role("button", name="Take it away").click()
    page.wait_for_url("**/site/harbour/")
    expect(page.get_by_role("link", name="Sign in")).to_be_visible()
