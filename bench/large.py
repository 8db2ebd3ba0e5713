"""`python -m bench.large ADDRESS`: Define on the served large harbour, in a browser, in milliseconds."""

import os
import sys

from playwright.sync_api import Page, sync_playwright

from bench.__main__ import KEY, show, timed
from tools.screenshots import CHROMIUM, CHROMIUM_PATH, SIZE, sign_in

ROLES = ("role-3", "role-50", "role-120", "role-150", "role-20")
CELLS = ("page4.edit", "page7.remove", "page9.publish", "page3.see", "page11.history")
BASELINE = ("everyone", "signed-in")
"""Roles that everybody has: a cell of theirs may turn something for all 10,000 accounts."""
TOLD = """([does, where, words]) => new Promise(done => {
    const began = performance.now(), times = [];
    const told = word => [...document.querySelectorAll(where)].some(one => new RegExp(word).test(one.textContent));
    const watch = new MutationObserver(() => {
        while (times.length < words.length && told(words[times.length])) times.push(performance.now() - began);
        if (times.length < words.length) return;
        watch.disconnect();
        requestAnimationFrame(() => done(times));
    });
    watch.observe(document.body, {subtree: true, childList: true, characterData: true});
    if (does.button) [...document.querySelectorAll('button')].find(one => one.textContent === does.button).click();
    else document.querySelector(`[data-capability="${does.cell}"]`)
        .dispatchEvent(new KeyboardEvent('keydown', {key: does.key, bubbles: true}));
})"""
STEP = """key => new Promise(done => {
    const began = performance.now(), cell = document.activeElement;
    const moved = () => document.activeElement === cell
        ? requestAnimationFrame(moved)
        : done(performance.now() - began);
    cell.dispatchEvent(new KeyboardEvent('keydown', {key, bubbles: true}));
    requestAnimationFrame(moved);
})"""
IN_TRAY = ('[aria-label="Staged changes"]', "would break")
BEFORE_STAGED = ("[role=status]", "The baseline(?!.*Counting)", "The baseline(?!.*(Counting|working out))")
FIRST = 120_000
"""Milliseconds that the first answer of a server process may take, on a slow machine."""
PACE = 150
"""Milliseconds between two keys of somebody who types quickly."""
COMPARED = "/define/compare?roles=role-3,role-50,role-120,role-150"


def main(address: str) -> None:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM_PATH, args=CHROMIUM)
        page = browser.new_context(base_url=address, viewport=SIZE).new_page()
        page.set_default_timeout(FIRST)
        sign_in(page, "keeper@skerrow.example", os.environ["GONFALON_DEMO_PASSWORD"])
        for _ in range(4):  # both server processes read the policy and the tree once
            board(page, ROLES[0])
            impact(page, ROLES[0], "page1.edit")
        first = [told(page, role, "page2.publish", *BEFORE_STAGED)[0] for role in BASELINE * 2]
        show("whom a cell of the baseline would touch, first in a process", first)
        show("the board opens", [board(page, role) for role in ROLES])
        board(page, "role-7", "page4.move")
        page.locator('[data-capability="page4.move"]').click()
        key = KEY.replace("event.move", "page4.move")
        show("a key is answered, without a pause", [page.evaluate(key, each) for each in "ota" * 5])
        show("a key is answered, at the pace of a quick typist", [typed(page, key, each) for each in "ota" * 5])
        show("a step with an arrow, thirty without a pause", [page.evaluate(STEP, "ArrowDown") for _ in range(30)])
        page.get_by_role("button", name="Discard").click()
        for cell in CELLS:
            show(f"the impact of a staged {cell}", [impact(page, role, cell) for role in ROLES[1:4]])
        for cell in CELLS:
            touched, turning, staged = zip(*(proposed(page, role, cell) for role in BASELINE), strict=True)
            show(f"whom {cell} of the baseline would touch", touched)
            show("and what and where", turning)
            show("and once it is staged, from the button to the tray", staged)
        after_apply = [impact_after_apply(page, cell) for cell in CELLS]
        show("the impact of a staged cell right after something was applied", after_apply)
        after_publish = [impact_after_publish(page, cell) for cell in CELLS]
        show("the impact of a staged cell right after a page was published or retired", after_publish)
        page.goto("/verify")
        page.wait_for_load_state("networkidle")
        show("four roles are compared", [compared(page) for _ in range(5)])


def board(page: Page, role: str, cell: str = "page1.see") -> float:
    """From a link followed to the board drawn."""
    page.goto(f"/define/{'role-9' if role != 'role-9' else 'role-8'}")
    page.wait_for_load_state("networkidle")
    link = page.locator(f"nav a[href='/define/{role}']")
    link.scroll_into_view_if_needed()
    return timed(
        lambda: (link.click(), page.locator(f"[aria-label^='Board of'] [data-capability='{cell}']").first.wait_for())
    )


def typed(page: Page, script: str, key: str) -> float:
    page.wait_for_timeout(PACE)
    took: float = page.evaluate(script, key)
    return took


def impact(page: Page, role: str, cell: str) -> float:
    """From a key pressed to the tray that tells who gains and loses; the change is dropped again."""
    [took] = told(page, role, cell, *IN_TRAY)
    page.get_by_role("button", name="Discard").click()
    page.get_by_role("region", name="Staged changes").wait_for(state="detached")
    return took


def impact_after_apply(page: Page, cell: str) -> float:
    """The same where the policy has changed a moment ago. What was applied is undone."""
    told(page, ROLES[4], "page1.edit", *IN_TRAY)
    page.get_by_role("button", name="Review and apply").click()
    page.get_by_role("button", name="Apply 1 change").click()
    page.get_by_role("region", name="Just applied").wait_for()
    took = impact(page, ROLES[1], cell)
    page.goto("/ledger")
    with page.expect_response(lambda r: r.url.endswith("/undo")):
        page.get_by_role("button", name="Undo: ").first.click()
    return took


def impact_after_publish(page: Page, cell: str) -> float:
    """The same where a page was retired a moment ago, or published again."""
    address = "/api/desk/pages/n4"
    there = page.request.get(address)
    to = "retire" if there.json()["state"] == "published" else "publish"
    token = next(cookie["value"] for cookie in page.context.cookies() if cookie["name"] == "csrftoken")
    sent = {"X-CSRFToken": token, "If-Match": there.headers["etag"]}
    assert page.request.post(f"{address}/{to}", headers=sent).ok
    return impact(page, ROLES[1], cell)


def proposed(page: Page, role: str, cell: str) -> tuple[float, float, float]:
    """From a key pressed on the baseline to whom it touches, and what turns; staged, from the button to the tray."""
    touched, turning = told(page, role, cell, *BEFORE_STAGED)
    where, words = IN_TRAY
    [staged] = page.evaluate(TOLD, [{"button": "Stage 1 change"}, where, [words]])
    tray = page.locator(where)
    tray.get_by_role("button", name="Discard").click()
    tray.get_by_role("button", name="Review and apply").wait_for(state="detached")
    return touched, turning, staged


def told(page: Page, role: str, cell: str, where: str, *words: str) -> list[float]:
    """From a key pressed on a cell to each of some words in some place."""
    page.goto(f"/define/{role}?cell={cell}")
    page.wait_for_load_state("networkidle")
    page.locator(f'[data-capability="{cell}"]').click()
    says = page.locator(f'[data-capability="{cell}"] svg').get_attribute("data-hang")
    key = "t" if says == "all" else "a"
    took: list[float] = page.evaluate(TOLD, [{"cell": cell, "key": key}, where, words])
    return took


def compared(page: Page) -> float:
    page.goto("/ledger")
    page.wait_for_load_state("networkidle")
    return timed(lambda: (page.goto(COMPARED), page.get_by_role("columnheader").nth(3).wait_for()))


if __name__ == "__main__":
    main(sys.argv[1])
