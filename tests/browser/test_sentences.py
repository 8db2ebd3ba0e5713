"""Expectations as sentences: typed, completed, kept; two people at once; sentences in Ctrl K; a report asked for."""

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import ODILE

SENTENCES = "/verify?as=sentences"


def editor(page: Page):
    return page.get_by_role("textbox", name="Expectations as sentences")


def at_the_end(page: Page, text: str) -> None:
    expect(editor(page)).to_contain_text("The season:")
    editor(page).click()
    page.keyboard.press("Control+End")
    page.keyboard.type(text)


def test_a_sentence_is_typed_completed_and_kept(open_as):
    page = open_as(ODILE, SENTENCES)
    expect(page.locator(".cm-ring-breaks")).to_have_count(1)
    at_the_end(page, "\nMuseum:\nHolders of Season intern may edit the Night of lantern")
    expect(page.locator(".cm-end").last).to_have_text("is it one of these?")
    page.get_by_role("option", name="Night of lanterns").click()
    expect(editor(page)).to_contain_text("Holders of Season intern may edit Night of lanterns")
    expect(page.locator(".cm-end").last).to_have_text(re.compile("answers|once"))
    page.get_by_role("button", name="Keep what is written").click()
    expect(page.get_by_text("Kept.")).to_be_visible()
    page.get_by_role("button", name="As a list").click()
    page.get_by_role("button", name="Museum 1").click()
    expect(page.locator("[data-expectation]")).to_have_count(1)
    expect(page.locator("[data-expectation]")).to_have_text(
        re.compile("Holders of Season intern may edit Night of lanterns\\.")
    )


def test_what_makes_no_sense_is_told_and_nothing_typed_is_lost(open_as):
    page = open_as(ODILE, SENTENCES)
    at_the_end(page, "Visitors may fly")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Keep what is written").click()
    alert = page.get_by_role("alert")
    expect(alert).to_contain_text("“fly” makes no sense here")
    expect(editor(page)).to_contain_text("Visitors may fly")
    expect(page.get_by_text("Not kept yet.")).to_be_visible()


def test_two_at_once_are_told(open_as):
    page, other = open_as(ODILE, SENTENCES), open_as(ODILE, SENTENCES)
    at_the_end(page, "Visitors may see Fees and dues.")
    at_the_end(other, "Visitors may see Night of lanterns.")
    for each in (page, other):
        each.keyboard.press("Escape")
        each.get_by_role("button", name="Keep what is written").click()
    alert = other.get_by_role("alert")
    expect(alert).to_contain_text("Somebody else changed what is expected meanwhile")
    alert.get_by_role("button", name="Take theirs").click()
    expect(editor(other)).to_contain_text("Visitors may see Fees and dues.")
    expect(editor(other)).not_to_contain_text("Visitors may see Night of lanterns.")


def test_what_is_said_and_not_so_is_staged_from_beside_it(open_as):
    page = open_as(ODILE, SENTENCES)
    at_the_end(page, "Ines Marrow holds Pilot on Notices to mariners.")
    page.keyboard.press("Escape")
    aside = page.get_by_role("complementary").filter(has_text="Said and not so")
    expect(aside).to_contain_text("2 lines say what is not")
    aside.get_by_role("button", name="Stage it").click()
    expect(page.get_by_role("region", name="Staged changes")).to_contain_text("1")


def test_a_question_and_a_change_are_typed_into_find(open_as):
    page = open_as(ODILE, "/verify")
    expect(page.get_by_role("heading", name="Expectations")).to_be_visible()
    page.keyboard.press("Control+k")
    page.keyboard.type("may Ines Marrow publish Pier 3, Sail loft")
    told = page.get_by_role("region", name="The sentence")
    expect(told).to_contain_text("No: not given.")
    expect(told).to_contain_text("Let Ines Marrow alone publish berth pages")
    page.keyboard.press("Control+a")
    page.keyboard.type("Holders of Pilot may see all events.")
    expect(told).to_contain_text("That is not so.")
    told.get_by_role("button", name="Stage it").click()
    expect(told.get_by_role("button", name="Staged")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("region", name="Staged changes")).to_contain_text("1")


def test_a_report_is_asked_for(open_as):
    page = open_as(ODILE, "/verify")
    page.get_by_role("link", name="Report for a client").click()
    page.get_by_label("everything").check()
    page.get_by_label("For", exact=True).fill("the auditor")
    page.get_by_role("button", name="Make the report").click()
    expect(page.get_by_role("status").filter(has_text="Waiting for the worker")).to_be_visible()
    expect(page.get_by_role("button", name="Make the report")).to_be_disabled()


def test_what_a_role_was_made_for_is_recorded_from_what_is_suggested(open_as):
    page = open_as(ODILE, "/verify")
    page.get_by_role("button", name="Suggest some").click()
    dialog = page.get_by_role("dialog", name="What roles were made for")
    dialog.get_by_label("Role", exact=True).select_option(label="Tenant editor")
    sentence = "Holders of Tenant editor may edit their own berth pages in Skerrow Harbour."
    dialog.get_by_role("button", name=f"Record: {sentence}").click()
    expect(dialog.get_by_text("their own berth pages")).to_have_count(0)
    dialog.get_by_role("button", name="Close").click()
    expect(page.get_by_role("row").filter(has_text=sentence)).to_be_visible()
