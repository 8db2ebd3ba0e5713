"""Somebody is taken on in one step, told before what they will be able to do, and finds where they may work."""

from playwright.sync_api import expect

from tests.browser.conftest import ODILE
from tests.browser.picking import pick

GOOD = "copper kettle drifting north"


def test_somebody_is_taken_on_and_finds_where_they_may_work(open_as):
    page = open_as(ODILE, "/assign")
    page.get_by_role("link", name="Take somebody on").click()
    able = page.get_by_role("region", name="What they will be able to do")
    expect(able).to_contain_text("do what everybody may")
    page.get_by_label("Name", exact=True).fill("Sunniva Aas")
    page.get_by_label("E-mail address").fill("ines@sailloft.example")
    pick(page, "+ role", "Tenant editor Berth")
    expect(able).to_contain_text("create articles")
    page.get_by_role("button", name="Where and when Tenant editor holds").click()
    page.get_by_role("treeitem", name="Notices to mariners").click()
    expect(page.get_by_text("on Notices to mariners and what is beneath").first).to_be_visible()
    page.get_by_text("With a password").click()
    page.get_by_role("button", name="Make them").click()
    expect(page.get_by_text("Another account has this address.").first).to_be_visible()
    page.get_by_label("E-mail address").fill("sunniva@post.example")
    page.get_by_role("button", name="Make them").click()
    password = page.get_by_role("code").inner_text()

    theirs = open_as()
    theirs.get_by_label("E-mail address").fill("sunniva@post.example")
    theirs.get_by_label("Password").fill(password)
    theirs.get_by_role("button", name="Sign in").click()
    theirs.get_by_label("Password you were given").fill(password)
    theirs.get_by_label("New password").fill(GOOD)
    theirs.get_by_role("button", name="Choose it and go on").click()
    work = theirs.get_by_role("region", name="Where you may work")
    expect(work.get_by_role("link", name="Notices to mariners")).to_be_visible()
    expect(theirs.get_by_role("link", name="Waiting")).to_have_count(0)
    expect(theirs.get_by_role("link", name="Bin")).to_have_count(0)
    theirs.get_by_role("button", name="New", exact=True).click()
    expect(theirs.get_by_role("dialog")).not_to_contain_text("Nothing may be made there")


def test_whoever_was_taken_on_is_taken_off_again(open_as):
    page = open_as(ODILE, "/assign/new")
    page.get_by_label("Name", exact=True).fill("Sunniva Aas")
    page.get_by_label("E-mail address").fill("sunniva@post.example")
    pick(page, "+ group", "Volunteers")
    page.get_by_role("button", name="Invite them").click()
    expect(page.get_by_role("status").filter(has_text="a letter is on its way")).to_be_visible()
    page.get_by_role("button", name="Take it back").click()
    expect(page.get_by_role("status").filter(has_text="their accounts are disabled")).to_be_visible()
    page.goto("/assign?search=sunniva&show=disabled")
    expect(page.get_by_text("Sunniva Aas")).to_be_visible()
