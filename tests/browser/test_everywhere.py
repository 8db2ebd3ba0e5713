"""What holds on every view: axe finds nothing, small screens lose nothing, two processes agree."""

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import INES, ODILE
from tools.install import WEB

AXE = (WEB / "node_modules" / "axe-core" / "axe.min.js").read_text()

BESIDE = "side=account:tomasz&side=account:ines&node=p3-sail-loft"
VIEWS = {
    "sign in": (None, "/sign-in", "Gonfalon"),
    "define": (ODILE, "/define/tenant-editor?cell=event.edit", "Also given by"),
    "define, from the baseline": (ODILE, "/define/duty-editor?cell=event.see", "From the baseline"),
    "compare": (ODILE, "/define/compare?roles=tenant-editor,cafe-tenant,duty-editor", "Berth page · Retire"),
    "one capability": (ODILE, "/define/capability?cell=event.edit", "Harbour lead"),
    "kinds": (ODILE, "/define/kinds/berth", "As painted on the post"),
    "catalogue": (ODILE, "/define/catalogue", "Tables and figures"),
    "what is new": (ODILE, "/define/duty-editor?show=new", "Tide day"),
    "a results board": (ODILE, "/desk/results", "Search listing"),
    "assign": (ODILE, "/assign", "Adaeze Kallio"),
    "taking on": (ODILE, "/assign/new", "do what everybody may"),
    "groups": (ODILE, "/assign/groups/pier-3", "Members"),
    "requests": (ODILE, "/assign/requests/request-2", "What would do"),
    "reviews": (ODILE, "/assign/reviews/review-1", "Season crew"),
    "handing out": (ODILE, "/assign/handing-out", "to Volunteers"),
    "hand out": ("joost@regatta.example", "/hand-out", "You may give"),
    "mail": (ODILE, "/assign/mail", "Nothing was sent yet"),
    "on arrival": (ODILE, "/assign/arrival", "Will be asked"),
    "one’s own account": (INES, "/me", "Where you are signed in"),
    "a link that is over": (None, "/welcome#nothing", "This link is over"),
    "an account": (ODILE, "/assign/ines", "edits"),
    "limit": (ODILE, "/limit?role=duty-editor&node=museum", "Who can edit here"),
    "fields": (ODILE, "/limit?tab=fields", "Hazard level"),
    "all limits": (ODILE, "/limit?tab=all", "Shipyard museum"),
    "verify": (ODILE, "/verify", "Open day"),
    "sentences": (ODILE, "/verify?as=sentences", "1332 answers"),
    "report": (ODILE, "/verify/report", "Choose what the report is about"),
    "walk list": (ODILE, "/walk/walk-tenant-editor", "Asked to try it"),
    "ledger": (ODILE, "/ledger", "Returned Open day"),
    "desk": (INES, "/desk/p3-sail-loft", "Page fields"),
    "working copy": (INES, "/desk/p3-sail-loft?copy", "Page fields"),
    "start": ("tomasz@skerrow.example", "/desk", "Waits for you"),
    "waiting": ("tomasz@skerrow.example", "/desk/-/waiting", "who waits longest first"),
    "bin": (ODILE, "/desk/-/bin", "Nothing in here is on a site"),
    "people": (ODILE, "/desk/-/people?person=ines", "Telephone"),
    "what does not fit": (ODILE, "/define/season-intern?show=amiss", "The media section is closed"),
    "why": (ODILE, "/why?account=ines&action=publish&node=p3-sail-loft", "Those that reach least for others"),
    "side by side": (ODILE, f"/side-by-side?{BESIDE}&show=parts", "Its fields"),
    "a page twice": (ODILE, f"/side-by-side?{BESIDE}&show=page", "Stand in"),
    "a tree twice": (ODILE, f"/side-by-side?{BESIDE}&show=tree", "Fees and dues"),
    "a board twice": (ODILE, f"/side-by-side?{BESIDE}&show=board", "edit berth pages"),
    "topics": (ODILE, "/desk/-/topics", "Summer season"),
    "sites": (ODILE, "/desk/-/sites?site=harbour", "Line beneath every page"),
    "begin": (ODILE, "/begin", "Begin with a first site"),
    "a picture": (ODILE, "/desk/pic-sail-loft?tree=media", "Described in words"),
    "a page not there": (INES, "/desk/min-2026-10", "There is no such page"),
    "public site": (None, "/site/harbour/moorings", "In this section"),
}


def axe(page) -> list[str]:
    page.evaluate(AXE)
    found = page.evaluate("async () => (await axe.run()).violations")
    return [f"{v['id']}: {v['help']} at {[n['target'] for n in v['nodes']][:4]}" for v in found]


@pytest.mark.parametrize("view", VIEWS)
def test_axe_finds_nothing(open_as, view):
    email, path, text = VIEWS[view]
    page = open_as(email, path)
    expect(page.get_by_text(text).first).to_be_visible()
    assert axe(page) == []


def test_axe_finds_nothing_in_dialogs_and_while_standing_in(open_as):
    page = open_as(ODILE, "/define/tenant-editor?cell=event.edit")
    page.get_by_role("radio", name="Team").click()
    page.get_by_role("button", name="Review and apply").click()
    expect(page.get_by_role("dialog")).to_contain_text("account")
    page.get_by_role("button", name="11 accounts may now edit pages, one each").click()
    expect(page.get_by_text("Knot night: 11 accounts gain")).to_be_visible()
    page.get_by_role("button", name="Show who").click()
    expect(page.get_by_text("may edit pages").first).to_be_visible()
    assert axe(page) == []
    page.keyboard.press("Escape")
    for open_dialog in ("New role", "Find anything"):
        page.get_by_role("button", name=open_dialog).click()
        expect(page.get_by_role("dialog")).to_be_visible()
        assert axe(page) == []
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog")).to_have_count(0)
    page.goto("/desk/open-day")
    expect(page.get_by_role("treeitem", name="Open day")).to_be_visible()
    page.get_by_role("button", name="New", exact=True).click()
    expect(page.get_by_role("dialog")).to_contain_text("Title")
    assert axe(page) == []
    page.keyboard.press("Escape")
    for item, said in (("Move…", "What is beneath it"), ("Remove…", "can be brought back")):
        page.get_by_role("button", name="More", exact=True).click()
        page.get_by_role("menuitem", name=item, exact=True).click()
        expect(page.get_by_role("dialog")).to_contain_text(said)
        assert axe(page) == []
        page.keyboard.press("Escape")
    page.goto("/assign")
    page.get_by_role("button", name="Bring in a list").click()
    expect(page.get_by_role("dialog")).to_be_visible()
    assert axe(page) == []
    page.keyboard.press("Escape")
    page.get_by_role("checkbox", name="Choose Aiko Lindqvist").check()
    page.get_by_role("button", name="Into a group").click()
    assert axe(page) == []
    page.goto("/assign/ines")
    page.get_by_role("button", name="Give a role").click()
    expect(page.get_by_role("treeitem", name="Skerrow Harbour")).to_be_visible()
    assert axe(page) == []
    page.get_by_role("button", name="Role Choose a role").click()
    expect(page.get_by_role("option", name="Pilot")).to_be_visible()
    assert axe(page) == []
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Stand in", exact=True).click()
    expect(page.get_by_role("region", name="Standing in")).to_be_visible()
    page.goto("/desk/p3-sail-loft?xray=on")
    page.get_by_role("button", name="Publish").click()
    expect(page.get_by_text("The answer is")).to_be_visible()
    assert axe(page) == []
    page.keyboard.press("Escape")
    page.get_by_role("radio", name="Rehearse").click()
    page.get_by_label("Telephone").fill("0550 999 999")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("region", name="What was done here")).to_contain_text("Saved")
    assert axe(page) == []
    page.goto("/site/harbour/?xray=on")
    expect(page.get_by_role("complementary", name="Standing in")).to_be_visible()
    assert axe(page) == []


@pytest.mark.parametrize(
    "view", ["define", "an account", "groups", "requests", "reviews", "limit", "verify", "walk list", "ledger", "desk"]
)
def test_nothing_is_cut_off_at_1024(open_as, view):
    email, path, text = VIEWS[view]
    page = open_as(email, path)
    page.set_viewport_size({"width": 1024, "height": 768})
    expect(page.get_by_text(text).first).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth <= window.innerWidth")
    main = page.locator("main")
    cut = "m => [m, ...m.querySelectorAll('section, aside, nav')].filter(e => e.scrollWidth > e.clientWidth + 1).length"
    assert main.evaluate(cut) == 0, "something is wider than the room it has"


def test_signing_in_loads_no_editor_and_the_desk_does(open_as):
    page = open_as()

    def loaded() -> str:
        return " ".join(page.evaluate("performance.getEntriesByType('resource').map(({ name }) => name)"))

    expect(page.get_by_label("E-mail address")).to_be_visible()
    assert "/assets/base" in loaded()
    assert not any(f"/assets/{other}" in loaded() for other in ("vendor", "shared", "editor", "sentences", "Proof"))
    page = open_as(ODILE, "/desk/home-harbour")
    expect(page.locator('[role=treeitem][data-node="home-harbour"]')).to_be_visible()
    assert "/assets/editor" in loaded()
