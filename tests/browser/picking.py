"""Choosing in the one picker there is: open it, type part of a name, take what is found."""

from playwright.sync_api import Locator, Page, expect


def pick(within: Page | Locator, field: str, words: str, name: str | None = None) -> None:
    """Choose in the field of a label, by keyboard: the first found, once the one wanted is among them."""
    within.get_by_role("button", name=field).click()
    page = within if isinstance(within, Page) else within.page
    popover = page.get_by_role("dialog", name="Choose a")
    popover.get_by_placeholder("Part of a name").fill(words)
    option = popover.get_by_role("option", name=name or words).first
    expect(option).to_be_visible()
    option.click()
    expect(popover).to_have_count(0)


def put_date(within: Page | Locator, field: str, written: str) -> None:
    """Type a date, "2099-06-30" or "2099-06-30T12:00", into the field of a label, part by part."""
    day, _, time = written.partition("T")
    year, month, of_month = day.split("-")
    group = within.get_by_role("group", name=field, exact=True)
    group.get_by_role("spinbutton").first.click()
    page = within if isinstance(within, Page) else within.page
    page.keyboard.type(of_month + month + year + time.replace(":", ""))
    expect(group).to_contain_text(f"{of_month}/{month}/{year}")
