"""Addresses that lead nowhere, and what one is told there."""

import os

from playwright.sync_api import expect

from tests.browser.conftest import INES
from tools.screenshots import fill_in_sign_in


def test_whoever_is_signed_in_stays_in_the_application(open_as):
    page = open_as(INES, "/no/such/place")
    expect(page.get_by_role("heading", name="There is nothing at this address")).to_be_visible()
    page.get_by_role("link", name="Where you begin").click()
    expect(page).to_have_url("/desk")


def test_a_visitor_reads_a_page_that_says_so(open_as):
    page = open_as(None, "/no/such/place")
    expect(page.get_by_text("There is no such address, or you may not see it.")).to_be_visible()


def test_signing_in_leads_nowhere_else(open_as):
    page = open_as(None, "/sign-in?to=/%5Celsewhere.example")
    fill_in_sign_in(page, INES, os.environ["GONFALON_DEMO_PASSWORD"])
    expect(page).to_have_url("/desk")
